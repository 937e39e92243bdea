//! Every page and dialog against the rules of WCAG 2.2 AA that a program can check, by axe-core (vendored for tests).

use amber_core::Station;
use amber_core::controls::Value as Setting;
use serde_json::Value;

use crate::application::{Application, picture};
use crate::driver::Browser;

const AXE: &str = include_str!("../vendor/axe.min.js");

/// What is wrong with what stands on the screen.
async fn complaints(browser: &Browser, place: &str) -> Vec<String> {
    browser.driver.execute(format!("if (!window.axe) {{ {AXE} }}"), Vec::new()).await.unwrap();
    let script = "const done = arguments[arguments.length - 1]; \
                  const rules = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']; \
                  axe.run(document, { runOnly: { type: 'tag', values: rules }, resultTypes: ['violations'] }) \
                    .then((r) => done(r.violations.flatMap((v) => v.nodes.map((n) => \
                      `${v.id}: ${n.target.join(' ')}: ${n.failureSummary.split('\\n')[1] ?? ''}`))), \
                      (e) => done([String(e)]));";
    let found = browser.driver.execute_async(script, Vec::new()).await.unwrap().json().clone();
    let found = found.as_array().cloned().unwrap_or_default();
    found.iter().map(|c| format!("{place}: {}", c.as_str().unwrap_or_default())).collect()
}

async fn goto(browser: &Browser, application: &Application, path: &str) {
    browser.driver.goto(application.url(path)).await.unwrap();
    if browser.value("document.getElementById('ag-canvas') !== null").await == Value::Bool(true) {
        browser.settled().await;
    }
}

/// What is wrong with a dialog, which is closed again.
async fn opened(browser: &Browser, dialog: &str) -> Vec<String> {
    let open = format!("bootstrap.Modal.getOrCreateInstance(document.getElementById('{dialog}')).show() ?? true");
    browser.value(&open).await;
    browser.until(&format!("document.getElementById('{dialog}').matches('.show')")).await;
    tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    let found = complaints(browser, dialog).await;
    browser.value(&open.replace(".show()", ".hide()")).await;
    browser.until("document.querySelector('.modal.show, .modal-backdrop') === null").await;
    found
}

#[tokio::test(flavor = "multi_thread")]
async fn no_page_and_no_dialog_breaks_a_rule() {
    let application = Application::start();
    let library = &application.lab.library;
    let roll = library.add_roll("Rules", 0).unwrap();
    let frame = application.lab.import(roll, "quay.jpg", &picture(600, 400)).unwrap();
    application.lab.import(roll, "tower.jpg", &picture(400, 600)).unwrap();
    let now = library.frame(frame).unwrap();
    let mut development = now.summary.development.clone();
    for (id, value) in [
        ("surface.sheet.1.kind", Setting::Choice("dust".into())),
        ("tone.bath.1.toner", Setting::Choice("sepia".into())),
        ("scene.exposure", Setting::Number(0.5)),
    ] {
        development.values.insert(id.into(), value);
    }
    development.switch("years", false).unwrap();
    development.switch("film.grain", false).unwrap();
    let juniper = amber_core::Catalogue::find("juniper").unwrap();
    let change = amber_library::Change { revision: 0, label: "tuned".into(), development };
    library.commit(frame, change, &now.stock).unwrap();
    library.keep_proof(frame, None).unwrap();
    library.pin(frame, &[[0.5, 0.5], [0.2, 0.3]]).unwrap();
    let browser = Browser::start().await;
    let mut found = Vec::new();

    for path in ["/", "/guide", "/guide?control=film.push", "/guide/first"] {
        goto(&browser, &application, path).await;
        found.extend(complaints(&browser, path).await);
    }
    library.write_note(frame, "Sky too light").unwrap();
    library.mark(vec![frame], amber_library::Mark::Keep).unwrap();
    let both: Vec<i64> = library.frames(roll).unwrap().iter().map(|f| f.id).collect();
    let ids = both.iter().map(i64::to_string).collect::<Vec<_>>().join(",");
    for path in [
        format!("/rolls/{roll}"),
        format!("/rolls/{roll}/beside?ids={ids}"),
        format!("/rolls/{roll}/metering?ids={ids}&hold=true"),
        format!("/rolls/{roll}/metering?ids={ids}&seat=true"),
        format!("/frames/{frame}/match"),
        format!("/frames/{frame}/match?with={frame}&as=original"),
        format!("/charts?frame={frame}"),
    ] {
        goto(&browser, &application, &path).await;
        browser.until("[...document.images].every((i) => i.complete)").await;
        found.extend(complaints(&browser, &path).await);
    }
    goto(&browser, &application, &format!("/frames/{frame}/match?with={frame}&as=original")).await;
    browser.click("#ag-seat").await;
    browser.until("document.querySelector('.ag-matchseat') !== null").await;
    found.extend(complaints(&browser, "seated").await);
    browser.click("#ag-match-grain").await;
    browser.until("document.querySelector('.ag-matchgrain') !== null").await;
    found.extend(complaints(&browser, "grain").await);
    browser.click("#ag-match-look").await;
    browser.until("document.querySelector('.ag-matchlook') !== null").await;
    found.extend(complaints(&browser, "looks").await);
    goto(&browser, &application, &format!("/rolls/{roll}")).await;
    browser.type_into("#ag-contact", " ").await;
    found.extend(complaints(&browser, "chosen").await);
    for dialog in ["ag-roll-export", "ag-roll-rename", "ag-roll-move"] {
        found.extend(opened(&browser, dialog).await);
    }
    for board in ["stocks", "sheets", "presets"] {
        let path = format!("/frames/{frame}/{board}");
        goto(&browser, &application, &path).await;
        found.extend(complaints(&browser, board).await);
    }
    for station in Station::ALL {
        for page in 1..=2 {
            let path = format!("/frames/{frame}?station={}&page={page}", station.id());
            goto(&browser, &application, &path).await;
            found.extend(complaints(&browser, &format!("{} {page}", station.id())).await);
        }
    }
    for bench in ["changes", "masks", "log"] {
        goto(&browser, &application, &format!("/frames/{frame}?station={bench}")).await;
        found.extend(complaints(&browser, bench).await);
    }
    // what opens over the bench
    goto(&browser, &application, &format!("/frames/{frame}?station=print")).await;
    for dialog in ["ag-export", "ag-keys", "ag-keep", "ag-frames", "ag-preset"] {
        found.extend(opened(&browser, dialog).await);
    }
    browser.press("KeyD").await;
    browser.press("KeyL").await;
    found.extend(complaints(&browser, "divided").await);
    browser.press("Escape").await;
    browser.type_into("[id='track-print.exposure']", "t").await;
    browser.until("document.getElementById('ag-strip').dataset.ready === 'true'").await;
    found.extend(complaints(&browser, "strip").await);
    // an upright frame has its bench beside; a stock of one layer has other columns
    let upright = library.frames(roll).unwrap()[1].id;
    let plain = library.frame(upright).unwrap();
    let mut silver = plain.summary.development.clone();
    silver.change_stock(&juniper);
    let change = amber_library::Change { revision: 0, label: "stock".into(), development: silver };
    library.commit(upright, change, &juniper).unwrap();
    goto(&browser, &application, &format!("/frames/{upright}?station=film")).await;
    found.extend(complaints(&browser, "beside").await);
    browser.sized(640, 400).await; // 1280 x 800 at 200 %
    browser.settled().await;
    found.extend(complaints(&browser, "at 200 %").await);
    assert!(found.is_empty(), "{}", found.join("\n"));
    browser.stop().await;
}
