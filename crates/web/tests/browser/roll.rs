//! The roll as one job, as a new user does it; and a roll of thousands.

use std::time::Duration;

use amber_core::controls::Value;
use amber_library::Mark;
use thirtyfour::prelude::*;

use crate::application::{Application, picture};
use crate::driver::Browser;

/// A roll with so many frames, on the contact sheet.
async fn on_the_sheet(frames: u32) -> (Application, Browser, i64, Vec<i64>) {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Tour", 0).unwrap();
    let load = |i: u32| application.lab.import(roll, &format!("frame {i}.jpg"), &picture(300 + i, 200)).unwrap();
    let ids = (1..=frames).map(load).collect();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/rolls/{roll}"))).await.unwrap();
    browser.until("document.querySelectorAll('.ag-frame[data-frame]').length > 0").await;
    (application, browser, roll, ids)
}

fn value(application: &Application, frame: i64, control: &str) -> Option<Value> {
    application.lab.library.frame(frame).unwrap().summary.development.values.get(control).cloned()
}

const CHOSEN: &str = "document.querySelectorAll('.ag-frame[aria-selected=true]').length";

/// Pick, tune, keep as a preset, lay it on the rest, correct two, mark, walk through, undo one frame's preset.
#[tokio::test(flavor = "multi_thread")]
async fn a_roll_of_eight_is_one_job() {
    let (application, browser, roll, ids) = on_the_sheet(8).await;
    let library = &application.lab.library;

    // the first frame, tuned on the bench
    browser.type_into("#ag-contact", Key::Enter + "").await;
    browser.until("document.getElementById('ag-canvas') !== null").await;
    browser.settled().await;
    browser.until("document.getElementById('track-film.push') !== null").await;
    browser.type_into("[id='track-film.push']", Key::Up + Key::Up).await;
    browser.until("document.querySelector('[data-step=undo]').title.includes('+0.50 EV')").await;
    browser.press("Digit1").await;
    browser.until("document.getElementById('track-scene.exposure') !== null").await;
    browser.type_into("[id='track-scene.exposure']", Key::Up + "").await;
    browser.until("document.querySelector('[data-step=undo]').title.includes('Exposure')").await;

    // kept as a preset: what was tuned is ticked, what is the picture's is not
    browser.press("Shift+KeyQ").await;
    browser.until("document.querySelector('#ag-preset [value=\"film.push\"]')?.checked === true").await;
    assert_eq!(browser.value("document.querySelector('#ag-preset [value=\"scene.exposure\"]').checked").await, false);
    browser.until("document.activeElement.id === 'ag-preset-name'").await;
    browser.type_into("#ag-preset-name", "Evening" + Key::Enter).await;
    browser.until("document.getElementById('ag-messages').innerText.includes('Kept as Evening')").await;
    browser.until("document.querySelector('.modal.show, .modal-backdrop') === null").await;
    browser.settled().await;

    // up to the sheet, where one was; all the others are chosen and get it
    browser.key("keydown", "KeyU").await;
    browser.until("document.getElementById('ag-contact') !== null").await;
    browser.until("document.activeElement.id === 'ag-contact'").await;
    browser.type_into("#ag-contact", Key::Control + "a").await;
    browser.until(&format!("{CHOSEN} === 8")).await;
    browser.type_into("#ag-contact", " ").await;
    browser.until(&format!("{CHOSEN} === 7")).await;
    browser.type_into("#ag-contact", Key::Right + "").await;
    browser.type_into("#ag-contact", "q").await;
    browser.until("document.getElementById('tile-evening') !== null").await;
    browser.click("#tile-evening").await;
    browser.until("document.querySelector('#ag-close h2')?.innerText === 'Evening'").await;
    browser.until("document.getElementById('ag-take').innerText.includes('7 chosen frames')").await;
    browser.click("#ag-take").await;
    browser.until("document.getElementById('ag-messages').innerText.includes('Preset Evening on 7 of 7 frames')").await;
    assert!(ids[1..].iter().all(|id| value(&application, *id, "film.push") == Some(Value::Number(0.5))));
    assert!(ids[1..].iter().all(|id| value(&application, *id, "scene.exposure").is_none()));
    browser.until("document.querySelector('.ag-frame[data-frame=\"3\"] .ag-st').innerText.includes('Evening')").await;

    // two are marked, one of them crossed out; a note; found again by the mark
    browser.type_into("#ag-contact", Key::Escape + "").await;
    browser.type_into("#ag-contact", Key::Home + "m").await;
    browser.until("document.querySelector('.ag-frame[data-mark=keep] .ag-pencil') !== null").await;
    browser.type_into("#ag-contact", Key::Right + "m").await;
    browser.until("document.querySelectorAll('.ag-frame[data-mark=keep]').length === 2").await;
    browser.click("[data-mark=drop]").await;
    browser.until("document.querySelectorAll('.ag-frame[data-mark=drop]').length === 1").await;
    assert_eq!(library.frame(ids[1]).unwrap().summary.mark, Mark::Drop);
    browser.type_into("#ag-contact", Key::Control + "z").await;
    browser.until("document.querySelectorAll('.ag-frame[data-mark=keep]').length === 2").await;
    browser.click("[data-do=note]").await;
    browser.type_into(".ag-inplace", "sky too light" + Key::Enter).await;
    browser.until("document.querySelector('.ag-frame[data-frame=\"2\"] .ag-nt').innerText === 'sky too light'").await;
    browser.choose("[data-ask=mark]", "keep").await;
    browser.until("document.getElementById('ag-count').innerText === '2 of 8 frames'").await;
    browser.choose("[data-ask=mark]", "").await;
    browser.until("document.getElementById('ag-count').innerText === '8 frames'").await;

    // walked through, in the order of the sheet; one frame's preset is taken back alone
    browser.type_into("#ag-contact", Key::Home + Key::Right + Key::Enter).await;
    browser.until("document.getElementById('ag-place')?.innerText === '02 / 08'").await;
    browser.settled().await;
    browser.until("document.getElementById('ag-app').dataset.ahead?.split(' ').includes('3')").await;
    browser.key("keydown", "PageDown").await;
    browser.until("document.getElementById('ag-place')?.innerText === '03 / 08'").await;
    browser.until("document.documentElement.dataset.stood !== undefined").await;
    browser.settled().await;
    browser.until("document.querySelector('.ag-standing') === null").await;
    browser.click("[data-step=undo]").await;
    browser.until("document.getElementById('ag-messages').innerText.includes('Preset Evening')").await;
    assert_eq!(value(&application, ids[2], "film.push"), None);
    assert_eq!(value(&application, ids[3], "film.push"), Some(Value::Number(0.5)));
    browser.settled().await;
    assert_eq!(library.roll(roll).unwrap().frames, 8);
    browser.stop().await;
}

