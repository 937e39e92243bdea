//! Lens on the bench: format, a middle dragged on the picture, the crop moved, a horizon levelled.

use amber_core::controls::Value;
use thirtyfour::prelude::*;

use crate::tuning::{UNDO, on_the_bench, value};

#[tokio::test(flavor = "multi_thread")]
async fn the_picture_is_framed_by_hand() {
    let (application, browser, id) = on_the_bench("station=lens").await;
    let zoom = browser.value("document.getElementById('ag-zoom').textContent").await;
    browser.choose("[data-list=\"lens.format\"]", "1x1").await;
    browser.until(&format!("{UNDO}.includes('Format 1:1')")).await;
    browser.settled().await;
    // a square of 600 x 600: the surround shows at the sides
    assert_eq!(browser.value("document.getElementById('ag-zoom').textContent").await, zoom);
    assert_eq!(browser.pixel(0.05, 0.5).await[3], 0);

    // moved under the frame
    let canvas = browser.driver.find(By::Id("ag-canvas")).await.unwrap();
    browser.type_into("#ag-canvas", "c").await;
    let drag = browser.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    drag.move_by_offset(-20, 0).move_by_offset(-20, 0).release().perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Across +')")).await;
    browser.type_into("#ag-canvas", "c").await;

    // levelled by a line
    browser.type_into("#ag-canvas", "a").await;
    let drag = browser.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    drag.move_by_offset(60, 3).move_by_offset(60, 3).release().perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Straighten +2.9 °')")).await;
    browser.type_into("#ag-canvas", "a").await;
    browser.settled().await;
    assert_eq!(value(&application, id, "lens.straighten"), Some(Value::Number(2.9)));

    // undone, the frame is there as before
    for undone in ["Straighten", "Across", "Format"] {
        browser.until(&format!("{UNDO}.includes('{undone}')")).await;
        browser.click("[data-step=undo]").await;
    }
    browser.until("document.querySelector('[data-step=undo]').disabled").await;
    browser.settled().await;
    assert_eq!(browser.value("document.getElementById('ag-zoom').textContent").await, zoom);
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_middle_is_dragged_on_the_picture() {
    let (application, browser, id) = on_the_bench("station=lens&page=2").await;
    browser.type_into("[id='field-lens.falloff.stops']", Key::Control + "a").await;
    browser.type_into("[id='field-lens.falloff.stops']", "-2" + Key::Enter).await;
    browser.until(&format!("{UNDO}.includes('Falloff')")).await;
    browser.click("[data-column='lens.middle'] [data-tab=Falloff]").await;
    browser.settled().await;
    let before = browser.pixel(0.3, 0.5).await;
    browser.type_into("#ag-canvas", "p").await;
    let canvas = browser.driver.find(By::Id("ag-canvas")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    drag.move_by_offset(80, 40).move_by_offset(60, 20).release().perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Falloff: Across, Falloff: Down')")).await;
    browser.type_into("#ag-canvas", "p").await;
    browser.settled().await;
    let Some(Value::Number(across)) = value(&application, id, "lens.falloff.x") else { panic!() };
    assert!((25.0..60.0).contains(&across), "{across}");
    let after = browser.pixel(0.3, 0.5).await;
    assert!(after[1] < before[1], "the left is darker now: {before:?} {after:?}");
    browser.stop().await;
}

/// A corner of the frame is dragged: the corner across stays where it is on the picture.
#[tokio::test(flavor = "multi_thread")]
async fn a_corner_of_the_frame_is_dragged() {
    let (application, browser, id) = on_the_bench("station=lens").await;
    browser.type_into("#ag-canvas", "c").await;
    let box_of = "(() => { const c = document.getElementById('ag-canvas').getBoundingClientRect(); \
        const k = Math.min((c.width - 24) / 900, (c.height - 24) / 600, 1); return [900 * k, 600 * k]; })()";
    let size = browser.value(box_of).await;
    let (w, h) = (size[0].as_f64().unwrap(), size[1].as_f64().unwrap());
    let canvas = browser.driver.find(By::Id("ag-canvas")).await.unwrap();
    let to_corner = browser.driver.action_chain().move_to_element_center(&canvas);
    let to_corner = to_corner.move_by_offset((w / 2.0) as i64, (h / 2.0) as i64).click_and_hold();
    let (x, y) = ((w / 4.0) as i64, (h / 4.0) as i64);
    to_corner.move_by_offset(-x, -y).move_by_offset(-x, -y).release().perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Size')")).await;
    browser.settled().await;
    let number = |control: &str| value(&application, id, control).and_then(|v| v.as_number()).unwrap_or(0.0);
    assert!((number("lens.crop.size") - 50.0).abs() < 2.0, "{}", number("lens.crop.size"));
    assert_eq!((number("lens.crop.x"), number("lens.crop.y")), (-100.0, -100.0), "the upper left stays");
    browser.stop().await;
}
