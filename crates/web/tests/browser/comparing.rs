//! Comparing: held, divided, side by side; proofs kept, named, taken back, dropped; the log.

use amber_core::controls::Value as Setting;
use amber_lab::{Against, ViewRequest};
use serde_json::json;
use thirtyfour::prelude::Key;

use crate::application::{Application, picture};
use crate::driver::Browser;

const OTHER_SETTLED: &str = "document.getElementById('ag-other').dataset.settled === 'true'";

async fn names(browser: &Browser) -> serde_json::Value {
    browser.value("[...document.querySelectorAll('button[data-print]')].map((p) => p.dataset.name)").await
}

#[tokio::test(flavor = "multi_thread")]
async fn versions_stand_beside_one_another_byte_for_byte() {
    let application = Application::start();
    let library = &application.lab.library;
    let roll = library.add_roll("Compare", 0).unwrap();
    let frame = application.lab.import(roll, "quay.jpg", &picture(1200, 800)).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/frames/{frame}?station=print"))).await.unwrap();
    browser.settled().await;
    browser.type_into("[id='field-print.exposure']", Key::Control + "a").await;
    browser.type_into("[id='field-print.exposure']", "0.5" + Key::Enter).await;

    // a proof is what is kept: the step that is on its way comes first
    browser.press("KeyK").await;
    browser.until("document.querySelector('[data-print=\"proof:1\"]') !== null").await;
    assert_eq!(names(&browser).await, json!(["Original", "Plover", "Proof 1"]));
    let kept = library.proof(frame, 1).unwrap().development;
    assert_eq!(kept.values["print.exposure"], Setting::Number(0.5));
    browser.type_into("[id='field-print.exposure']", Key::Control + "a").await;
    browser.type_into("[id='field-print.exposure']", "-0.5" + Key::Enter).await;

    // divided against the proof: the line is moved by keys, and both sides are the very bytes
    browser.click("[data-print='proof:1']").await;
    browser.press("KeyD").await;
    browser.until("document.activeElement.id === 'ag-divide'").await;
    browser.until(OTHER_SETTLED).await;
    browser.settled().await;
    // the line moves over pictures that are there: none is asked for again
    let views = "performance.getEntriesByType('resource').filter((e) => e.name.endsWith('/view')).length";
    let asked = browser.value(views).await;
    browser.type_into("#ag-divide", Key::Right + (Key::Control + Key::Right)).await;
    assert_eq!(browser.value(views).await, asked);
    assert_eq!(browser.value("document.getElementById('ag-divide').ariaValueNow").await, json!("61"));
    browser.press("KeyZ").await;
    browser.until("document.getElementById('ag-other').dataset.level === '0'").await;
    browser.settled().await;
    browser.until(OTHER_SETTLED).await;
    let now = library.frame(frame).unwrap();
    let version = |against| application.lab.against(&now, &now.summary.development, against).unwrap();
    let whole = |development| ViewRequest::whole(frame, development);
    browser.shows_exactly("ag-canvas", &application.lab, whole(now.summary.development.clone())).await;
    browser.shows_exactly("ag-other", &application.lab, whole(version(Against::Proof(1)))).await;
    let clipped = "getComputedStyle(document.getElementById('ag-otherpane')).clipPath";
    assert!(browser.value(clipped).await.as_str().unwrap().contains("39%"));

    // level, then off; side by side against the stock, moved together
    browser.press("KeyD").await;
    assert_eq!(browser.value("document.getElementById('ag-divide').ariaOrientation").await, json!("vertical"));
    browser.press("KeyD").await;
    browser.until("document.getElementById('ag-otherpane').hidden").await;
    browser.click("[data-print=stock]").await;
    browser.press("Shift+KeyD").await;
    browser.type_into("#ag-canvas", Key::Right + Key::Down).await;
    browser.until(OTHER_SETTLED).await;
    browser.settled().await;
    browser.until("document.getElementById('ag-other').dataset.shown === 'stock'").await;
    browser.shows_exactly("ag-other", &application.lab, whole(version(Against::Stock))).await;
    browser.shows_exactly("ag-canvas", &application.lab, whole(now.summary.development.clone())).await;

    // the proof on the picture's own side: any two are compared; a change shows what is changed again
    let shifted = "document.querySelector('[data-print=\"proof:1\"]') \
                   .dispatchEvent(new MouseEvent('click', { bubbles: true, shiftKey: true }))";
    browser.value(shifted).await;
    browser.until("document.getElementById('ag-heretag').textContent === 'Proof 1'").await;
    browser.settled().await;
    browser.until("document.getElementById('ag-canvas').dataset.shown === 'proof:1'").await;
    browser.shows_exactly("ag-canvas", &application.lab, whole(version(Against::Proof(1)))).await;
    browser.press("Escape").await;
    browser.until("document.getElementById('ag-heretag').hidden").await;

    // another frame hangs beside it
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn proofs_and_the_log_lead_back() {
    let application = Application::start();
    let library = &application.lab.library;
    let roll = library.add_roll("Proofs", 0).unwrap();
    let frame = application.lab.import(roll, "quay.jpg", &picture(600, 400)).unwrap();
    let other = application.lab.import(roll, "tower.jpg", &picture(400, 600)).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/frames/{frame}?station=film&page=2"))).await.unwrap();
    browser.settled().await;
    browser.press("KeyK").await;
    browser.until("document.querySelector('[data-print=\"proof:1\"]') !== null").await;
    browser.type_into("[id='track-film.grain.size']", Key::End + "").await;
    browser.until("document.querySelector('#ag-undo [data-step=undo]').title.includes('Size')").await;
    browser.press("Shift+Digit6").await;
    browser.until("document.querySelector('#ag-undo [data-step=undo]').title.includes('Tone off')").await;

    // named, and taken back: a step like any other
    browser.click("[data-print='proof:1']").await;
    browser.click("[data-proof='1'] [data-proof-act=name]").await;
    browser.type_into("[data-proof='1'] input", "Plain" + Key::Enter).await;
    browser.until("document.querySelector('[data-print=\"proof:1\"]')?.dataset.name === 'Plain'").await;
    browser.click("[data-proof='1'] [data-proof-act=take]").await;
    browser.until("document.querySelector('#ag-undo [data-step=undo]').title.includes('Plain taken back')").await;
    let now = || library.frame(frame).unwrap().summary.development;
    assert!(now().values.is_empty() && now().off.is_empty());

    // the log: every step under its station, and any of them is one press away
    browser.press("KeyY").await;
    browser.until("document.querySelectorAll('.ag-logstep').length === 4").await;
    let steps = "[...document.querySelectorAll('.ag-logrun')].map((r) => r.innerText.replace(/\\s+/g, ' ').trim())";
    let said = browser.value(steps).await;
    let said: Vec<&str> = said.as_array().unwrap().iter().map(|s| s.as_str().unwrap()).collect();
    assert!(said[0].ends_with("Plain taken back") && said[1] == "6 Tone Tone off", "{said:?}");
    assert!(said[2].starts_with("3 Film Size 25.0") && said[3].ends_with("Loaded"), "{said:?}");
    browser.click("[data-goto='2']").await;
    browser.until("document.querySelector('[data-goto=\"2\"]')?.ariaCurrent === 'step'").await;
    assert!(now().off.contains("tone") && now().values.len() == 1);
    browser.until("document.querySelector('[data-goto=\"3\"].ag-ahead') !== null").await;

    // dropped, with the way back; a frame of the roll hangs beside
    browser.type_into("[data-print='proof:1']", Key::Delete + "").await;
    browser.until("document.querySelector('[data-print=\"proof:1\"]') === null").await;
    browser.click("#ag-messages .ag-toastbar button").await;
    browser.until("document.querySelector('[data-print=\"proof:1\"]') !== null").await;
    browser.click("[data-bs-target='#ag-frames']").await;
    browser.until("document.getElementById('ag-frames').classList.contains('show')").await;
    browser.click(&format!("[data-against='{other}']")).await;
    browser.until("document.getElementById('ag-easel').dataset.compare === 'side'").await;
    browser.until(OTHER_SETTLED).await;
    browser.until("document.getElementById('ag-othertag').textContent === 'Tower'").await;
    // each frame is fitted for itself where their shapes differ; the line divides the stage
    browser.press("KeyD").await;
    browser.until("document.getElementById('ag-easel').dataset.compare === 'divide'").await;
    browser.until(OTHER_SETTLED).await;
    browser.settled().await;
    browser.stop().await;
}