/// Press, Shift, Ctrl and a drag choose; what is done to the chosen is taken back.
#[tokio::test(flavor = "multi_thread")]
async fn frames_are_chosen_and_moved() {
    let (application, browser, roll, ids) = on_the_sheet(8).await;
    let other = application.lab.library.add_roll("Other", 0).unwrap();
    browser.driver.refresh().await.unwrap();
    browser.until("document.querySelectorAll('.ag-frame[data-frame]').length === 8").await;
    let cell = |id: i64| format!(".ag-frame[data-frame='{id}'] .ag-pict");
    browser.click(&cell(ids[1])).await;
    browser.until(&format!("{CHOSEN} === 1")).await;
    let press = |id: i64, how: &str| {
        format!(
            "(() => {{ const b = document.querySelector(\"{}\").getBoundingClientRect(); \
             const at = {{ bubbles: true, button: 0, pointerId: 1, clientX: b.left + 9, clientY: b.top + 9, {how} }}; \
             const el = document.elementFromPoint(at.clientX, at.clientY); \
             document.getElementById('ag-scroll').setPointerCapture = () => {{}}; \
             for (const kind of ['pointerdown', 'pointerup']) el.dispatchEvent(new PointerEvent(kind, at)); \
             return true; }})()",
            cell(id)
        )
    };
    browser.value(&press(ids[4], "shiftKey: true")).await;
    browser.until(&format!("{CHOSEN} === 4")).await;
    browser.value(&press(ids[2], "ctrlKey: true")).await;
    browser.until(&format!("{CHOSEN} === 3")).await;
    // a rectangle from the first frame over two columns and both strips
    let from = browser.driver.find(By::Css(cell(ids[0]))).await.unwrap();
    let to = browser.driver.find(By::Css(cell(ids[7]))).await.unwrap();
    let chain = browser.driver.action_chain().move_to_element_center(&from).click_and_hold();
    chain.move_to_element_center(&to).release().perform().await.unwrap();
    browser.until(&format!("{CHOSEN} === 4")).await;
    browser.until("document.getElementById('ag-marquee').hidden").await;

    // off the roll, and back
    browser.type_into("#ag-contact", Key::Delete + "").await;
    browser.until("document.getElementById('ag-count').innerText === '4 frames'").await;
    browser.until("document.querySelectorAll('.ag-offlist li').length === 4").await;
    browser.click("#ag-messages button").await;
    browser.until("document.getElementById('ag-count').innerText === '8 frames'").await;
    // copied to another roll
    browser.type_into("#ag-contact", Key::Home + " ").await;
    browser.until(&format!("{CHOSEN} === 1")).await;
    browser.click(".ag-chosenbar .dropup > button").await;
    browser.click("[data-do=roll]").await;
    browser.until("document.activeElement.id === 'ag-move-roll'").await;
    browser.choose("#ag-move-roll", &other.to_string()).await;
    browser.click("#ag-roll-move label:has([value=true])").await;
    browser.click("#ag-roll-move .ag-go").await;
    browser.until("document.getElementById('ag-messages').innerText.includes('1 frame copied to Other')").await;
    assert_eq!(application.lab.library.roll(other).unwrap().frames, 1);
    browser.until("document.querySelector('.modal.show, .modal-backdrop') === null").await;
    // renamed in place
    browser.type_into("#ag-contact", Key::F2 + "").await;
    browser.type_into(".ag-inplace", "The hill" + Key::Enter).await;
    browser.until("document.querySelector('.ag-frame .ag-nm').innerText === 'The hill'").await;
    assert_eq!(application.lab.library.frames(roll).unwrap()[0].name, "The hill");
    browser.stop().await;
}

