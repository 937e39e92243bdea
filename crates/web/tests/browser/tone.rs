//! Tone and Years on the bench: baths in their sequence, the ramp, a colour typed, years that fade.

use amber_core::controls::Value;
use thirtyfour::prelude::*;

use crate::tuning::{UNDO, on_the_bench, value};

#[tokio::test(flavor = "multi_thread")]
async fn baths_are_taken_reordered_and_taken_away() {
    let (application, browser, id) = on_the_bench("station=film").await;
    browser.type_into("#ag-canvas", "s").await;
    browser.until("document.getElementById('tile-alder') !== null").await;
    browser.type_into("#tile-alder", Key::Enter + "").await;
    browser
        .until(
            "document.getElementById('ag-plate')?.innerText.includes('Alder') && \
        document.getElementById('ag-canvas') !== null",
        )
        .await;
    browser.settled().await;
    browser.type_into("#ag-canvas", "6").await;
    browser.until("document.querySelector('[data-tone=crossed]') !== null").await;
    let grey = browser.pixel(0.5, 0.5).await;
    browser.click("[data-tone=crossed]").await;
    browser.until("document.querySelectorAll('.ag-bath').length === 2").await;
    browser.settled().await;
    assert_eq!(value(&application, id, "tone.bath.1.toner"), Some(Value::Choice("sepia".into())));
    assert_eq!(value(&application, id, "tone.bath.2.time"), Some(Value::Number(90.0)));
    let toned = browser.pixel(0.5, 0.5).await;
    assert!(toned[0] - toned[2] > grey[0] - grey[2] + 8, "{grey:?} {toned:?}");

    // beside the picture, where it is narrow, all of their words can be read
    browser.press("KeyB").await;
    browser.until("document.getElementById('ag-app').classList.contains('ag-beside')").await;
    let cut = "(() => { const b = document.getElementById('ag-bench'); \
               const right = b.getBoundingClientRect().left + b.clientWidth; \
               return [...b.querySelectorAll('.ag-chips button, .ag-bath label')] \
                 .filter((e) => e.getBoundingClientRect().right > right || e.scrollWidth > e.clientWidth) \
                 .map((e) => e.textContent.trim()); })()";
    assert_eq!(browser.value(cut).await, serde_json::json!([]));
    browser.press("KeyB").await;
    browser.settled().await;

    // the second bath first, by its button; then dragged back by its number
    browser.click("[data-bath-up='2']").await;
    browser.until("document.querySelector('.ag-bath').dataset.bath === '2'").await;
    assert_eq!(value(&application, id, "tone.bath.2.place"), Some(Value::Number(1.0)));
    let grip = browser.driver.find(By::Css("[data-bath='2'] .ag-grip")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&grip).click_and_hold();
    drag.move_by_offset(0, 16).move_by_offset(0, 16).release().perform().await.unwrap();
    browser.until("document.querySelector('.ag-bath').dataset.bath === '1'").await;

    // the station draws the ramp; no tone is one step
    browser.until("document.querySelectorAll('#ag-stn-tone svg rect').length > 20").await;
    browser.click("[data-tone=none]").await;
    browser.until("document.querySelectorAll('.ag-bath').length === 0").await;
    browser.settled().await;
    assert_eq!(value(&application, id, "tone.bath.1.toner"), None);
    browser.click("[data-step=undo]").await;
    browser.until("document.querySelectorAll('.ag-bath').length === 2").await;
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn four_tones_are_placed_on_the_ramp_and_coloured() {
    let (application, browser, id) = on_the_bench("station=tone&page=2").await;
    browser.until("document.getElementById('ag-ramp').dataset.loaded === 'true'").await;
    browser.type_into("[id='field-tone.four.strength']", Key::Control + "a").await;
    browser.type_into("[id='field-tone.four.strength']", "100" + Key::Enter).await;
    browser.until(&format!("{UNDO}.includes('Four tones')")).await;
    browser.settled().await;
    let handle = browser.driver.find(By::Css("[data-place='2']")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&handle).click_and_hold();
    drag.move_by_offset(20, 0).move_by_offset(20, 0).release().perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Place: Tone 2')")).await;
    let Some(Value::Number(place)) = value(&application, id, "tone.four.2.place") else { panic!() };
    assert!((42.0..70.0).contains(&place), "{place}");

    // typed; what is no colour is put back
    browser.click("[data-column='tone.four-tones'] [data-tab=Colour]").await;
    let hex = "[id='hex-tone.four.3.colour']";
    browser.type_into(hex, Key::Control + "a").await;
    browser.type_into(hex, "#20c040" + Key::Tab).await;
    browser.until(&format!("{UNDO}.includes('Colour: Tone 3')")).await;
    assert_eq!(value(&application, id, "tone.four.3.colour"), Some(Value::Choice("#20c040".into())));
    browser.type_into(hex, Key::Control + "a").await;
    browser.type_into(hex, "grass" + Key::Tab).await;
    browser.until("document.getElementById('hex-tone.four.3.colour').value === '#20c040'").await;
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn years_fade_the_picture() {
    let (application, browser, id) = on_the_bench("station=film").await;
    browser.type_into("#ag-canvas", "7").await;
    browser.until("document.getElementById('field-years.age') !== null").await;
    let fresh = browser.pixel(0.5, 0.5).await;
    browser.type_into("[id='field-years.age']", Key::Control + "a").await;
    browser.type_into("[id='field-years.age']", "60 years" + Key::Enter).await;
    browser.until(&format!("{UNDO}.includes('Age 60 years')")).await;
    browser.settled().await;
    let drawer = browser.pixel(0.5, 0.5).await;
    browser.click("[data-choice='years.storage'] [data-option=wall]").await;
    browser.until(&format!("{UNDO}.includes('Kept in Wall')")).await;
    browser.settled().await;
    let wall = browser.pixel(0.5, 0.5).await;
    // red over blue: the drawer turns it red, the wall does not
    assert!(drawer[0] - drawer[2] > fresh[0] - fresh[2] + 5, "{fresh:?} {drawer:?}");
    assert!(wall[0] - wall[1] < drawer[0] - drawer[1], "{drawer:?} {wall:?}");
    assert_eq!(value(&application, id, "years.age"), Some(Value::Number(60.0)));
    browser.stop().await;
}
