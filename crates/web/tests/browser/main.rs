//! The real interface in headless Chromium, and the rules of who may talk to it.

mod accessible;
mod answers;
mod application;
mod comparing;
mod delivery;
mod driver;
mod keeping;
mod lens;
mod looking;
mod looking_in;
mod masks;
mod matching;
mod roll;
mod room;
mod scene;
mod sheets;
mod stocks;
mod strip;
mod switching;
mod tone;
mod tuning;

use amber_core::controls::Value;
use amber_lab::{Pass, Shown, ViewRequest};
use application::{Application, UPLOAD_BYTES, picture};
use driver::Browser;
use thirtyfour::prelude::*;

/// A photographer's way from an empty roll to an exported file.
#[tokio::test(flavor = "multi_thread")]
async fn from_an_empty_roll_to_a_file() {
    let application = Application::start();
    let folder = application.folder.path();
    let good = folder.join("hill-road.jpg");
    let bad = folder.join("notes.jpg");
    std::fs::write(&good, picture(1200, 800)).unwrap();
    std::fs::write(&bad, "not a picture at all").unwrap();
    let browser = Browser::start().await;

    // the roll: a file that is no picture gets a sentence, the picture gets a frame
    browser.driver.goto(application.url("/")).await.unwrap();
    browser.until("!document.getElementById('ag-empty').hidden").await;
    browser.type_into("#ag-files", format!("{}\n{}", bad.display(), good.display())).await;
    browser.until("document.querySelectorAll('.ag-frame').length === 1").await;
    browser.until("document.body.innerText.includes('not a picture that Amber Grain reads')").await;
    assert_eq!(application.lab.library.frames(1).unwrap()[0].name, "Hill road");

    // the bench: the picture is there, fitted
    browser.type_into("#ag-contact", Key::Enter + "").await;
    browser.until("document.getElementById('ag-canvas') !== null").await;
    browser.settled().await;
    let plover = browser.pixel(0.5, 0.5).await;
    assert_eq!(plover[3], 255, "something is drawn");

    // another stock: black and white is grey
    browser.type_into("#ag-canvas", "s").await;
    browser.until("document.getElementById('ag-board-page') !== null").await;
    browser.type_into("#ag-find", "juniper").await;
    browser.type_into("#ag-find", Key::Enter + "").await;
    browser.until("document.activeElement.id === 'tile-juniper'").await;
    browser.type_into("#tile-juniper", Key::Enter + "").await;
    browser
        .until(
            "document.getElementById('ag-plate')?.innerText.includes('Juniper') && \
        document.getElementById('ag-canvas') !== null",
        )
        .await;
    browser.until("document.getElementById('ag-messages').innerText.includes('Juniper loaded')").await;
    browser.settled().await;
    let juniper = browser.pixel(0.5, 0.5).await;
    assert!((juniper[0] - juniper[2]).abs() < 12 && juniper != plover, "{plover:?} {juniper:?}");

    // push by keys: one step of the history for a run of presses, and a new picture
    let drawn = "+document.getElementById('ag-canvas').dataset.drawn";
    let before = browser.value(drawn).await.as_f64().unwrap();
    browser.type_into("[id='track-film.push']", Key::Up + Key::Up + Key::Up + Key::Up).await;
    browser.until("document.querySelector('[data-step=undo]').title.includes('Push, pull +1.00 EV')").await;
    browser.until(&format!("{drawn} > {before}")).await;
    browser.settled().await;

    // grain by typing, on Film's second page
    browser.click("button[data-page='2']").await;
    browser.until("document.getElementById('field-film.grain.granularity') !== null").await;
    browser.type_into("[id='field-film.grain.granularity']", Key::Control + "a").await;
    browser.type_into("[id='field-film.grain.granularity']", "30" + Key::Enter).await;
    browser.until("document.querySelector('[data-step=undo]').title.includes('Granularity 30.0')").await;

    // 1:1 shows the full-size pixels that the lab renders, not an enlarged preview
    browser.type_into("#ag-canvas", "z").await;
    browser.until("document.getElementById('ag-canvas').dataset.level === '0'").await;
    browser.settled().await;
    let now = application.lab.library.frame(1).unwrap().summary.development;
    browser.shows_exactly("ag-canvas", &application.lab, ViewRequest::whole(1, now)).await;

    // hold: the original, and back
    browser.type_into("#ag-canvas", "f").await;
    browser.settled().await;
    let script = |kind: &str| {
        format!("document.dispatchEvent(new KeyboardEvent('{kind}', {{ code: 'KeyO', bubbles: true }})) !== null")
    };
    browser.value(&script("keydown")).await;
    browser.until("document.getElementById('ag-other').dataset.shown === 'original'").await;
    browser.until("!document.getElementById('ag-otherpane').hidden").await;
    let original = browser.pixel_of("ag-other", 0.5, 0.5).await;
    assert!((original[0] - original[2]).abs() > 12, "the original is in colour: {original:?}");
    browser.value(&script("keyup")).await;
    browser.until("document.getElementById('ag-otherpane').hidden").await;

    // undo survives a reload
    browser.click("[data-step=undo]").await;
    browser.until("document.querySelector('[data-step=redo]').title.includes('Granularity')").await;
    browser.driver.refresh().await.unwrap();
    browser.settled().await;
    browser.until("document.querySelector('[data-step=redo]').title.includes('Granularity')").await;
    browser.click("[data-step=redo]").await;
    browser.until("document.getElementById('field-film.grain.granularity').value === '30.0'").await;

    // Scene by its key, exposure by a drag on its track
    browser.type_into("#ag-canvas", "1").await;
    browser.until("document.getElementById('ag-bench').dataset.station === 'scene'").await;
    let track = browser.driver.find(By::Id("track-scene.exposure")).await.unwrap();
    let chain = browser.driver.action_chain().move_to_element_center(&track).click_and_hold();
    chain.move_by_offset(30, 0).release().perform().await.unwrap();
    browser.until("document.querySelector('[data-step=undo]').title.includes('Exposure +')").await;

    // a second window that was slower is told
    let frame = application.lab.library.frame(1).unwrap();
    let mut elsewhere = frame.summary.development.clone();
    elsewhere.set(&frame.stock, "scene.tint", Value::Number(5.0)).unwrap();
    let change =
        amber_library::Change { revision: frame.summary.revision, label: "Tint".into(), development: elsewhere };
    application.lab.library.commit(1, change, &frame.stock).unwrap();
    browser.type_into("[id='track-scene.exposure']", Key::Home + "").await;
    browser.until("document.body.innerText.includes('changed elsewhere')").await;
    browser.complained("Error Code 409").await;
    browser.driver.refresh().await.unwrap();
    browser.settled().await;

    // export
    browser.click("#ag-export-open").await;
    browser.until("document.activeElement.id === 'ag-export-name'").await;
    browser.type_into("#ag-export-name", Key::Control + "a").await;
    browser.type_into("#ag-export-name", "My print").await;
    browser.click("#ag-export-go").await;
    browser.until("document.getElementById('ag-exports').innerText.includes('done')").await;
    let file = std::fs::read(folder.join("data/exports/My print.jpg")).unwrap();
    let exported = amber_files::open(&file, Default::default()).unwrap().source;
    assert_eq!((exported.width(), exported.height()), (1200, 800));
    let hash = &application.lab.library.frame(1).unwrap().summary.content;
    assert_eq!(application.lab.library.originals.read(hash).unwrap(), std::fs::read(&good).unwrap());
    browser.stop().await;
}