/// With the switch on, what is changed on the bench is changed on all that were chosen, and taken back of all.
#[tokio::test(flavor = "multi_thread")]
async fn chosen_frames_are_changed_together() {
    let (application, browser, _, ids) = on_the_sheet(3).await;
    let stock = application.lab.library.frame(ids[1]).unwrap();
    let mut development = stock.summary.development.clone();
    development.set(&stock.stock, "scene.exposure", Value::Number(1.0)).unwrap();
    let change = amber_library::Change { revision: 0, label: "Exposure".into(), development };
    application.lab.library.commit(ids[1], change, &stock.stock).unwrap();
    browser.type_into("#ag-contact", Key::Control + "a").await;
    browser.until(&format!("{CHOSEN} === 3")).await;
    browser.type_into("#ag-contact", Key::Enter + "").await;
    browser.until("document.getElementById('ag-many')?.hidden === false").await;
    browser.settled().await;
    browser.press("Digit1").await;
    browser.until("document.getElementById('track-scene.exposure') !== null").await;
    browser.click("#ag-many").await;
    browser
        .until(
            "document.querySelector('[data-control=\"scene.exposure\"] .ag-differing')?.innerText === '0.00 EV … \
             +1.00 EV'",
        )
        .await;
    browser.type_into("[id='track-scene.exposure']", Key::Down + "").await;
    browser.until("document.querySelector('[data-step=undo]').title.includes('Exposure')").await;
    let exposures = || ids.iter().map(|id| value(&application, *id, "scene.exposure")).collect::<Vec<_>>();
    let first = exposures()[0].clone().unwrap().as_number().unwrap();
    assert_eq!(exposures()[1], Some(Value::Number(1.0 + first)), "it moved by as much");
    assert_eq!(exposures()[2], Some(Value::Number(first)));
    browser.click("[data-step=undo]").await;
    browser.until("document.getElementById('ag-messages').innerText.includes('Undone')").await;
    assert_eq!(exposures(), [None, Some(Value::Number(1.0)), None]);
    browser.settled().await;
    browser.stop().await;
}

