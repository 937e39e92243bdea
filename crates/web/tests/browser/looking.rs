//! Looking closely, and bringing pictures in by dropping them.

use thirtyfour::prelude::Key;

use crate::application::{Application, picture};
use crate::driver::Browser;

const CANVAS: &str = "const c = document.getElementById('ag-canvas'); const b = c.getBoundingClientRect();";

fn zoom() -> &'static str {
    "document.getElementById('ag-zoom').textContent"
}

async fn run(browser: &Browser, script: &str) {
    browser.value(&format!("(() => {{ {script}; return true; }})()")).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_wheel_zooms_and_the_picture_follows_the_hand() {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Tour", 0).unwrap();
    let frame = application.lab.import(roll, "quay.jpg", &picture(1600, 1200)).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/frames/{frame}"))).await.unwrap();
    browser.settled().await;
    let fitted = browser.value(zoom()).await;

    let wheel = format!(
        "{CANVAS} for (let i = 0; i < 6; i++) c.dispatchEvent(new WheelEvent('wheel', {{ bubbles: true, \
         cancelable: true, deltaY: -120, clientX: b.x + 300, clientY: b.y + 200 }}))"
    );
    run(&browser, &wheel).await;
    browser.settled().await;
    assert_ne!(browser.value(zoom()).await, fitted);

    // what is under the hand stays under it
    let pixel = |x: u32, y: u32| {
        format!("[...document.getElementById('ag-canvas').getContext('2d').getImageData({x}, {y}, 1, 1).data].join()")
    };
    let before = browser.value(&pixel(500, 250)).await;
    let drag = format!(
        "{CANVAS} c.setPointerCapture = () => {{}}; \
         const go = (kind, x, y) => c.dispatchEvent(new PointerEvent(kind, {{ bubbles: true, pointerId: 1, button: 0, \
         clientX: b.x + x, clientY: b.y + y }})); \
         go('pointerdown', 500, 250); go('pointermove', 540, 260); \
         go('pointermove', 600, 290); go('pointerup', 600, 290)"
    );
    run(&browser, &drag).await;
    browser.settled().await;
    assert_eq!(browser.value(&pixel(600, 290)).await, before);

    // the surround is remembered, a double click fits again
    browser.click("[data-surround=light]").await;
    run(
        &browser,
        &format!(
            "{CANVAS} c.dispatchEvent(new MouseEvent('dblclick', \
        {{ bubbles: true, clientX: b.x + 300, clientY: b.y + 200 }}))"
        ),
    )
    .await;
    browser.settled().await;
    assert_eq!(browser.value(zoom()).await, fitted);
    browser.driver.refresh().await.unwrap();
    browser.until("document.documentElement.dataset.surround === 'light'").await;

    // every station can be opened; an open one closes on a second click
    assert_eq!(browser.value("document.querySelectorAll('a.ag-stn[data-station]').length").await, 8);
    assert_eq!(browser.value("document.querySelectorAll('.ag-stn').length").await, 8);
    browser.click("#ag-stn-film").await;
    browser.until("document.getElementById('ag-app').classList.contains('ag-closed')").await;
    browser.click("#ag-stn-print").await;
    browser.until("document.getElementById('ag-bench').dataset.station === 'print'").await;

    // out of range: set to the limit, and said
    let field = "document.getElementById('field-print.exposure')";
    run(
        &browser,
        &format!(
            "{field}.focus(); {field}.value = '9'; {field}.dispatchEvent(new Event('change', {{ bubbles: true }}))"
        ),
    )
    .await;
    browser.until("document.querySelector('.ag-say')?.textContent.includes('to +2.00 EV') === true").await;
    browser.until("document.querySelector('[data-step=undo]').title.includes('Print exposure +2.00 EV')").await;
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_dropped_picture_becomes_a_frame() {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Tour", 0).unwrap();
    application.lab.import(roll, "quay.jpg", &picture(600, 400)).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/rolls/{roll}"))).await.unwrap();
    browser.until("document.querySelectorAll('.ag-frame').length === 1").await;
    let drop = "fetch('/frames/1/thumbnail').then((r) => r.blob()).then((b) => { const t = new DataTransfer(); \
         t.items.add(new File([b], 'dropped-one.jpg', { type: 'image/jpeg' })); \
         const drop = new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: t }); \
         document.getElementById('ag-roll-page').dispatchEvent(drop); })";
    run(&browser, drop).await;
    browser.until("document.querySelectorAll('.ag-frame').length === 2").await;
    browser
        .until(
            "document.body.innerText.includes('Dropped one') && \
        document.getElementById('ag-count').textContent === '2 frames'",
        )
        .await;

    // a roll is renamed by its form
    browser.type_into("#ag-roll-name", " and back").await;
    browser.click(".ag-rename button").await;
    browser.until("document.title.startsWith('Tour and back')").await;
    assert_eq!(application.lab.library.roll(roll).unwrap().name, "Tour and back");
    browser.stop().await;
}

/// Up to four places are pinned: by Shift and a press, by a key; kept with the frame, and they follow a moving control.
#[tokio::test(flavor = "multi_thread")]
async fn readings_are_pinned() {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Pins", 0).unwrap();
    let frame = application.lab.import(roll, "quay.jpg", &picture(600, 400)).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/frames/{frame}?station=scene"))).await.unwrap();
    browser.settled().await;
    let press = |x: f64, y: f64| {
        format!(
            "(() => {{ const c = document.getElementById('ag-canvas'), b = c.getBoundingClientRect(); \
             c.dispatchEvent(new MouseEvent('click', {{ bubbles: true, shiftKey: true, \
               clientX: b.left + {x} * b.width, clientY: b.top + {y} * b.height }})); return true; }})()"
        )
    };
    for x in [0.4, 0.5, 0.6] {
        browser.value(&press(x, 0.5)).await;
    }
    browser.press("KeyV").await; // the middle is pinned already: it is let go
    browser.until("document.querySelectorAll('.ag-pins li').length === 2").await;
    let zone = "document.querySelector('.ag-pins li span').textContent";
    browser.until(&format!("{zone} !== '–'")).await;
    let density = "document.querySelectorAll('.ag-pins li span')[2].textContent";
    let before = browser.value(density).await;
    let start = browser.value(zone).await;
    for _ in 0..4 {
        browser.type_into("[id='track-scene.exposure']", Key::Control + Key::Up).await;
    }
    browser.settled().await;
    browser.until(&format!("{density} !== {before}")).await;
    browser.until(&format!("{zone} !== {start}")).await;
    for (x, y) in [(0.45, 0.4), (0.55, 0.4), (0.5, 0.3)] {
        browser.value(&press(x, y)).await;
    }
    assert_eq!(browser.value("document.querySelectorAll('.ag-pins li').length").await, 4, "four is the most");
    browser.click("[data-unpin='0']").await;
    browser.until("document.querySelectorAll('.ag-pins li').length === 3").await;
    browser.settled().await;
    browser.driver.refresh().await.unwrap();
    browser.until("document.querySelectorAll('.ag-pins li').length === 3").await;
    browser.settled().await;
    browser.stop().await;
}
