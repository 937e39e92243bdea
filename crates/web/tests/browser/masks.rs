//! Masks on the bench: painted, combined, used to dodge, undone, copied.

use amber_core::controls::Value;
use amber_core::mask::Shape;
use thirtyfour::prelude::*;

use crate::tuning::{UNDO, on_the_bench, value};

#[tokio::test(flavor = "multi_thread")]
async fn a_mask_is_painted_and_burned_through() {
    let (application, browser, id) = on_the_bench("station=scene").await;
    let frame = || application.lab.library.frame(id).unwrap().summary;
    browser.type_into("#ag-canvas", "w").await;
    browser.until("document.querySelector('.ag-masks [data-add=brush]') !== null").await;
    browser.click("[data-add=brush]").await;
    browser.until(&format!("{UNDO}.includes('Mask Brush 1')")).await;
    browser.until("document.querySelector('[data-part-kind=brush]') !== null").await;
    browser.settled().await;
    let plain = browser.pixel(0.5, 0.5).await;

    // a stroke across the middle shows as the mask's colour, and is kept as a line
    let canvas = browser.driver.find(By::Id("ag-canvas")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    drag.move_by_offset(30, 0).move_by_offset(30, 0).move_by_offset(0, 40).release().perform().await.unwrap();
    let strokes = || match &frame().development.masks["1"].parts[0].shape {
        Shape::Brush { strokes } => strokes.clone(),
        other => panic!("{other:?}"),
    };
    for _ in 0..100 {
        if frame().development.masks.get("1").is_some_and(|m| !m.parts.is_empty()) && strokes().len() == 1 {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    let points = &strokes()[0].points;
    assert!(points.len() >= 4 && (points[0][0] - 0.5).abs() < 0.01 && (points[0][1] - 0.5).abs() < 0.01, "{points:?}");
    browser.settled().await;
    let masked = browser.pixel(0.5, 0.5).await;
    assert!(masked[0] > plain[0] + 20 && masked[1] < plain[1], "{plain:?} {masked:?}");

    // burned through it: the overlay steps aside, the middle is darker, the corner is not
    browser.click("[data-add-local]").await;
    browser.until("document.getElementById('field-scene.local.1.exposure') !== null").await;
    browser.type_into("[id='field-scene.local.1.exposure']", Key::Control + "a").await;
    browser.type_into("[id='field-scene.local.1.exposure']", "-2" + Key::Enter).await;
    browser.until(&format!("{UNDO}.includes('Local 1: Exposure')")).await;
    browser.until("document.querySelector('[data-overlay]').getAttribute('aria-pressed') === 'false'").await;
    browser.settled().await;
    let burned = browser.pixel(0.5, 0.5).await;
    assert!(burned[0] + 25 < plain[0] && burned[1] + 25 < plain[1], "{plain:?} {burned:?}");
    assert_eq!(value(&application, id, "scene.local.1.mask"), Some(Value::Choice("1".into())));
    browser.click("[data-column='scene.dodge-and-burn'] [data-tab='Tone and air']").await;
    browser.until("document.getElementById('field-scene.local.1.air').checkVisibility()").await;

    // turned round, then deleted with all that went through it; both undone
    browser.click("[data-invert] + i").await;
    browser.until("document.querySelector('[data-invert]').checked").await;
    browser.until(&format!("{UNDO}.includes('Mask Brush 1')")).await;
    browser.settled().await;
    assert!(browser.pixel(0.5, 0.5).await[1] > burned[1] + 20);
    browser.click("[data-drop-mask]").await;
    browser.until(&format!("{UNDO}.includes('Mask Brush 1 deleted')")).await;
    assert!(frame().development.masks.is_empty() && frame().development.values.is_empty());
    browser.click("[data-step=undo]").await;
    browser.until("document.querySelector('[data-mask=\"1\"]') !== null").await;
    assert_eq!(value(&application, id, "scene.local.1.exposure"), Some(Value::Number(-2.0)));
    browser.stop().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn parts_are_dragged_typed_and_joined_and_a_control_uses_them() {
    let (application, browser, id) = on_the_bench("station=masks").await;
    let frame = || application.lab.library.frame(id).unwrap().summary;
    browser.click("[data-add=ellipse]").await;
    browser.until("document.querySelector('[data-part-kind=ellipse]') !== null").await;
    browser.settled().await;
    let canvas = browser.driver.find(By::Id("ag-canvas")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    drag.move_by_offset(40, 0).move_by_offset(40, 20).release().perform().await.unwrap();
    browser.until("document.querySelector('[data-step=undo]').title.includes('Mask Ellipse 1')").await;
    browser.type_into("[id='field-mask.ellipse.width']", Key::Control + "a").await;
    browser.type_into("[id='field-mask.ellipse.width']", "40" + Key::Enter).await;
    browser.click("[data-add=linear]").await;
    browser.until("document.querySelector('[data-part-kind=linear]') !== null").await;
    browser.choose("[data-join=\"1\"]", "subtract").await;
    browser.until("document.querySelector('[data-join=\"1\"]')?.value === 'subtract'").await;
    browser.settled().await;
    let development = frame().development;
    let parts = &development.masks["1"].parts;
    let Shape::Ellipse(oval) = &parts[0].shape else { panic!("{parts:?}") };
    assert!(oval.centre[0] > 0.55 && oval.centre[1] > 0.5 && (oval.radii[0] - 0.2).abs() < 1e-9, "{oval:?}");
    assert_eq!(parts[1].join, amber_core::mask::Join::Subtract);

    // shake is held off by it, chosen in its list
    browser.type_into("#ag-canvas", "2").await;
    browser.until("document.getElementById('list-lens.shake.mask') !== null").await;
    browser.choose("[data-list=\"lens.shake.mask\"]", "not 1").await;
    browser.until(&format!("{UNDO}.includes('Shake in')")).await;
    assert_eq!(value(&application, id, "lens.shake.mask"), Some(Value::Choice("not 1".into())));
    assert_eq!(
        browser.value("document.getElementById('list-lens.shake.mask').selectedOptions[0].textContent.trim()").await,
        "all but Ellipse 1"
    );
    browser.stop().await;
}

/// On a cropped, mirrored, straightened frame the stroke lies on the original where the hand was on the picture.
#[tokio::test(flavor = "multi_thread")]
async fn strokes_find_their_place_on_a_framed_picture() {
    let (application, browser, id) = on_the_bench("station=lens").await;
    let frame = application.lab.library.frame(id).unwrap();
    let mut development = frame.summary.development.clone();
    for (control, v) in [
        ("lens.mirror", Value::Switch(true)),
        ("lens.crop.size", Value::Number(60.0)),
        ("lens.crop.x", Value::Number(-100.0)),
        ("lens.straighten", Value::Number(4.0)),
    ] {
        development.set(&frame.stock, control, v).unwrap();
    }
    let change = amber_library::Change { revision: 0, label: "framed".into(), development: development.clone() };
    application.lab.library.commit(id, change, &frame.stock).unwrap();
    browser.driver.goto(application.url(&format!("/frames/{id}?station=masks"))).await.unwrap();
    browser.settled().await;
    browser.click("[data-add=brush]").await;
    browser.until("document.querySelector('[data-part-kind=brush]') !== null").await;
    browser.settled().await;
    let canvas = browser.driver.find(By::Id("ag-canvas")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    drag.move_by_offset(24, 0).release().perform().await.unwrap();
    browser.until("document.querySelector('[data-step=undo]').title.includes('Mask Brush 1')").await;
    let strokes = || match &application.lab.library.frame(id).unwrap().summary.development.masks["1"].parts[0].shape {
        Shape::Brush { strokes } => strokes.clone(),
        other => panic!("{other:?}"),
    };
    for _ in 0..100 {
        if !strokes().is_empty() {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    let settings = amber_core::stations::lens::LensSettings::framing(&development.values(&frame.stock));
    let framing = amber_core::picture::framing::Framing::new(&settings, 900, 600);
    let wanted = framing.source_of([0.5, 0.5]);
    let found = strokes()[0].points[0];
    assert!((found[0] - wanted[0]).abs() < 0.004 && (found[1] - wanted[1]).abs() < 0.004, "{found:?} {wanted:?}");
    // mirrored: to the right on the picture is to the left on the original
    assert!(strokes()[0].points.last().unwrap()[0] < found[0]);
    browser.stop().await;
}

/// A tone is picked on the picture, the overlay toggled by its key, the brush sized by brackets, the mask copied.
#[tokio::test(flavor = "multi_thread")]
async fn a_range_is_picked_and_the_mask_is_copied() {
    let (application, browser, id) = on_the_bench("station=masks").await;
    let roll = application.lab.library.frame(id).unwrap().summary.roll;
    let other = application.lab.import(roll, "mill.jpg", &crate::application::picture(600, 400)).unwrap();
    browser.driver.refresh().await.unwrap();
    browser.settled().await;
    browser.click("[data-add=tone]").await;
    browser.until("document.querySelector('[data-part-kind=tone]') !== null").await;
    browser.settled().await;
    browser.click("#ag-canvas").await;
    browser.until("document.getElementById('ag-tag').textContent.startsWith('Zone ')").await;
    let range = || match &application.lab.library.frame(id).unwrap().summary.development.masks["1"].parts[0].shape {
        Shape::Tone(range) => range.clone(),
        other => panic!("{other:?}"),
    };
    for _ in 0..100 {
        if (range().high - range().low - 1.0).abs() < 1e-6 {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    assert!((range().high - range().low - 1.0).abs() < 1e-6 && (0.0..10.0).contains(&range().low), "{:?}", range());

    // Q takes the overlay away and lays it again
    browser.settled().await;
    let over = browser.pixel(0.5, 0.5).await;
    browser.type_into("#ag-canvas", "q").await;
    browser.until("document.querySelector('[data-overlay]').getAttribute('aria-pressed') === 'false'").await;
    browser.settled().await;
    let without = browser.pixel(0.5, 0.5).await;
    assert!(over[0] > without[0] + 15, "{without:?} {over:?}");

    // a second part; brackets size the brush, and its number follows
    browser.click("[data-add=brush]").await;
    browser.until("document.querySelector('[data-part-kind=brush]') !== null").await;
    browser.type_into("#ag-canvas", "]]").await;
    browser.until("Number(document.querySelector('[data-control=\"mask.brush.size\"]').dataset.value) > 10").await;
    browser.click("[data-drop-part='1']").await;
    browser.until("document.querySelectorAll('.ag-part').length === 1").await;

    // copied: the other frame has it as its own
    browser.click("[data-copy-mask]").await;
    browser.until("document.getElementById('ag-copy').classList.contains('show')").await;
    let checked = format!("document.querySelector('#ag-copy-form input[value=\"{other}\"]').checked = true");
    browser.value(&checked).await;
    browser.click("#ag-copy .ag-go").await;
    browser.until("document.getElementById('ag-messages').innerText.includes('Copied to 1 frame')").await;
    let copied = application.lab.library.frame(other).unwrap();
    assert_eq!(copied.summary.development.masks["1"].parts.len(), 1);
    assert!(copied.undo.unwrap().contains("copied here"));
    browser.stop().await;
}

/// Masks with thousands of points are as good as small ones: undone, done again, painted on.
#[tokio::test(flavor = "multi_thread")]
async fn masks_of_many_strokes_go_back_and_forth() {
    let (application, browser, id) = on_the_bench("station=scene").await;
    let frame = application.lab.library.frame(id).unwrap();
    let mut development = frame.summary.development.clone();
    let point = |i: usize| [0.1 + 0.000_371_234_567 * i as f64, 0.2 + 0.000_291_234_567 * i as f64];
    let stroke = |k: usize| amber_core::mask::Stroke {
        size: 0.02,
        softness: 0.5,
        strength: 0.5,
        erase: false,
        points: (0..40).map(|i| point(i + 3 * k)).collect(),
    };
    let shape = Shape::Brush { strokes: (0..400).map(stroke).collect() };
    let part = amber_core::mask::Part { join: amber_core::mask::Join::Add, shape };
    let mask = amber_core::mask::Mask { name: "Many".into(), parts: vec![part], ..Default::default() };
    development.masks.insert("1".into(), mask);
    assert!(serde_json::to_string(&development.masks).unwrap().len() > 500_000);
    let change = amber_library::Change { revision: 0, label: "many strokes".into(), development };
    application.lab.library.commit(id, change, &frame.stock).unwrap();
    browser.driver.goto(application.url(&format!("/frames/{id}?station=masks"))).await.unwrap();
    browser.settled().await;
    let canvas = browser.driver.find(By::Id("ag-canvas")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    drag.move_by_offset(24, 0).release().perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Mask Many')")).await;
    let strokes = || match &application.lab.library.frame(id).unwrap().summary.development.masks["1"].parts[0].shape {
        Shape::Brush { strokes } => strokes.len(),
        other => panic!("{other:?}"),
    };
    assert_eq!(strokes(), 401);
    browser.click("[data-step=undo]").await;
    browser.until(&format!("{UNDO}.includes('many strokes')")).await;
    browser.settled().await;
    assert_eq!(strokes(), 400);
    // what is painted next builds on what is kept
    let canvas = browser.driver.find(By::Id("ag-canvas")).await.unwrap();
    let drag = browser.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    drag.move_by_offset(0, 24).release().perform().await.unwrap();
    browser.until(&format!("{UNDO}.includes('Mask Many')")).await;
    assert_eq!(strokes(), 401);
    browser.stop().await;
}
