//! Sheets on the bench and on their board: laid, moved by their handles, taken off a face, mounted.

use amber_core::controls::Value;
use thirtyfour::prelude::*;

use crate::answers::{post, status};
use crate::application::Application;
use crate::tuning::{UNDO, on_the_bench, value};

fn number(application: &Application, id: i64, control: &str) -> f64 {
    let own = if control.ends_with(".order") { 50.0 } else { 0.0 };
    value(application, id, control).and_then(|v| v.as_number()).unwrap_or(own)
}

#[tokio::test(flavor = "multi_thread")]
async fn sheets_are_laid_on_their_board_and_switched_on_the_bench() {
    let (application, browser, id) = on_the_bench("station=surface").await;
    let clean = browser.pixel(0.3, 0.5).await;
    browser.type_into("#ag-canvas", "S").await;
    browser.until("document.querySelectorAll('[data-sheet-kind]').length >= 22").await;
    // every tile gets its picture
    browser.until("document.querySelectorAll('img.ag-waiting').length === 0").await;
    for (kind, letter) in [("burn", "A"), ("grunge", "B")] {
        browser.click(&format!("[data-sheet-kind={kind}]")).await;
        let tile = format!("document.querySelector('[data-sheet-kind={kind}]')");
        browser.until(&format!("{tile}.getAttribute('aria-pressed') === 'true'")).await;
        browser.until(&format!("{tile}.querySelector('.ag-letter').textContent === '{letter}'")).await;
    }
    browser.until("document.getElementById('ag-onit').textContent.startsWith('2 sheets')").await;
    assert_eq!(value(&application, id, "surface.sheet.1.kind"), Some(Value::Choice("burn".into())));
    browser.click("#ag-back").await;
    browser.until("document.querySelectorAll('[data-sheet]').length === 2").await;
    browser.settled().await;
    assert_ne!(browser.pixel(0.3, 0.5).await, clean);

    // the highest is chosen; the other one by a press, and its lamp
    let station = "document.getElementById('ag-bench').dataset.station";
    browser.until(&format!("{station} === 'surface:2'")).await;
    browser.click("[data-sheet-pick='1']").await;
    browser.until(&format!("{station} === 'surface:1'")).await;
    browser.until("document.getElementById('field-surface.sheet.1.amount') !== null").await;
    browser.click("[data-sheet-lamp='1']").await;
    browser.until("document.querySelector('[data-sheet-lamp=\"1\"]').getAttribute('aria-pressed') === 'false'").await;
    assert_eq!(value(&application, id, "surface.sheet.1.visible"), Some(Value::Switch(false)));

    // another accident, and laid higher by a key
    let seed = number(&application, id, "surface.sheet.1.seed");
    browser.click("[data-sheet-again='1']").await;
    browser.until(&format!("{UNDO}.includes('Accident')")).await;
    assert_ne!(number(&application, id, "surface.sheet.1.seed"), seed);
    browser.type_into("#sheet-1", Key::Alt + Key::Up).await;
    browser.until("document.querySelector('[data-sheet]').dataset.sheet === '1'").await;
    assert!(number(&application, id, "surface.sheet.1.order") > number(&application, id, "surface.sheet.2.order"));

    // taken off, and back by undo
    browser.click("[data-sheet-drop='2']").await;
    browser.until("document.querySelectorAll('[data-sheet]').length === 1").await;
    assert_eq!(value(&application, id, "surface.sheet.2.kind"), None);
    browser.click("[data-step=undo]").await;
    browser.until("document.querySelectorAll('[data-sheet]').length === 2").await;
    browser.stop().await;
}

/// A picture of one's own as a PNG: its left half clear.
fn half_clear() -> Vec<u8> {
    let row = [[230, 20, 20, 0].repeat(30), [230, 20, 20, 255].repeat(30)].concat();
    amber_files::write::png_with_cover(&row.repeat(40), 60, 40).unwrap()
}

