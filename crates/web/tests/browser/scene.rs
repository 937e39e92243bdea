//! Scene on the bench: zones placed, curve, hue bands and a neutral picked, metering.

use amber_core::controls::Value;
use thirtyfour::prelude::*;

use crate::tuning::{UNDO, on_the_bench, value};

fn number(application: &crate::application::Application, id: i64, control: &str) -> f64 {
    value(application, id, control).and_then(|v| v.as_number()).unwrap_or(0.0)
}

#[tokio::test(flavor = "multi_thread")]
async fn zones_are_placed_by_dragging_keys_and_typing() {
    let (application, browser, id) = on_the_bench("station=scene").await;
    browser.until("document.getElementById('ag-zonesplaced').dataset.loaded === 'true'").await;
    let patch = browser.driver.find(By::Css("[data-patch='4']")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&patch).click_and_hold();
    drag.move_by_offset(20, 0).move_by_offset(10, 0).release().perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Zone IV')")).await;
    let moved = number(&application, id, "scene.zone.4");
    assert!(moved > 0.4, "{moved}");
    // neighbours follow half the way, others stay
    assert!((number(&application, id, "scene.zone.3") - moved / 2.0).abs() < 0.06);
    assert_eq!(number(&application, id, "scene.zone.2"), 0.0);
    browser.settled().await;

    // keys move one patch; with Shift its neighbours stay
    browser.driver.execute("document.querySelector('[data-patch=\"8\"]').focus()", Vec::new()).await.unwrap();
    browser
        .driver
        .action_chain()
        .key_down(Key::Shift)
        .send_keys(Key::Left + Key::Left)
        .key_up(Key::Shift)
        .perform()
        .await
        .unwrap();
    browser.until(&format!("{UNDO}.includes('Zone VIII \u{2212}0.10 EV')")).await;
    assert_eq!(number(&application, id, "scene.zone.9"), 0.0);

    // typed: as far as the neighbour lets it
    browser.driver.action_chain().send_keys(Key::Enter + "").perform().await.unwrap();
    browser.until("document.activeElement.closest('.ag-zonefield') !== null").await;
    browser.type_into(".ag-zonefield input", Key::Control + "a").await;
    browser.type_into(".ag-zonefield input", "-2" + Key::Enter).await;
    browser.until(&format!("{UNDO}.includes('Zone VIII \u{2212}1.00 EV')")).await;

    // a click on the picture lights the patch of its tone
    browser.settled().await;
    browser.until("document.getElementById('ag-canvas').dataset.plane !== undefined").await;
    browser.click("#ag-canvas").await;
    browser.until("document.querySelector('.ag-patch.ag-lit') !== null").await;

    // one undo is one step; what was changed lists the zones
    browser.click("[data-step=undo]").await;
    browser.until("document.querySelector('[data-zone=\"scene.zone.8\"]').dataset.value === '-0.1'").await;
    browser.type_into("#ag-canvas", "0").await;
    browser.until("document.querySelectorAll('.ag-changes [data-return^=\"scene.zone\"]').length === 4").await;
    browser.stop().await;
}

/// The axis is drawn as large as its height allows: in a wide window not as wide as its column.
#[tokio::test(flavor = "multi_thread")]
async fn a_patch_stays_under_the_pointer_in_a_wide_window() {
    let (_application, browser, _) = on_the_bench("station=scene").await;
    browser.sized(1920, 1080).await;
    browser.settled().await;
    browser.until("document.getElementById('ag-zonesplaced').dataset.loaded === 'true'").await;
    let middle = "(() => { const b = document.querySelector('[data-patch=\"4\"] rect').getBoundingClientRect(); \
                  return b.left + b.width / 2; })()";
    let start = browser.value(middle).await.as_f64().unwrap();
    let patch = browser.driver.find(By::Css("[data-patch='4']")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&patch).click_and_hold();
    drag.move_by_offset(30, 0).move_by_offset(30, 0).release().perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Zone IV')")).await;
    let moved = browser.value(middle).await.as_f64().unwrap() - start;
    // a step of 0.05 EV is 2 pixels
    assert!((moved - 60.0).abs() < 3.0, "moved by 60, the patch went {moved}");
    browser.stop().await;
}

/// Answers of the application arrive at once, what they hold is read when `window.letGo` is called.
const READS_LATE: &str = "(() => { const plain = window.fetch; \
    Object.assign(window, { asked: 0, readLate: 0 }); \
    const late = new Promise((go) => { window.letGo = () => { go(); return true; }; }); \
    window.fetch = async (path, ...more) => { \
      const answer = await plain(path, ...more); \
      if (!String(path).endsWith('/zones') && !String(path).endsWith('/ramp')) return answer; \
      for (const kind of ['json', 'text']) { \
        const read = answer[kind].bind(answer); \
        answer[kind] = async () => { \
          const held = await read(); \
          window.asked += 1; \
          await late; \
          window.readLate += 1; \
          return held; }; } \
      return answer; }; \
    return true; })()";

