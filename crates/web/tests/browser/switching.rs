//! Lamps: stations and groups off and on again.

use serde_json::json;
use thirtyfour::prelude::Key;

use crate::application::{Application, picture};
use crate::driver::Browser;
use crate::tuning::on_the_bench;

#[tokio::test(flavor = "multi_thread")]
async fn stations_and_groups_are_switched_off_and_on() {
    let application = Application::start();
    let library = &application.lab.library;
    let roll = library.add_roll("Lamps", 0).unwrap();
    let frame = application.lab.import(roll, "quay.jpg", &picture(600, 400)).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/frames/{frame}?station=film&page=2"))).await.unwrap();
    browser.settled().await;
    let kept = |lamps: &[&str]| {
        let off = library.frame(frame).unwrap().summary.development.off;
        off.iter().map(String::as_str).eq(lamps.iter().copied())
    };
    let revision = || library.frame(frame).unwrap().summary.revision;
    let until = async |lamps: &[&str]| {
        for _ in 0..100 {
            if kept(lamps) {
                return;
            }
            tokio::time::sleep(std::time::Duration::from_millis(100)).await;
        }
        panic!("{lamps:?} are not what is off");
    };
    let whole = browser.pixel(0.5, 0.5).await;

    // a group, by its lamp: its values stay, quiet and still to be read
    browser.click("#ag-lamp-film\\.grain").await;
    until(&["film.grain"]).await;
    browser.until("document.querySelector('[data-column=\"film.grain\"].ag-unlit .ag-ctl') !== null").await;
    browser.until("document.getElementById('ag-plate').textContent.includes('1 off')").await;

    // a station, by its key; the line says it and what the picture is without
    browser.press("Shift+Digit3").await;
    until(&["film", "film.grain"]).await;
    browser.settled().await;
    browser.until("document.getElementById('ag-stn-film').ariaLabel === '3 Film, off'").await;
    let drawn = "document.querySelector('#ag-stn-film svg') === null && \
                 document.body.innerText.includes('as straight as it can be')";
    browser.until(drawn).await;
    assert_ne!(browser.pixel(0.5, 0.5).await, whole, "the film is gone");
    // its values can still be changed
    browser.type_into("#field-film\\.grain\\.size", Key::Control + "a").await;
    browser.type_into("#field-film\\.grain\\.size", "9" + Key::Enter).await;
    browser.until("document.getElementById('ag-stn-film').ariaLabel === '3 Film, 1 tuned, off'").await;

    // each is one step: undone, done again
    let steps = revision();
    browser.press("Shift+Digit3").await;
    until(&["film.grain"]).await;
    assert_eq!(revision(), steps + 1);
    assert_eq!(library.frame(frame).unwrap().undo.as_deref(), Some("Film on"));
    browser.click("#ag-undo [data-step=undo]").await;
    until(&["film", "film.grain"]).await;
    browser.until("document.getElementById('ag-lamp-film').ariaPressed === 'false'").await;

    // what is off stands with what was changed, and goes with it
    browser.press("Digit0").await;
    browser.until("document.querySelector('.ag-changesfoot')?.textContent.includes('Off: Film, Grain')").await;
    browser.click("[data-return-all]").await;
    until(&[]).await;
    // the same page as at first: the bench is as high as its page needs
    browser.press("Digit3").await;
    browser.until("document.getElementById('ag-bench').dataset.station === 'film'").await;
    browser.press("Period").await;
    browser.until("document.getElementById('ag-bench').dataset.page === '2'").await;
    tokio::time::sleep(std::time::Duration::from_millis(300)).await;
    browser.settled().await;
    assert_eq!(browser.pixel(0.5, 0.5).await, whole);
    assert_eq!(browser.value("document.querySelectorAll('[data-lamp][aria-pressed=false]').length").await, json!(0));
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_line_stays_while_the_bench_turns() {
    let (_application, browser, _) = on_the_bench("station=film").await;
    browser.value("(window.line = document.getElementById('ag-line')) !== null").await;
    let current = "[...document.querySelectorAll('#ag-line [aria-current]')].map((s) => s.dataset.station)";
    for (key, station) in [("Digit1", "scene"), ("Digit5", "print")] {
        browser.press(key).await;
        browser.until(&format!("document.getElementById('ag-bench').dataset.station === '{station}'")).await;
        browser.until("document.getElementById('ag-bench').contains(document.activeElement)").await;
        assert_eq!(browser.value(current).await, json!([station]));
        assert_eq!(browser.value("window.line.isConnected").await, json!(true));
    }
    browser.stop().await;
}