fn uploaded(application: &Application, name: &str, bytes: &[u8]) -> String {
    let head = format!("--cut\r\nContent-Disposition: form-data; name=\"file\"; filename=\"{name}\"\r\n\r\n");
    let whole = [head.as_bytes(), bytes, b"\r\n--cut--\r\n"].concat();
    post(application, "/pictures", "multipart/form-data; boundary=cut", &whole)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_picture_of_ones_own_is_moved_by_its_handles() {
    let (application, browser, id) = on_the_bench("station=surface").await;
    let answer = uploaded(&application, "red-half.png", &half_clear());
    assert_eq!(status(&answer), "201", "{answer}");
    assert_eq!(status(&uploaded(&application, "text.png", b"no picture")), "422");
    let kept = application.lab.library.kept_pictures().unwrap();
    let [picture] = kept.as_slice() else { panic!("{kept:?}") };
    assert_eq!((picture.name.as_str(), picture.width, picture.height), ("Red half", 60, 40));
    let kind = format!("own:{}", picture.hash);
    let frame = application.lab.library.frame(id).unwrap();
    application.lab.lay_sheet(id, frame.summary.revision, &kind, true).unwrap();
    browser.driver.refresh().await.unwrap();
    browser.until("document.querySelectorAll('[data-sheet]').length === 1").await;
    browser.settled().await;
    let red = |pixel: &[i64]| pixel[0] > 180 && pixel[1] < 60;
    assert!(red(&browser.pixel(0.6, 0.6).await) && !red(&browser.pixel(0.4, 0.6).await));

    // dragged to the left by its middle: the red comes along, values and undo with it
    let canvas = browser.driver.find(By::Id("ag-canvas")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    drag.move_by_offset(-60, 0).move_by_offset(-60, 0).release().perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Across')")).await;
    browser.settled().await;
    let across = number(&application, id, "surface.sheet.1.x");
    assert!((-40.0..-5.0).contains(&across), "{across}");
    assert!(red(&browser.pixel(0.45, 0.6).await));
    browser.until("document.querySelector('.ag-warn')?.textContent.includes('edge')").await;

    // while it lies on a frame it is not deleted, and a sentence says where it lies
    let refused = application.lab.library.delete_picture(&picture.hash).unwrap_err().to_string();
    assert!(refused.contains("'Red half' lies on"), "{refused}");

    // a brush that takes it off: a mask of its own with a brush of half strength
    browser.click("[data-sheet-brush='1']").await;
    browser.until("document.querySelector('[data-part-kind=brush]') !== null").await;
    assert_eq!(value(&application, id, "surface.sheet.1.mask"), Some(Value::Choice("not 1".into())));
    browser.until("document.getElementById('field-mask.brush.strength').value.startsWith('50')").await;
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_mount_is_seen_round_the_picture() {
    let (application, browser, id) = on_the_bench("station=surface&page=2").await;
    let zoom = "parseFloat(document.getElementById('ag-zoom').textContent)";
    let before = browser.value(zoom).await.as_f64().unwrap();
    browser.choose("[data-list=\"surface.mount.kind\"]", "border").await;
    browser.until(&format!("{UNDO}.includes('Mount')")).await;
    browser.until(&format!("{zoom} < {before}")).await;
    browser.settled().await;
    assert_eq!(value(&application, id, "surface.mount.kind"), Some(Value::Choice("border".into())));
    // white paper above the picture, in the middle of the canvas
    let paper = "(() => { const c = document.getElementById('ag-canvas'); const g = c.getContext('2d'); \
        for (let y = 0; y < c.height / 2; y++) { const p = g.getImageData(c.width / 2, y, 1, 1).data; \
        if (p[0] > 235 && p[1] > 235 && p[2] > 225 && p[3] === 255) return true; } return false; })()";
    browser.until(paper).await;
    browser.stop().await;
}
