//! Delivery as a person does it: a file as it is asked for, a roll by a lab order, the queue put in order, an export
//! that comes back.

use std::path::Path;
use std::time::Duration;

use amber_files::{Encoding, Limits};
use amber_lab::{ExportSettings, Output};
use amber_web::Settings;
use thirtyfour::prelude::*;

use crate::application::{Application, UPLOAD_BYTES, picture};
use crate::driver::Browser;

async fn on(frames: u32, settings: Settings, path: impl Fn(i64, &[i64]) -> String) -> (Application, Browser, Vec<i64>) {
    let application = Application::with(settings);
    let roll = application.lab.library.add_roll("Tour", 0).unwrap();
    let load = |i: u32| application.lab.import(roll, &format!("quay {i}.jpg"), &picture(300 + i, 200)).unwrap();
    let ids: Vec<i64> = (1..=frames).map(load).collect();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&path(roll, &ids))).await.unwrap();
    (application, browser, ids)
}

fn usual() -> Settings {
    Settings { upload_bytes: UPLOAD_BYTES, ..Settings::default() }
}

/// Waits until a script says true, set by what is chosen or typed.
async fn set(browser: &Browser, css: &str, value: &str) {
    let script = format!(
        "(() => {{ const el = document.querySelector({css:?}); el.value = {value:?}; \
         for (const kind of ['input', 'change']) el.dispatchEvent(new Event(kind, {{ bubbles: true }})); \
         return true; }})()"
    );
    browser.value(&script).await;
}

/// Fields that do not belong to the chosen type are put away; the file is what was asked for, in the folder that was
/// chosen, and the next dialog begins with the same.
#[tokio::test(flavor = "multi_thread")]
async fn a_file_is_written_as_it_was_asked_for() {
    let out = tempfile::tempdir().unwrap();
    let folder = out.path().canonicalize().unwrap();
    let settings = Settings { folders: vec![folder.clone()], ..usual() };
    let (application, browser, ids) = on(1, settings, |_, ids| format!("/frames/{}", ids[0])).await;
    browser.settled().await;
    browser.click("#ag-export-open").await;
    browser.until("document.activeElement.id === 'ag-export-name'").await;
    let seen = |of: &str| format!("document.querySelector('[name={of}]').checkVisibility()");
    assert_eq!(browser.value(&seen("quality")).await, true);
    assert_eq!(browser.value(&seen("deflate")).await, false);
    browser.value("document.querySelector('[name=format][value=tiff]').click()").await;
    browser.until(&seen("deflate")).await;
    assert_eq!(browser.value(&seen("quality")).await, false);
    browser.value("document.querySelector('[name=deflate]').click()").await;
    set(&browser, "#ag-export-size", "print").await;
    set(&browser, "[name=print_width]", "50.8").await;
    set(&browser, "[name=print_height]", "50.8").await;
    set(&browser, "[name=print_ppi]", "100").await;
    set(&browser, "#ag-export-space", "display-p3").await;
    set(&browser, "#ag-export-folder", folder.to_str().unwrap()).await;
    browser.click(".ag-words summary").await;
    browser.type_into("#ag-export-copyright", "Ada").await;
    browser.click("#ag-export-go").await;
    browser.until("document.getElementById('ag-exports').innerText.includes('done')").await;
    let file = std::fs::read(folder.join("Quay 1 plover.tif")).unwrap();
    let mut print = tiff::decoder::Decoder::new(std::io::Cursor::new(&file)).unwrap();
    assert_eq!((print.dimensions().unwrap(), print.colortype().unwrap()), ((200, 133), tiff::ColorType::RGB(16)));
    let packet = amber_files::attached::packet_of_file(&file).unwrap();
    assert_eq!(packet.caption.copyright, "Ada");
    assert_eq!(packet.travelling.unwrap().original, application.lab.library.frame(ids[0]).unwrap().summary.content);
    // what cannot be is said, and nothing is lost of what was filled in
    set(&browser, "[name=print_width]", "wide").await;
    browser.click("#ag-export-go").await;
    browser.until("document.getElementById('ag-messages').innerText.includes('wide')").await;
    browser.complained("Error Code 400").await;
    browser.driver.refresh().await.unwrap();
    browser.settled().await;
    assert_eq!(browser.value("document.querySelector('[name=format]:checked').value").await, "tiff");
    assert_eq!(browser.value("document.getElementById('ag-export-copyright').value").await, "Ada");
    browser.stop().await;
}

