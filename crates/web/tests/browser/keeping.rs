//! Nothing that was shown is lost, and a picture always comes to rest.

use amber_core::controls::Value;
use thirtyfour::prelude::*;

use crate::application::{Application, picture};
use crate::driver::Browser;

const EXPOSURE: &str = "[id='track-scene.exposure']";

/// Two frames, the first on the bench at Scene.
async fn on_the_bench(application: &Application, browser: &Browser) -> [i64; 2] {
    let roll = application.lab.library.add_roll("Tour", 0).unwrap();
    let ids = ["a.jpg", "b.jpg"].map(|name| application.lab.import(roll, name, &picture(600, 400)).unwrap());
    browser.driver.goto(application.url(&format!("/frames/{}?station=scene", ids[0]))).await.unwrap();
    browser.settled().await;
    ids
}

fn exposure(application: &Application, frame: i64) -> Option<Value> {
    application.lab.library.frame(frame).unwrap().summary.development.values.get("scene.exposure").cloned()
}

#[tokio::test(flavor = "multi_thread")]
async fn a_step_by_key_is_kept_when_the_page_is_left_at_once() {
    let application = Application::start();
    let browser = Browser::start().await;
    let [first, second] = on_the_bench(&application, &browser).await;
    // to the next frame
    browser.type_into(EXPOSURE, Key::Up + Key::PageDown).await;
    browser.until(&format!("location.pathname === '/frames/{second}'")).await;
    assert!(exposure(&application, first).is_some(), "kept on the way to the next frame");
    // to the stocks
    browser.settled().await;
    browser.driver.goto(application.url(&format!("/frames/{second}?station=scene"))).await.unwrap();
    browser.settled().await;
    browser.type_into(EXPOSURE, Key::Up + "s").await;
    browser.until("document.getElementById('ag-board-page') !== null").await;
    assert!(exposure(&application, second).is_some(), "kept on the way to the stocks");
    // to another address, as a closed window
    browser.driver.goto(application.url(&format!("/frames/{first}?station=scene"))).await.unwrap();
    browser.settled().await;
    let before = exposure(&application, first);
    browser.type_into(EXPOSURE, Key::Up + "").await;
    browser.driver.goto(application.url("/rolls/1")).await.unwrap();
    for _ in 0..100 {
        if exposure(&application, first) != before {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    assert_ne!(exposure(&application, first), before, "kept when the window went");
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn undo_right_after_a_key_takes_that_step_back() {
    let application = Application::start();
    let browser = Browser::start().await;
    let [first, _] = on_the_bench(&application, &browser).await;
    browser.type_into(EXPOSURE, Key::Up + "").await;
    browser.until("document.querySelector('[data-step=undo]').title.includes('Exposure')").await;
    let kept = exposure(&application, first);
    browser.type_into(EXPOSURE, Key::Up + (Key::Control + "z")).await;
    browser.until("document.querySelector('[data-step=redo]').title.includes('Exposure')").await;
    assert_eq!(exposure(&application, first), kept, "the later step was undone, not the one before");
    // opening another station keeps what waits
    browser.type_into(EXPOSURE, Key::Up + "3").await;
    browser.until("document.getElementById('ag-bench').dataset.station === 'film'").await;
    assert_ne!(exposure(&application, first), kept);
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_drag_that_comes_back_or_is_given_up_settles() {
    let application = Application::start();
    let browser = Browser::start().await;
    let [first, _] = on_the_bench(&application, &browser).await;
    let revision = || application.lab.library.frame(first).unwrap().summary.revision;
    let track = browser.driver.find(By::Css(EXPOSURE)).await.unwrap();
    let there = browser.driver.action_chain().move_to_element_center(&track).click_and_hold().move_by_offset(40, 0);
    there.perform().await.unwrap();
    browser.until("document.getElementById('ag-canvas').dataset.settled === 'false'").await;
    browser.driver.action_chain().move_by_offset(-40, 0).release().perform().await.unwrap();
    browser.settled().await;
    assert_eq!((revision(), exposure(&application, first)), (0, None));
    // Escape gives the value back
    let there = browser.driver.action_chain().move_to_element_center(&track).click_and_hold().move_by_offset(40, 0);
    there.perform().await.unwrap();
    browser.until("document.getElementById('field-scene.exposure').value !== '0.00 EV'").await;
    let escape = "document.activeElement.dispatchEvent(new KeyboardEvent('keydown', \
                  { key: 'Escape', code: 'Escape', bubbles: true })) !== null";
    browser.value(escape).await;
    browser.until("document.getElementById('field-scene.exposure').value === '0.00 EV'").await;
    browser.driver.action_chain().release().perform().await.unwrap();
    browser.settled().await;
    assert_eq!((revision(), exposure(&application, first)), (0, None));
    // leaving the masks leaves no error behind: `stop` looks
    browser.type_into("#ag-canvas", "w").await;
    browser.until("document.getElementById('ag-bench').dataset.masks !== undefined").await;
    browser.type_into("#ag-canvas", "1").await;
    browser.until("document.getElementById('ag-bench').dataset.station === 'scene'").await;
    browser.stop().await;
}