#[test]
fn strangers_are_refused_and_pages_are_guarded() {
    let application = Application::start();
    let host = application.address;
    let get = |host: &str| application.send(&format!("GET /rolls/1 HTTP/1.1\r\nHost: {host}"), b"");
    application.lab.library.add_roll("Tour", 0).unwrap();
    let page = get(&host.to_string());
    assert!(page.starts_with("HTTP/1.1 200"), "{page}");
    let head = page.split("\r\n\r\n").next().unwrap().to_lowercase();
    assert!(head.contains("content-security-policy: default-src 'none'; script-src 'self'"), "{head}");
    assert!(!head.contains("unsafe-inline") && head.contains("x-content-type-options: nosniff"));
    assert!(!page.contains("onclick=") && !page.contains("style=\""), "nothing inline");
    assert!(get("evil.example").starts_with("HTTP/1.1 403"));
    let post = |extra: &str| {
        let head =
            format!("POST /rolls HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/x-www-form-urlencoded{extra}");
        application.send(&head, b"name=Other")
    };
    assert!(post("\r\nOrigin: http://evil.example").starts_with("HTTP/1.1 403"));
    assert!(post("\r\nSec-Fetch-Site: cross-site").starts_with("HTTP/1.1 403"));
    assert!(post(&format!("\r\nOrigin: http://{host}")).starts_with("HTTP/1.1 303"));
    assert_eq!(application.lab.library.rolls().unwrap().len(), 2);
}

