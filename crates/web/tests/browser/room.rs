//! How much room the picture has: the bench beside it, the readings hidden, the picture alone.

use serde_json::{Value, json};

use crate::application::{Application, picture};
use crate::driver::Browser;
use crate::tuning::on_the_bench;

/// Width and height of the fitted picture of a size.
async fn fitted(browser: &Browser, [width, height]: [u32; 2]) -> [f64; 2] {
    browser.settled().await;
    let script = format!(
        "(() => {{ const c = document.getElementById('ag-canvas').getBoundingClientRect(); \
         const s = Math.min((c.width - 24) / {width}, (c.height - 24) / {height}); \
         return [{width} * s, {height} * s]; }})()"
    );
    let found = browser.value(&script).await;
    [0, 1].map(|k| found[k].as_f64().unwrap())
}

async fn is(browser: &Browser, class: &str) -> bool {
    let script = format!("document.getElementById('ag-app').classList.contains('ag-{class}')");
    browser.value(&script).await == Value::Bool(true)
}

fn at_least(found: [f64; 2], wanted: [f64; 2]) {
    assert!((0..2).all(|k| found[k] >= wanted[k] - 0.5), "{found:?}, wanted are {wanted:?}");
}

#[tokio::test(flavor = "multi_thread")]
async fn an_upright_picture_has_the_bench_beside_it() {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Room", 0).unwrap();
    let frame = application.lab.import(roll, "tower.jpg", &picture(800, 1200)).unwrap();
    let browser = Browser::start().await;
    browser.sized(1280, 800).await;
    browser.driver.goto(application.url(&format!("/frames/{frame}"))).await.unwrap();
    assert!(is(&browser, "beside").await);
    at_least(fitted(&browser, [800, 1200]).await, [430.0, 645.0]);
    browser.sized(1280, 660).await;
    at_least(fitted(&browser, [800, 1200]).await, [350.0, 525.0]);

    // every page of every station stands in two columns; nothing goes out sideways
    let stations = ["scene", "lens", "film", "bath", "print", "tone", "years", "surface"];
    for (number, name) in stations.iter().enumerate() {
        if browser.value("document.getElementById('ag-bench').dataset.station").await != **name {
            browser.key("keydown", &format!("Digit{}", number + 1)).await;
        }
        browser.until(&format!("document.getElementById('ag-bench').dataset.station === '{name}'")).await;
        let over = "(() => { const b = document.getElementById('ag-bench'); \
                    const right = b.getBoundingClientRect().left + b.clientWidth; \
                    return [...b.querySelectorAll('.ag-ctl, .ag-head, .ag-head > *')] \
                      .filter((e) => e.offsetWidth && e.getBoundingClientRect().right > right + 1) \
                      .map((e) => e.className + ' ' + e.textContent.trim().slice(0, 30)); })()";
        assert_eq!(browser.value(over).await, json!([]), "{name}");
    }

    // under the picture again, and remembered for upright ones
    browser.key("keydown", "KeyB").await;
    assert!(!is(&browser, "beside").await);
    browser.settled().await;
    browser.driver.refresh().await.unwrap();
    browser.settled().await;
    assert!(!is(&browser, "beside").await);
    browser.click("[data-room=beside]").await;
    assert!(is(&browser, "beside").await);
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_wide_picture_gets_the_room_of_what_is_put_away() {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Room", 0).unwrap();
    let frame = application.lab.import(roll, "quay.jpg", &picture(1500, 1000)).unwrap();
    let browser = Browser::start().await;
    browser.sized(1280, 800).await;
    browser.driver.goto(application.url(&format!("/frames/{frame}"))).await.unwrap();
    browser.settled().await;
    assert!(!is(&browser, "beside").await);
    let under = fitted(&browser, [1500, 1000]).await;
    let open = browser.value("document.getElementById('ag-bench').dataset.station").await;
    browser.click(&format!("#ag-stn-{}", open.as_str().unwrap())).await;
    assert!(is(&browser, "closed").await);
    let closed = fitted(&browser, [1500, 1000]).await;
    at_least(closed, [950.0, 635.0]);

    // without the readings, and remembered
    browser.key("keydown", "KeyR").await;
    browser.until("document.querySelector('.ag-rail').offsetWidth === 0").await;
    browser.settled().await;
    browser.driver.refresh().await.unwrap();
    browser.settled().await;
    browser.until("document.querySelector('.ag-rail').offsetWidth === 0").await;
    browser.click("[data-room=readings]").await;
    browser.until("document.querySelector('.ag-rail').offsetWidth > 0").await;

    // the picture alone while the key is held; tapped twice it stays, tapped again it is over
    browser.key("keydown", "Space").await;
    let alone = fitted(&browser, [1500, 1000]).await;
    assert!(alone[0] > under[0] * 1.2, "{alone:?}, under the bench {under:?}");
    assert_eq!(browser.value("document.getElementById('ag-line').offsetHeight > 0").await, Value::Bool(true));
    browser.key("keyup", "Space").await;
    assert!(!is(&browser, "alone").await);
    tokio::time::sleep(std::time::Duration::from_millis(500)).await;
    let twice = "(() => { const c = document.getElementById('ag-canvas'); \
                 for (const kind of ['keydown', 'keyup', 'keydown', 'keyup']) \
                   c.dispatchEvent(new KeyboardEvent(kind, { code: 'Space', bubbles: true, cancelable: true })); \
                 return true; })()";
    browser.value(twice).await;
    assert!(is(&browser, "alone").await);
    browser.key("keydown", "Space").await;
    browser.key("keyup", "Space").await;
    assert!(!is(&browser, "alone").await);
    browser.click("[data-room=alone]").await;
    assert!(is(&browser, "alone").await);
    browser.click("[data-room=alone]").await;
    assert_eq!(fitted(&browser, [1500, 1000]).await, under);

    // a small window: one column, the line can be moved sideways, the page cannot
    browser.sized(700, 700).await;
    browser.settled().await;
    let fits = "document.documentElement.scrollWidth <= innerWidth \
                && document.getElementById('ag-line').scrollWidth > document.getElementById('ag-line').clientWidth \
                && document.getElementById('ag-canvas').offsetWidth > 550";
    assert_eq!(browser.value(fits).await, Value::Bool(true));
    browser.stop().await;
}

/// All keys of the bench are in one list; those that write a character can be switched off.
#[tokio::test(flavor = "multi_thread")]
async fn every_key_is_listed_and_letters_can_be_switched_off() {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Keys", 0).unwrap();
    let frame = application.lab.import(roll, "quay.jpg", &picture(900, 600)).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/frames/{frame}"))).await.unwrap();
    browser.settled().await;
    let asked = "document.getElementById('ag-canvas').dispatchEvent(new KeyboardEvent('keydown', \
                 { key: '?', code: 'Minus', shiftKey: true, bubbles: true, cancelable: true })) || true";
    browser.value(asked).await;
    browser.until("document.getElementById('ag-keys').classList.contains('show')").await;
    let shown = "[...document.querySelectorAll('#ag-keys-list kbd')].map((k) => k.textContent)";
    let shown = browser.value(shown).await;
    for wanted in ["1 – 8", "B", "R", "Space", "O", "W", "Ctrl Z", "?"] {
        assert!(shown.as_array().unwrap().iter().any(|k| k == wanted), "{wanted} of {shown}");
    }
    let places = browser.value("document.querySelectorAll('#ag-keys-list section').length").await;
    assert_eq!((places, shown.as_array().unwrap().len() > 30), (json!(4), true));

    // switched off they do nothing, and stay off; the pointer still opens the list
    browser.click("#ag-keys .ag-check").await;
    browser.click("#ag-keys footer [data-bs-dismiss]").await;
    browser.until("!document.querySelector('.modal.show, .modal-backdrop')").await;
    browser.key("keydown", "KeyB").await;
    assert!(!is(&browser, "beside").await);
    browser.settled().await;
    browser.driver.refresh().await.unwrap();
    browser.settled().await;
    browser.key("keydown", "KeyB").await;
    assert!(!is(&browser, "beside").await);
    browser.click("#ag-keys-open").await;
    browser.until("document.getElementById('ag-keys').classList.contains('show')").await;
    browser.click("#ag-keys .ag-check").await;
    browser.click("#ag-keys footer [data-bs-dismiss]").await;
    browser.until("!document.querySelector('.modal.show, .modal-backdrop')").await;
    browser.key("keydown", "KeyB").await;
    assert!(is(&browser, "beside").await);
    browser.stop().await;
}

/// Under the picture, most pages are as high as one another: the picture is not laid anew when the bench turns.
#[tokio::test(flavor = "multi_thread")]
async fn the_picture_keeps_its_size_from_station_to_station() {
    let (application, browser, frame) = on_the_bench("station=scene").await;
    for size in [(1280, 800), (1920, 1080)] {
        browser.sized(size.0, size.1).await;
        let mut heights = Vec::new();
        for station in ["scene", "lens", "film", "print", "tone", "tone&page=2"] {
            let page = application.url(&format!("/frames/{frame}?station={station}"));
            browser.driver.goto(page).await.unwrap();
            browser.settled().await;
            let height = browser.value("document.getElementById('ag-canvas').getBoundingClientRect().height").await;
            heights.push((station, height));
        }
        assert!(heights.iter().all(|(_, height)| *height == heights[0].1), "{size:?}: {heights:?}");
    }
    browser.stop().await;
}
