//! Look-in: the picture as it leaves each station, by keys and by the diamond.

use serde_json::json;
use thirtyfour::prelude::Key;

use crate::application::{Application, picture};
use crate::driver::Browser;

#[tokio::test(flavor = "multi_thread")]
async fn the_picture_is_seen_on_its_way() {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Look in", 0).unwrap();
    let frame = application.lab.import(roll, "quay.jpg", &picture(600, 400)).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/frames/{frame}?station=scene"))).await.unwrap();
    browser.settled().await;
    let print = browser.pixel(0.6, 0.4).await;
    browser.press("KeyL").await;
    browser.until("document.activeElement.id === 'ag-lookin'").await;
    browser.until("document.getElementById('ag-tag').textContent === 'After Years'").await;
    browser.settled().await;
    assert_eq!(browser.pixel(0.6, 0.4).await, print, "nothing lies on it");

    // to the film on the light table: with Shift it is there as it is, brown and turned round
    browser.type_into("#ag-lookin", Key::Left + Key::Left + Key::Left).await;
    browser.until("document.getElementById('ag-canvas').dataset.shown === 'after:bath'").await;
    browser.settled().await;
    let positive = browser.pixel(0.6, 0.4).await;
    let shift = |kind: &str| {
        format!(
            "document.getElementById('ag-lookin').dispatchEvent(new KeyboardEvent('{kind}', \
             {{ key: 'Shift', bubbles: true }})) || true"
        )
    };
    browser.value(&shift("keydown")).await;
    browser.until("document.getElementById('ag-canvas').dataset.shown === 'itself:bath'").await;
    browser.settled().await;
    let film = browser.pixel(0.6, 0.4).await;
    assert!(film[0] > film[1] && film[1] > film[2], "the mask is orange: {film:?}");
    assert_ne!(film, positive);
    browser.value(&shift("keyup")).await;
    browser.until("document.getElementById('ag-canvas').dataset.shown === 'after:bath'").await;
    browser.settled().await;

    // what is changed is still looked at on its way; Esc goes back to the end
    browser.type_into("[id='track-scene.exposure']", Key::End + "").await;
    browser.settled().await;
    assert_eq!(browser.value("document.getElementById('ag-canvas').dataset.shown").await, json!("after:bath"));
    assert_ne!(browser.pixel(0.6, 0.4).await, positive);
    browser.type_into("[id='track-scene.exposure']", Key::Backspace + Key::Escape).await;
    browser.until("document.getElementById('ag-lookin').ariaValueNow === '8'").await;
    browser.settled().await;
    browser.until("document.getElementById('ag-tag').hidden").await;
    browser.until("document.getElementById('ag-canvas').dataset.shown === 'developed'").await;
    assert_eq!(browser.pixel(0.6, 0.4).await, print);
    browser.stop().await;
}
