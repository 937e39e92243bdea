//! Tuning Film, Bath and Print: pages, tabs, curves, the picked hue, what was changed, the readings.

use amber_core::controls::Value;
use thirtyfour::prelude::*;

use crate::application::{Application, picture};
use crate::driver::Browser;

pub async fn on_the_bench(query: &str) -> (Application, Browser, i64) {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Tour", 0).unwrap();
    let id = application.lab.import(roll, "quay.jpg", &picture(900, 600)).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/frames/{id}?{query}"))).await.unwrap();
    browser.settled().await;
    (application, browser, id)
}

pub fn value(application: &Application, id: i64, control: &str) -> Option<Value> {
    application.lab.library.frame(id).unwrap().summary.development.values.get(control).cloned()
}

pub const UNDO: &str = "document.querySelector('[data-step=undo]').title";

#[tokio::test(flavor = "multi_thread")]
async fn every_kind_of_control_on_the_print() {
    let (application, browser, id) = on_the_bench("station=print").await;
    // a list, a choice, a switch
    browser.choose("[data-list=\"print.paper\"]", "old-paper").await;
    browser.until(&format!("{UNDO}.includes('Paper Old')")).await;
    browser.click("[data-choice='print.surface'] [data-option=matt]").await;
    browser.until(&format!("{UNDO}.includes('Surface Matt')")).await;
    browser.click("[data-control='print.filter.keep'] label").await;
    browser.until(&format!("{UNDO}.includes('Keep brightness on')")).await;
    assert_eq!(value(&application, id, "print.filter.keep"), Some(Value::Switch(true)));

    // the second page: tabs share a column, a curve takes typed and dragged points
    browser.click("button[data-page='2']").await;
    browser.until("document.querySelector('[data-curve=\"print.curve.master\"]') !== null").await;
    browser.type_into("[id='points-print.curve.master']", Key::Control + "a").await;
    browser.type_into("[id='points-print.curve.master']", "0,5 50,40 100,95" + Key::Enter).await;
    browser.until(&format!("{UNDO}.includes('Master 3 points')")).await;
    browser.type_into("[id='points-print.curve.master']", Key::Control + "a").await;
    browser.type_into("[id='points-print.curve.master']", "90,5 50,40" + Key::Enter).await;
    browser.until("document.getElementById('ag-messages').innerText.includes('from left to right')").await;
    let point = browser.driver.find(By::Css("[data-curve='print.curve.master'] [data-point='1']")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&point).click_and_hold();
    drag.move_by_offset(0, -30).release().perform().await.unwrap();
    browser
        .until("!document.querySelector('[data-curve=\"print.curve.master\"]').dataset.value.includes('50,40')")
        .await;
    browser.settled().await;

    browser.click("[data-column='print.hues-of-the-print'] [data-tab=Blue]").await;
    browser.until("document.getElementById('field-print.band.blue.saturation').offsetParent !== null").await;
    browser.type_into("[id='track-print.band.blue.saturation']", Key::Up + Key::Up).await;
    browser.until(&format!("{UNDO}.includes('Saturation +2 %')")).await;
    // the tab stays open after the answer
    browser.until("document.querySelector('[data-tab=Blue][aria-selected=true]') !== null").await;
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_i_changed_is_listed_and_returned() {
    let (application, browser, id) = on_the_bench("station=film").await;
    browser.type_into("[id='track-film.push']", Key::Up + Key::Up).await;
    browser.until(&format!("{UNDO}.includes('Push, pull +0.50 EV')")).await;
    // Bath, by its key: crossing needs slide film or a negative, and this is one
    browser.type_into("#ag-canvas", "4").await;
    browser.until("document.getElementById('ag-bench').dataset.station === 'bath'").await;
    browser.click("[data-choice='bath.chemistry'] [data-option=crossed]").await;
    browser.until(&format!("{UNDO}.includes('Chemistry Crossed')")).await;
    browser.type_into("[id='track-bath.time']", Key::Up + "").await;
    browser.until("document.getElementById('ag-plate').innerText.includes('3 tuned')").await;
    browser.settled().await;

    browser.type_into("#ag-canvas", "0").await;
    browser.until("document.querySelectorAll('.ag-changes [data-return]').length === 3").await;
    browser.click("[data-return='bath.time']").await;
    browser.until("document.querySelectorAll('.ag-changes [data-return]').length === 2").await;
    assert_eq!(value(&application, id, "bath.time"), None);
    browser.click("[data-return-all]").await;
    browser.until("document.querySelectorAll('.ag-changes [data-return]').length === 0").await;
    browser.click("[data-step=undo]").await;
    browser.until("document.querySelectorAll('.ag-changes [data-return]').length === 2").await;
    assert_eq!(value(&application, id, "bath.chemistry"), Some(Value::Choice("crossed".into())));
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_picture_and_the_chart_are_tools() {
    let (application, browser, id) = on_the_bench("station=film").await;
    browser.until("document.getElementById('ag-canvas').dataset.plane !== undefined").await;

    // the densitometer follows the pointer without asking
    let canvas = browser.driver.find(By::Id("ag-canvas")).await.unwrap();
    browser.driver.action_chain().move_to_element_center(&canvas).perform().await.unwrap();
    browser.until("document.getElementById('ag-zone').textContent.startsWith('Zone')").await;
    browser.until("document.getElementById('ag-stops').textContent.includes('stops from mid grey')").await;
    browser.until("document.querySelector('#ag-chart .ag-at') !== null").await;

    // a hue picked and dragged: one step, several bands
    browser.type_into("#ag-canvas", "h").await;
    let drag = browser.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    drag.move_by_offset(0, -20).move_by_offset(0, -20).perform().await.unwrap();
    browser.until("/%.*EV/.test(document.getElementById('ag-tag').textContent)").await;
    browser.driver.action_chain().move_by_offset(0, -1).release().perform().await.unwrap();
    browser.until(&format!("/(Magenta|Red|Orange|Yellow|Green|Cyan|Blue|Violet)/.test({UNDO})")).await;
    let tuned = application.lab.library.frame(id).unwrap().summary.development.values;
    assert!(!tuned.is_empty() && tuned.keys().all(|k| k.starts_with("film.hue.")), "{tuned:?}");
    browser.type_into("#ag-canvas", "h").await;
    browser.settled().await;

    // a handle of the film's curve
    let handle = browser.driver.find(By::Css("[data-handle='film.curve.red.contrast']")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&handle).click_and_hold();
    drag.move_by_offset(0, -15).release().perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Contrast')")).await;
    let Some(Value::Number(contrast)) = value(&application, id, "film.curve.red.contrast") else { panic!() };
    let own = amber_core::stations::find("film.curve.red.contrast").unwrap();
    assert!(contrast > own.own_value(&amber_core::Catalogue::first()).as_number().unwrap());

    // marks, and one effect alone
    browser.type_into("#ag-canvas", "x").await;
    browser.until("document.getElementById('ag-marks').getAttribute('aria-pressed') === 'true'").await;
    browser.click("button[data-page='2']").await;
    browser.until("document.querySelector('[data-alone=halation]') !== null").await;
    for what in ["halation", "grain"] {
        browser.click(&format!("[data-alone={what}]")).await;
        browser.until(&format!("document.getElementById('ag-canvas').dataset.shown === '{what}'")).await;
    }
    browser.type_into("#ag-canvas", Key::Escape + "").await;
    browser.until("document.getElementById('ag-canvas').dataset.shown === 'developed'").await;
    browser.stop().await;
}