/// A drawing that comes when the bench has turned to another station finds no place, and nothing complains.
#[tokio::test(flavor = "multi_thread")]
async fn a_drawing_that_comes_late_is_let_go() {
    for (station, page, place) in [("scene", 1, "ag-zonesplaced"), ("tone", 2, "ag-ramp")] {
        let (_application, browser, _) = on_the_bench("station=lens").await;
        browser.value(READS_LATE).await;
        browser.click(&format!("#ag-stn-{station}")).await;
        browser.until(&format!("document.getElementById('ag-bench').dataset.station === '{station}'")).await;
        browser.click(&format!("button[data-page='{page}']")).await;
        browser.until("window.asked > 0").await;
        browser.click("#ag-stn-print").await;
        browser.until(&format!("document.getElementById('{place}') === null")).await;
        assert_eq!(browser.value("window.readLate").await, serde_json::json!(0), "{station}");
        browser.value("window.letGo()").await;
        browser.until("window.readLate > 0").await;
        browser.settled().await;
        browser.stop().await;
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn metering_is_looked_at_and_taken() {
    let (application, browser, id) = on_the_bench("station=scene").await;
    browser.type_into("#ag-canvas", "i").await;
    browser.until("document.querySelector('#ag-bench[data-metering]') !== null").await;
    browser.until("document.getElementById('ag-tag').textContent === 'As metered, not taken yet'").await;
    browser.settled().await;
    // every button can be read and reached
    let cut = "(() => { const b = document.getElementById('ag-bench').getBoundingClientRect(); \
               return [...document.querySelectorAll('.ag-buttons > *')].filter((e) => { \
                 const r = e.getBoundingClientRect(); return r.right > b.right || r.bottom > b.bottom; \
               }).map((e) => e.textContent.trim()); })()";
    assert_eq!(browser.value(cut).await, serde_json::json!([]));
    assert!(application.lab.library.frame(id).unwrap().summary.development.values.is_empty());
    browser.click("[data-metered=before]").await;
    browser.until("document.getElementById('ag-tag').textContent === 'As it is'").await;
    // left as it is
    browser.click("[data-metered=leave]").await;
    browser.until("document.getElementById('ag-zonesplaced') !== null").await;
    assert!(application.lab.library.frame(id).unwrap().summary.development.values.is_empty());
    // taken: one step
    browser.click("[data-meter]").await;
    browser.until("document.querySelector('[data-metered=take]') !== null").await;
    browser.click("[data-metered=take]").await;
    browser.until(&format!("{UNDO}.includes('Exposure')")).await;
    assert!(application.lab.library.frame(id).unwrap().summary.development.values.contains_key("scene.exposure"));
    browser.click("[data-step=undo]").await;
    browser.until("document.querySelector('[data-step=undo]').disabled").await;
    assert!(application.lab.library.frame(id).unwrap().summary.development.values.is_empty());
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn colours_are_picked_on_the_picture() {
    let (application, browser, id) = on_the_bench("station=scene&page=2").await;
    // a curve's end point lifted by its key
    browser
        .driver
        .execute("document.querySelector('[data-curve=\"scene.curve.master\"] [data-point=\"0\"]').focus()", Vec::new())
        .await
        .unwrap();
    browser.driver.action_chain().send_keys(Key::Up + Key::Up).perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Scene curve: Master')")).await;
    assert_eq!(value(&application, id, "scene.curve.master"), Some(Value::Curve(vec![[0.0, 2.0], [100.0, 100.0]])));
    browser.settled().await;

    // pressed and dragged: several bands, saturation and light
    browser.type_into("#ag-canvas", "h").await;
    let canvas = browser.driver.find(By::Id("ag-canvas")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    drag.move_by_offset(15, -10).move_by_offset(15, -10).perform().await.unwrap();
    browser.until("/saturation .* %, lightness .* EV/.test(document.getElementById('ag-tag').textContent)").await;
    browser.driver.action_chain().move_by_offset(1, 0).release().perform().await.unwrap();
    browser.until(&format!("/Saturation.*Lightness/.test({UNDO})")).await;
    let tuned = application.lab.library.frame(id).unwrap().summary.development.values;
    assert!(tuned.keys().any(|k| k.starts_with("scene.band.") && k.ends_with(".saturation")), "{tuned:?}");
    browser.type_into("#ag-canvas", "h").await;
    browser.settled().await;

    // a neutral: one press, temperature and tint, and the tool is laid down
    browser.type_into("#ag-canvas", "n").await;
    browser.until("document.getElementById('ag-canvas').classList.contains('ag-picking')").await;
    browser.click("#ag-canvas").await;
    browser.until(&format!("{UNDO}.includes('Temperature')")).await;
    browser.until("!document.getElementById('ag-canvas').classList.contains('ag-picking')").await;
    browser.stop().await;
}