/// A page of thousands of frames is small, and has only what is seen.
#[tokio::test(flavor = "multi_thread")]
async fn a_roll_of_five_thousand_opens() {
    let application = Application::start();
    let library = &application.lab.library;
    let roll = library.add_roll("Long", 0).unwrap();
    let one = application.lab.import(roll, "one.jpg", &picture(60, 40)).unwrap();
    library.copy_frames(vec![one; 4999], roll).unwrap();
    let host = application.address;
    let page = application.send(&format!("GET /rolls/{roll} HTTP/1.1\r\nHost: {host}"), b"");
    assert!(page.len() < 80_000, "the page has {} bytes", page.len());
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&format!("/rolls/{roll}"))).await.unwrap();
    browser.until("document.getElementById('ag-count')?.innerText === '5000 frames'").await;
    browser.until("document.querySelectorAll('.ag-frame[data-frame]').length > 20").await;
    let drawn = "document.querySelectorAll('.ag-frame').length < 140";
    assert_eq!(browser.value(drawn).await, true);
    browser.type_into("#ag-contact", Key::End + "").await;
    browser.until(&format!("document.querySelector('.ag-current')?.dataset.frame === '{}'", one + 4999)).await;
    assert_eq!(browser.value(drawn).await, true);
    browser.type_into("#ag-contact", Key::Control + "a").await;
    browser.until("document.getElementById('ag-chosen').innerText === '5000 frames chosen'").await;
    tokio::time::sleep(Duration::from_millis(300)).await;
    browser.stop().await;
}