#[test]
fn uploads_and_values_are_bounded() {
    let application = Application::start();
    application.lab.library.add_roll("Tour", 0).unwrap();
    let host = application.address;
    let upload = |bytes: &[u8]| {
        let head =
            format!("POST /rolls/1/frames HTTP/1.1\r\nHost: {host}\r\nContent-Type: multipart/form-data; boundary=cut");
        let mut body =
            b"--cut\r\nContent-Disposition: form-data; name=\"picture\"; filename=\"big.jpg\"\r\n\r\n".to_vec();
        body.extend_from_slice(bytes);
        body.extend_from_slice(b"\r\n--cut--\r\n");
        application.send(&head, &body)
    };
    let too_large = upload(&vec![0; UPLOAD_BYTES + 1000]);
    assert!(too_large.is_empty() || too_large.starts_with("HTTP/1.1 413"), "{too_large}");
    let too_many = upload(&picture(2000, 1200));
    assert!(too_many.contains("2000 x 1200 pixels, more than the limit of 2 million"), "{too_many}");
    let whole = picture(600, 400);
    let cut_off = upload(&whole[..whole.len() / 2]);
    assert!(cut_off.contains("damaged or cut off"), "{cut_off}");
    assert!(application.lab.library.frames(1).unwrap().is_empty());
    assert_eq!(std::fs::read_dir(application.folder.path().join("data/originals")).unwrap().count(), 0);
    assert!(upload(&whole).starts_with("HTTP/1.1 201"));

    let view = |json: &str| {
        let head = format!("POST /frames/1/view HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/json");
        application.send(&head, json.as_bytes())
    };
    let asked = |values: &str, level: u32| {
        view(&format!(
            r#"{{"view":"t","sequence":1,"values":{values},"level":{level},"region":null,"pass":"settled"}}"#
        ))
    };
    assert!(asked("{}", 2).starts_with("HTTP/1.1 200"));
    assert!(asked(r#"{"film.push":9}"#, 2).contains("from -2 to 2 stops"));
    assert!(asked("{}", 40).contains("zoom step"));
    assert!(
        view(r#"{"view":"t","sequence":1,"values":{},"level":2,"region":null,"pass":"settled","shown":"all"}"#)
            .contains("no view 'all'")
    );
}

/// A newer request of the same view takes the older one's place.
#[test]
fn stale_renders_are_abandoned() {
    let application = Application::start();
    let lab = &application.lab;
    let roll = lab.library.add_roll("Tour", 0).unwrap();
    let frame = lab.import(roll, "a.jpg", &picture(1600, 1200)).unwrap();
    let development = lab.library.frame(frame).unwrap().summary.development;
    let request = |sequence: u64| ViewRequest {
        frame,
        view: "window".into(),
        sequence,
        development: development.clone(),
        overlay: None,
        level: 0,
        region: None,
        pass: Pass::Settled,
        coarser: 0,
        shown: Shown::Developed,
    };
    assert!(lab.view(&request(5)).is_ok());
    assert!(lab.view(&request(4)).unwrap_err().is_abandoned());
    assert!(lab.view(&request(6)).is_ok());
}
