//! The stock board, and stocks of one's own.

use amber_core::controls::Value;
use amber_library::Change;
use thirtyfour::prelude::*;

use crate::application::{Application, picture};
use crate::driver::Browser;

/// A frame with tuning, on the board.
async fn on_the_board() -> (Application, Browser, i64) {
    let application = Application::start();
    let library = &application.lab.library;
    let roll = library.add_roll("Tour", 0).unwrap();
    let id = application.lab.import(roll, "quay.jpg", &picture(900, 600)).unwrap();
    let frame = library.frame(id).unwrap();
    let mut development = frame.summary.development;
    for (control, v) in [("scene.exposure", 0.5), ("film.grain.granularity", 22.0), ("film.push", 1.0)] {
        development.set(&frame.stock, control, Value::Number(v)).unwrap();
    }
    let change = Change { revision: frame.summary.revision, label: "Tuned".into(), development };
    library.commit(id, change, &frame.stock).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/frames/{id}/stocks"))).await.unwrap();
    (application, browser, id)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_stock_is_chosen_by_eye() {
    let (application, browser, id) = on_the_board().await;
    browser.until("document.querySelectorAll('[data-tile]').length === 34").await;
    // usable while it fills: the close look of the stock in force comes first
    browser.until("document.querySelector('#ag-close h2')?.innerText === 'Plover'").await;
    browser.until("document.getElementById('ag-board-page').dataset.filled !== undefined").await;
    assert_eq!(browser.value("document.querySelectorAll('img.ag-waiting').length").await, 0);

    // arrows walk, the close look follows
    browser.type_into("#tile-plover", Key::Right + Key::Right).await;
    browser.until("document.querySelector('#ag-close h2')?.innerText === 'Petrel'").await;
    browser.type_into("#tile-petrel", Key::Down + "").await;
    browser.until("document.activeElement.dataset.tile !== 'petrel'").await;

    // search and families narrow, pins come first
    browser.type_into("#ag-find", "screen").await;
    browser
        .until(
            "[...document.querySelectorAll('[data-tile]')].filter((t) => t.offsetParent).map((t) => \
        t.dataset.tile).join() === 'parmelia'",
        )
        .await;
    browser.type_into("#ag-find", Key::Escape + "").await;
    browser.click("[data-family='Slide'].ag-chip").await;
    browser.until("[...document.querySelectorAll('[data-tile]')].filter((t) => t.offsetParent).length === 4").await;
    browser.click("#tile-garnet").await;
    browser.until("document.querySelector('#ag-close h2')?.innerText === 'Garnet'").await;
    browser.type_into("#tile-garnet", "p").await;
    browser.until("document.querySelector('.ag-family')?.dataset.family === 'Pinned'").await;
    assert_eq!(application.lab.library.pinned_stocks().unwrap(), ["garnet"]);

    // taken with the tuning kept as distance
    browser.until("document.querySelector('#ag-close h2')?.innerText === 'Garnet'").await;
    browser.click("#ag-take-keep").await;
    browser
        .until("document.getElementById('ag-messages').innerText.includes('Garnet loaded with your tuning, 3 values')")
        .await;
    let frame = application.lab.library.frame(id).unwrap();
    assert_eq!(frame.stock.id, "garnet");
    assert_eq!(frame.summary.development.values["film.push"], Value::Number(1.0));

    // one undo brings all back
    browser.click("#ag-messages button").await;
    browser.until("document.getElementById('ag-plate').innerText.includes('Plover')").await;
    assert_eq!(
        application.lab.library.frame(id).unwrap().summary.development.values["film.grain.granularity"],
        Value::Number(22.0)
    );
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_stock_of_ones_own() {
    let (application, browser, id) = on_the_board().await;
    browser.driver.goto(application.url(&format!("/frames/{id}?station=film"))).await.unwrap();
    browser.settled().await;

    // keep the tuning as a stock
    browser.click("#ag-keep-open").await;
    browser.until("document.activeElement.id === 'ag-keep-name'").await;
    browser.type_into("#ag-keep-name", "Harbour").await;
    browser.type_into("#ag-keep-notes", "Hard light on the quay.").await;
    browser.click("#ag-keep .ag-go").await;
    browser.until("document.getElementById('ag-plate').innerText.includes('Harbour')").await;
    let frame = application.lab.library.frame(id).unwrap();
    assert_eq!(frame.summary.development.values.keys().collect::<Vec<_>>(), ["scene.exposure"]);

    // it stands on the board; its name is edited
    browser.driver.goto(application.url(&format!("/frames/{id}/stocks"))).await.unwrap();
    browser.until("document.querySelector('.ag-family')?.dataset.family === 'Mine'").await;
    browser.until("document.querySelector('#ag-close summary') !== null").await;
    browser.click("#ag-close summary").await;
    browser.type_into("#ag-close [name=name]", " II").await;
    browser.click("#ag-close form .ag-out").await;
    browser.until("document.querySelector('#tile-harbour b')?.innerText === 'Harbour II'").await;

    // its file goes out, comes in under another id, and a broken one is refused with what is wrong
    let file = application.send(&format!("GET /stocks/harbour/file HTTP/1.1\r\nHost: {}", application.address), b"");
    let json = file.split("\r\n\r\n").nth(1).unwrap().to_owned();
    assert!(file.contains("attachment; filename=\"Harbour II.json\""), "{file}");
    let other = application.folder.path().join("other.json");
    std::fs::write(&other, json.replace("\"harbour\"", "\"quay\"").replace("Harbour II", "Quay")).unwrap();
    browser.type_into("#ag-stock-file", other.display().to_string()).await;
    browser.until("document.querySelector('#tile-quay') !== null").await;
    std::fs::write(&other, json.replace("\"iso\"", "\"speed\"")).unwrap();
    browser.type_into("#ag-stock-file", other.display().to_string()).await;
    browser.until("document.getElementById('ag-messages').innerText.includes('speed')").await;

    // deleted: the frame that was made with it keeps its copy
    browser.click("#tile-harbour").await;
    browser.until("document.querySelector('#ag-close [data-stock-delete=harbour]') !== null").await;
    browser.click("#ag-close summary").await;
    browser.click("[data-stock-delete=harbour]").await;
    browser.until("document.querySelector('#tile-harbour') === null").await;
    assert_eq!(application.lab.library.frame(id).unwrap().stock.name(), "Harbour");
    browser.stop().await;
}

/// What a person cannot do in the browser, a program cannot do either.
#[test]
fn built_in_stocks_stay() {
    let application = Application::start();
    let host = application.address;
    let send = |head: &str, body: &str| {
        application.send(
            &format!("{head} HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/x-www-form-urlencoded"),
            body.as_bytes(),
        )
    };
    assert!(send("DELETE /stocks/plover", "").contains("built-in"));
    assert!(send("POST /stocks/plover", "name=Mine&family=mine").contains("built-in"));
    assert!(send("POST /stocks", &amber_core::Catalogue::first().to_json()).contains("built-in"));
    assert!(send("POST /stocks", "[1]").starts_with("HTTP/1.1 422"));
    assert!(send("GET /stocks/plover/file", "").starts_with("HTTP/1.1 200"));
    assert!(send("GET /stocks/nothing/file", "").starts_with("HTTP/1.1 404"));
}
