//! The test strip and the ring-around.

use amber_core::controls::Value as Setting;
use amber_lab::ViewRequest;
use serde_json::json;
use thirtyfour::prelude::Key;

use crate::application::{Application, picture};
use crate::driver::Browser;

const READY: &str = "document.getElementById('ag-strip').dataset.ready === 'true'";

#[tokio::test(flavor = "multi_thread")]
async fn a_band_is_taken_as_one_step() {
    let application = Application::start();
    let library = &application.lab.library;
    let roll = library.add_roll("Strip", 0).unwrap();
    let frame = application.lab.import(roll, "quay.jpg", &picture(600, 400)).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/frames/{frame}?station=print"))).await.unwrap();
    browser.settled().await;
    browser.type_into("[id='track-print.exposure']", "t").await;
    browser.until(READY).await;
    let bands = "[...document.querySelectorAll('.ag-band')].map((b) => b.textContent)";
    let captions = ["\u{2212}0.75", "\u{2212}0.50", "\u{2212}0.25", "0.00", "+0.25", "+0.50", "+0.75"];
    let said = |now: usize| -> Vec<String> {
        let caption = |(i, c): (usize, &&str)| format!("{c} EV{}", if i == now { " (now)" } else { "" });
        captions.iter().enumerate().map(caption).collect()
    };
    assert_eq!(browser.value(bands).await, json!(said(3)));

    // every band is what a render with its value shows there
    browser.settled().await;
    let [left, top, w, h] = {
        let found = browser
            .value(
                "(() => { const c = document.getElementById('ag-canvas').getBoundingClientRect(); \
                 const s = Math.min((c.width - 68) / 600, (c.height - 68) / 400, 1); \
                 return [(c.width - 600 * s) / 2, (c.height - 400 * s) / 2, 600 * s, 400 * s, c.width, c.height]; })()",
            )
            .await;
        let n = |k: usize| found[k].as_f64().unwrap();
        [n(0) / n(4), n(1) / n(5), n(2) / n(4), n(3) / n(5)]
    };
    let development = library.frame(frame).unwrap().summary.development;
    for (i, stops) in [-0.75, 0.0, 0.75].into_iter().enumerate() {
        let place = [(3.0 * i as f64 + 0.5) / 7.0, 0.5];
        let mut other = development.clone();
        other.values.insert("print.exposure".into(), Setting::Number(stops));
        let whole = application.lab.view(&ViewRequest::whole(frame, other)).unwrap();
        let (whole, _, _) = amber_files::plain::decoded(&whole.bytes).unwrap();
        let at = 3 * ((place[1] * 400.0) as usize * 600 + (place[0] * 600.0) as usize);
        let wanted = &whole[at..at + 3];
        let shown = browser.pixel(left + place[0] * w, top + place[1] * h).await;
        let far = (0..3).map(|k| (i64::from(wanted[k]) - shown[k]).abs()).max().unwrap();
        assert!(far < 24, "band of {stops}: {shown:?}, {wanted:?}");
    }

    // finer round the pick; its keys are the mode's own; taken by Enter as one step
    browser.type_into("#ag-strip-bands", Key::Right + "f").await;
    browser.until(READY).await;
    assert_eq!(browser.value("document.querySelectorAll('.ag-band').length").await, json!(7));
    browser.until("document.querySelector('.ag-band[aria-selected=true]').textContent === '+0.25 EV'").await;
    browser.type_into("#ag-strip-bands", Key::Right + Key::Enter).await;
    browser
        .until("document.querySelector('#ag-undo [data-step=undo]').title.includes('Print exposure +0.40 EV')")
        .await;
    let now = || library.frame(frame).unwrap().summary;
    assert_eq!((now().revision, now().development.values["print.exposure"].clone()), (1, Setting::Number(0.4)));
    browser.until("document.activeElement.id === 'track-print.exposure'").await;

    // a ring of filtration by keys alone, taken by a press on a cell of the picture
    browser.type_into("#ag-canvas", "T").await;
    browser.until(READY).await;
    browser.until("document.getElementById('ag-strip-title').textContent === 'Ring-around'").await;
    browser.until("document.querySelectorAll('.ag-band').length === 9").await;
    browser.click("[data-strip-count='25']").await;
    browser.until("document.querySelectorAll('.ag-band').length === 25").await;
    browser.until(READY).await;
    browser.click("[data-band='6']").await;
    browser.until("document.getElementById('ag-strip').hidden").await;
    browser.until("document.querySelector('#ag-undo [data-step=undo]').title.includes('Magenta, Yellow')").await;
    assert_eq!(now().revision, 2);

    // left, nothing is kept
    browser.type_into("[id='track-print.exposure']", "t").await;
    browser.until(READY).await;
    browser.type_into("#ag-strip-bands", Key::Right + Key::Escape).await;
    browser.until("document.getElementById('ag-strip').hidden").await;
    assert_eq!(now().revision, 2);
    browser.settled().await;
    browser.stop().await;
}