/// Names as they will be, an order that is kept and run, the queue paused, put in order by key, gone on with.
#[tokio::test(flavor = "multi_thread")]
async fn a_roll_goes_out_by_an_order() {
    let (application, browser, ids) = on(3, usual(), |roll, _| format!("/rolls/{roll}")).await;
    browser.until("document.querySelectorAll('.ag-frame[data-frame]').length === 3").await;
    browser.type_into("#ag-contact", Key::Control + "a").await;
    browser.type_into("#ag-contact", "e").await;
    browser.until("document.activeElement.id === 'ag-export-order'").await;
    browser.until("document.getElementById('ag-export-names').innerText.startsWith('Quay 1 Plover.jpg')").await;
    set(&browser, "#ag-export-pattern", "{roll} {number:02").await;
    browser.until("document.getElementById('ag-export-names').innerText.includes('none of them')").await;
    set(&browser, "#ag-export-pattern", "{roll} {number:02}").await;
    browser.until("document.getElementById('ag-export-names').innerText.startsWith('Tour 01.jpg, Tour 02')").await;
    set(&browser, "#ag-export-preset", "blue-print").await;
    set(&browser, "[name=crop]", "1x1").await;
    set(&browser, "#ag-export-size", "long-edge").await;
    set(&browser, "#ag-export-edge", "60").await;
    browser.type_into("#ag-order-name", "Small squares").await;
    browser.click("#ag-order-keep").await;
    browser.until("document.getElementById('ag-messages').innerText.includes('Kept as the order')").await;
    set(&browser, "#ag-export-order", "Small squares").await;
    browser.until("!document.getElementById('ag-export-pattern').checkVisibility()").await;
    application.lab.pause_exports(true).unwrap();
    browser.click("#ag-roll-export .ag-go").await;
    browser.until("document.getElementById('ag-exports')?.innerText.includes('3 to go, paused')").await;
    // the last one goes first
    let order = "[...document.querySelectorAll('#ag-exports [data-waits]')].map((job) => +job.dataset.export).join()";
    assert_eq!(browser.value(order).await, "1,2,3");
    browser.type_into("[data-export='3']", Key::Alt + Key::Up).await;
    browser.until(&format!("{order} === '1,3,2'")).await;
    browser.type_into("[data-export='3']", Key::Alt + Key::Up).await;
    browser.until(&format!("{order} === '3,1,2'")).await;
    browser.click("[data-export='2'] button").await;
    browser.until("document.querySelector('[data-export=\"2\"]').innerText.includes('cancelled')").await;
    browser.click(".ag-queue button").await;
    browser.until("document.getElementById('ag-exports').innerText.includes('All done')").await;
    browser.click("[data-export='2'] button").await;
    browser.until("document.querySelectorAll('#ag-exports a[href$=\"/file\"]').length === 3").await;
    let folder = application.folder.path().join("data/exports");
    for name in ["Tour 01.jpg", "Tour 02.jpg", "Tour 03.jpg"] {
        let source = amber_files::open(&std::fs::read(folder.join(name)).unwrap(), Limits::default()).unwrap().source;
        assert_eq!((source.width(), source.height()), (60, 60), "{name}");
    }
    assert!(application.lab.library.frame(ids[0]).unwrap().summary.development.values.is_empty());
    assert!(browser.value("document.querySelector('.ag-together a').getAttribute('href')").await == "/exports/1/zip");
    browser.until("document.querySelector('.modal.show, .modal-backdrop') === null").await;
    browser.stop().await;
}

/// An export is loaded again: what it brings along is offered, and taken up with the original.
#[tokio::test(flavor = "multi_thread")]
async fn an_export_comes_back() {
    let (application, browser, ids) = on(1, usual(), |roll, _| format!("/rolls/{roll}")).await;
    let lab = &application.lab;
    let output = Output { encoding: Encoding::jpeg(90), ..Output::default() };
    let id = lab.start_export(ExportSettings::of(ids[0], "Print", output)).unwrap();
    assert!(lab.wait_for_export(id, Duration::from_secs(60)).unwrap());
    let file = lab.export_file(id).unwrap();
    browser.until("document.querySelectorAll('.ag-frame[data-frame]').length === 1").await;
    let input = browser.driver.find(By::Css("#ag-files")).await.unwrap();
    input.send_keys(Path::new(&file).to_str().unwrap()).await.unwrap();
    browser.until("document.getElementById('ag-uploads').innerText.includes('brought its development along')").await;
    browser.until("document.querySelectorAll('.ag-frame[data-frame]').length === 2").await;
    browser.click("#ag-uploads button").await;
    browser.until("document.getElementById('ag-messages').innerText.includes('Taken up')").await;
    browser.until("document.querySelectorAll('.ag-frame[data-frame]').length === 2").await;
    let frames = lab.library.frames(1).unwrap();
    assert_eq!(frames[0].content, frames[1].content);
    assert_eq!(frames[0].development, frames[1].development);
    browser.stop().await;
}