/// What a person cannot send from the page is refused with a sentence.
#[test]
fn wrong_requests_are_refused() {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Tour", 0).unwrap();
    let frame = application.lab.import(roll, "a.jpg", &picture(60, 40)).unwrap();
    let host = application.address;
    let post = |path: &str, json: &str| {
        let head = format!("POST {path} HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/json");
        application.send(&head, json.as_bytes())
    };
    let get = |path: &str| application.send(&format!("GET {path} HTTP/1.1\r\nHost: {host}"), b"");
    let lay = |json: &str| post("/selection/preset", json);
    assert!(lay(&format!(r#"{{"frames":[{frame}],"preset":"nothing"}}"#)).starts_with("HTTP/1.1 404"));
    assert!(lay(r#"{"frames":[],"preset":"warm-silver"}"#).contains("choose some first"));
    assert!(lay(&format!(r#"{{"frames":[{frame}],"preset":"warm-silver","strength":300}}"#)).contains("0 to 100 %"));
    assert!(lay(r#"{"frames":[999],"preset":"warm-silver"}"#).starts_with("HTTP/1.1 404"));
    assert!(post("/selection/marks", r#"{"marks":{"1":"five-stars"}}"#).contains("no mark 'five-stars'"));
    assert!(post("/presets", r#"{"version":1,"name":"A","values":{"film.pusch":1}}"#).contains("film.pusch"));
    let delete = application.send(&format!("DELETE /presets/warm-silver HTTP/1.1\r\nHost: {host}"), b"");
    assert!(delete.contains("ships with the application"), "{delete}");
    assert!(post("/selection/name", &format!(r#"{{"frames":[{frame}],"pattern":"{{colour}}"}}"#)).contains("colour"));
    for path in ["/cells?ids=a", "/rolls/99", &format!("/rolls/{roll}/beside?ids=1,1,1,1,1"), "/rolls/1/print?form=gif"]
    {
        let answer = get(path);
        assert!(answer.starts_with("HTTP/1.1 4"), "{path}: {answer}");
    }
    let pdf = get(&format!("/rolls/{roll}/print?form=pdf"));
    assert!(pdf.starts_with("HTTP/1.1 200") && pdf.contains("Tour contact sheet.pdf"));
}

/// The board of presets: strength, a name, what an update would change, a file, deleted and taken back.
#[tokio::test(flavor = "multi_thread")]
async fn presets_are_looked_at_named_updated_and_brought_in() {
    let (application, browser, _, ids) = on_the_sheet(2).await;
    let library = &application.lab.library;
    let text = br#"{"version":1,"name":"Dusk","group":"Mine","values":{"film.push":1,"lens.softness.overall":20}}"#;
    application.lab.import_presets(text).unwrap();
    browser.driver.goto(application.url(&format!("/frames/{}/presets", ids[0]))).await.unwrap();
    browser.until("document.querySelector('.ag-family')?.dataset.family === 'Mine'").await;
    browser.until("document.getElementById('ag-board-page').dataset.filled !== undefined").await;
    browser.click("#tile-dusk").await;
    browser.until("document.querySelector('#ag-close h2')?.innerText === 'Dusk'").await;
    // half the way
    browser.type_into("#ag-strength-number", Key::Control + "a").await;
    browser.type_into("#ag-strength-number", "50" + Key::Tab).await;
    browser.until("document.querySelector('#ag-close img').src.includes('strength=50')").await;
    browser.click("#ag-take").await;
    browser.until("document.getElementById('ag-messages')?.innerText.includes('Preset Dusk at 50 %')").await;
    assert_eq!(value(&application, ids[0], "film.push"), Some(Value::Number(0.5)));
    browser.until("document.getElementById('ag-canvas') !== null").await;
    browser.settled().await;
    browser.click("#ag-messages button").await;
    browser.until("document.querySelector('[data-step=redo]').title.includes('Dusk')").await;
    assert_eq!(value(&application, ids[0], "film.push"), None);
    browser.settled().await;
    // another name; then what the frame would make of it, which is done only when it is asked for
    browser.key("keydown", "KeyQ").await;
    browser.until("document.getElementById('tile-dusk') !== null").await;
    browser.click("#tile-dusk").await;
    browser.until("document.querySelector('#ag-close h2')?.innerText === 'Dusk'").await;
    browser.click("#ag-close summary").await;
    browser.type_into("#ag-close [name=name]", " II").await;
    browser.click("#ag-close form .ag-out").await;
    browser.until("document.querySelector('#tile-dusk b')?.innerText === 'Dusk II'").await;
    browser.until("document.querySelector('#ag-close h2')?.innerText === 'Dusk II'").await;
    browser.click("#ag-close summary").await;
    browser.click("#ag-close [data-update]").await;
    browser.until("document.querySelector('#ag-update.show') !== null").await;
    browser.until("document.getElementById('ag-update-changes').innerText.includes('0.00 EV')").await;
    assert_eq!(library.preset("dusk").unwrap().0.values["film.push"], Value::Number(1.0));
    tokio::time::sleep(Duration::from_millis(400)).await;
    browser.click("#ag-update-go").await;
    browser.until("document.querySelector('#ag-update.show') === null").await;
    browser.until("document.querySelector('#ag-close h2')?.innerText === 'Dusk II'").await;
    assert_eq!(library.preset("dusk").unwrap().0.values["film.push"], Value::Number(0.0));
    // deleted, and back
    browser.click("#ag-close summary").await;
    browser.click("#ag-close [data-preset-delete]").await;
    browser.until("document.getElementById('tile-dusk') === null").await;
    browser.click("#ag-messages button").await;
    browser.until("document.getElementById('tile-dusk') !== null").await;
    // a file with a wrong field is refused by name
    let wrong = application.folder.path().join("wrong.json");
    std::fs::write(&wrong, r#"{"version":1,"name":"A","values":{"film.push":99}}"#).unwrap();
    browser.type_into("#ag-preset-file", wrong.display().to_string()).await;
    browser.until("document.getElementById('ag-messages').innerText.includes('film.push')").await;
    browser.stop().await;
}

/// Files that come together have one progress and one list of what could not be read.
#[tokio::test(flavor = "multi_thread")]
async fn many_files_come_at_once() {
    let (application, browser, roll, _) = on_the_sheet(1).await;
    let folder = application.folder.path();
    let mut paths: Vec<String> = Vec::new();
    for i in 0..12 {
        let path = folder.join(format!("picture-{i}.jpg"));
        std::fs::write(&path, if i % 6 == 5 { b"no picture".to_vec() } else { picture(60 + i, 40) }).unwrap();
        paths.push(path.display().to_string());
    }
    browser.type_into("#ag-files", paths.join("\n")).await;
    browser
        .until(
            "document.getElementById('ag-loading-words').innerText === '10 of 12 loaded, 2 could not be read' && \
             document.querySelectorAll('#ag-uploads li').length === 2",
        )
        .await;
    browser.until("document.getElementById('ag-count').innerText === '11 frames'").await;
    assert_eq!(application.lab.library.roll(roll).unwrap().frames, 11);
    browser.stop().await;
}
