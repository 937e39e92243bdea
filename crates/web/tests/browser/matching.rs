//! Matching as a person does it: a grey marked and the picture seated, grain of a patch met, a look taken in parts, a
//! stock fitted to a chart.

use amber_core::Catalogue;
use amber_library::Change;
use thirtyfour::prelude::*;

use crate::application::{Application, picture};
use crate::driver::Browser;

/// A frame, and another on a grainy black-and-white stock beside it.
async fn two(path: impl Fn(i64, i64) -> String) -> (Application, Browser, [i64; 2]) {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Tour", 0).unwrap();
    let [a, b] =
        ["quay", "tower"].map(|n| application.lab.import(roll, &format!("{n}.jpg"), &picture(600, 400)).unwrap());
    let frame = application.lab.library.frame(b).unwrap();
    let stock = Catalogue::find("hawthorn").unwrap();
    let mut development = frame.summary.development;
    development.change_stock(&stock);
    let change = Change { revision: frame.summary.revision, label: "Stock".into(), development };
    application.lab.library.commit(b, change, &stock).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url(&path(a, b))).await.unwrap();
    browser.until("[...document.images].every((i) => i.complete)").await;
    (application, browser, [a, b])
}

#[tokio::test(flavor = "multi_thread")]
async fn a_marked_grey_seats_the_picture() {
    let (application, browser, [frame, _]) = two(|a, _| format!("/frames/{a}/match")).await;
    browser.click("[data-mark=grey]").await;
    assert_eq!(browser.value("document.activeElement.id").await, "ag-match-frame");
    let press = "(() => { const at = document.querySelector('#ag-match-frame img').getBoundingClientRect(); \
                 const place = { clientX: at.left + at.width * 0.4, clientY: at.top + at.height * 0.5 }; \
                 document.getElementById('ag-match-frame') \
                 .dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, ...place })); return true; })()";
    browser.value(press).await;
    browser.until("document.querySelector('.ag-matchmark') !== null").await;
    browser.value("document.getElementById('ag-distance-cm').value = '18'").await;
    browser.click("#ag-seat").await;
    browser.until("document.querySelector('.ag-matchseat') !== null").await;
    let told = browser.value("document.querySelector('.ag-matchseat').textContent").await;
    assert!(told.as_str().unwrap().contains("seen from 18 cm"), "{told}");
    browser.click("[data-take-values]").await;
    browser.until("location.pathname.match(/^.frames.[0-9]+$/) !== null").await;
    let development = application.lab.library.frame(frame).unwrap().summary.development;
    assert!(development.values.contains_key("scene.temperature"), "{:?}", development.values);
    assert!(development.values.contains_key("film.grain.size"), "{:?}", development.values);
    browser.stop().await;
}

/// Undo takes the grain back: it was one ordinary step.
#[tokio::test(flavor = "multi_thread")]
async fn grain_of_a_patch_is_met_and_taken() {
    let (application, browser, [frame, _]) = two(|a, b| format!("/frames/{a}/match?with={b}&as=print")).await;
    for _ in 0..3 {
        browser.type_into("#ag-match-other", Key::Right).await;
    }
    browser.until("document.querySelector('.ag-matchpatch')?.getAttribute('x') > 40").await;
    browser.click("#ag-match-grain").await;
    browser.until("document.querySelectorAll('.ag-matchgrain figure').length === 2").await;
    browser.click("[data-take-values]").await;
    browser.until("location.pathname.match(/^.frames.[0-9]+$/) !== null").await;
    let kept = application.lab.library.frame(frame).unwrap();
    let granularity = kept.summary.development.values.get("film.grain.granularity").cloned();
    assert!(granularity.clone().and_then(|v| v.as_number()).is_some_and(|v| v > 11.0), "{granularity:?}");
    assert_eq!(kept.undo.as_deref(), Some("Matched"));
    browser.stop().await;
}

/// Of a look the stock is taken and a value is not; a picture that tells nothing is refused in a sentence.
#[tokio::test(flavor = "multi_thread")]
async fn a_look_is_taken_in_parts() {
    let (application, browser, [frame, _]) = two(|a, b| format!("/frames/{a}/match?with={b}&as=print")).await;
    browser.click("#ag-match-look").await;
    browser.until("document.querySelector('.ag-matchrun, .ag-matchlook') !== null").await;
    browser.until("document.querySelectorAll('.ag-matchlook').length === 3").await;
    browser.until("[...document.images].every((i) => i.complete && i.naturalWidth > 0)").await;
    let stock = browser.value("document.querySelector('.ag-matchlook [data-part=stock] + b').textContent").await;
    let untick = "document.querySelectorAll('.ag-matchlook:first-child [data-part]:not([data-part=stock])') \
                  .forEach((box) => box.click()) ?? true";
    browser.value(untick).await;
    browser.click(".ag-matchlook:first-child [data-take-look]").await;
    browser.until("location.pathname.match(/^.frames.[0-9]+$/) !== null").await;
    let kept = application.lab.library.frame(frame).unwrap();
    assert_eq!(kept.stock.name(), stock.as_str().unwrap());
    assert!(kept.summary.development.values.is_empty(), "{:?}", kept.summary.development.values);
    let grey = amber_files::write::jpeg(&vec![128; 3 * 300 * 200], 300, 200, 95, None).unwrap();
    let grey = application.lab.add_reference("grey.jpg", &grey).unwrap();
    browser.driver.goto(application.url(&format!("/frames/{frame}/match?with={grey}&as=original"))).await.unwrap();
    browser.click("#ag-match-look").await;
    browser.until("document.querySelector('.ag-toastbar.ag-bad') !== null").await;
    let told = browser.value("document.getElementById('ag-messages').textContent").await;
    assert!(told.as_str().unwrap().contains("oo little in it"), "{told}");
    browser.complained("Error Code 400").await;
    browser.stop().await;
}

/// A chart is read, its patches are found between four corners, a stock is fitted and kept.
#[tokio::test(flavor = "multi_thread")]
async fn a_stock_is_fitted_to_a_chart() {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Tour", 0).unwrap();
    application.lab.import(roll, "quay.jpg", &picture(300, 200)).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url("/charts")).await.unwrap();
    let wedge: String = (0..14)
        .map(|i| {
            let x = -2.0 + 0.25 * f64::from(i);
            format!("wedge,{x},{:.3}\n", 0.16 + 1.7 / (1.0 + (-1.6 * (x - 0.2)).exp()))
        })
        .collect();
    let csv = format!("kind,bw-negative\nname,Fir\niso,125\n{wedge}");
    let drop = format!(
        "(() => {{ const files = new DataTransfer(); \
         files.items.add(new File([{csv:?}], 'fir.csv', {{ type: 'text/csv' }})); \
         const input = document.getElementById('ag-chart-file'); input.files = files.files; \
         input.dispatchEvent(new Event('change', {{ bubbles: true }})); return true; }})()"
    );
    browser.value(&drop).await;
    browser.until("document.getElementById('ag-chart-name').value === 'Fir'").await;
    assert_eq!(browser.value("document.querySelectorAll('#ag-wedge tbody tr').length").await, 14);
    assert_eq!(browser.value("document.getElementById('ag-chart-page').matches('.ag-onelayer')").await, true);
    browser.choose("#ag-published", "cie-13-3").await;
    assert_eq!(browser.value("document.querySelectorAll('#ag-patches tbody tr').length").await, 24);
    browser.click("#ag-chart-fit").await;
    browser.until("document.querySelector('[data-keep-fit]') !== null").await;
    let told = browser.value("document.querySelector('.ag-fit').textContent").await;
    assert!(told.as_str().unwrap().contains("0 patches were measured"), "{told}");
    browser.click("[data-keep-fit]").await;
    browser.until("document.getElementById('ag-messages').textContent.includes('Kept as Fir')").await;
    let kept = application.lab.library.own_stocks().unwrap();
    assert!(kept[0].name() == "Fir" && kept[0].chart.as_ref().is_some_and(|c| c.wedge.len() == 14));
    assert_eq!(kept[0].curves.list().len(), 1);

    // a wrong line is named
    let wrong = drop.replace("kind,bw-negative", "kind,glass");
    browser.value(&wrong).await;
    browser.until("document.getElementById('ag-messages').textContent.includes('line 1')").await;
    browser.stop().await;
}

/// Brings a picture onto the page of charts.
async fn bring_scan(browser: &Browser, file: &[u8]) {
    let bytes = file.iter().map(u8::to_string).collect::<Vec<_>>().join(",");
    let bring = format!(
        "(() => {{ const files = new DataTransfer(); \
         files.items.add(new File([new Uint8Array([{bytes}])], 'scan.jpg', {{ type: 'image/jpeg' }})); \
         const input = document.getElementById('ag-scan-file'); input.files = files.files; \
         input.dispatchEvent(new Event('change', {{ bubbles: true }})); return true; }})()"
    );
    browser.value(&bring).await;
    browser.until("document.querySelector('#ag-scan img').naturalWidth > 0").await;
}

fn set_number(id: &str, v: u32) -> String {
    format!(
        "(() => {{ const el = document.getElementById('{id}'); el.value = {v}; \
         el.dispatchEvent(new Event('input')); return true; }})()"
    )
}

/// A scan of a wedge gives the densities of the steps that were not typed.
#[tokio::test(flavor = "multi_thread")]
async fn a_wedge_is_read_from_a_scan() {
    let application = Application::start();
    application.lab.library.add_roll("Tour", 0).unwrap();
    // five greys: half the light each
    let grey = |i: usize| {
        let light = 0.8 * 0.5f64.powi((i % 300 / 60) as i32);
        [(amber_core::colour::transfer::encode_srgb(light) * 255.0).round() as u8; 3]
    };
    let pixels: Vec<u8> = (0..300 * 60).flat_map(grey).collect();
    let file = amber_files::write::jpeg(&pixels, 300, 60, 98, None).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url("/charts")).await.unwrap();
    browser.choose("#ag-chart-kind", "bw-negative").await;
    bring_scan(&browser, &file).await;
    browser.choose("#ag-scan-of", "wedge").await;
    assert_eq!(browser.value("document.getElementById('ag-across').value").await, "21");
    browser.value(&set_number("ag-across", 5)).await;
    // corners onto those of the scan
    for corner in 0..4 {
        for _ in 0..22 {
            let outwards = if corner == 0 || corner == 3 { Key::Left } else { Key::Right };
            browser.type_into(&format!("[data-corner='{corner}']"), outwards).await;
        }
    }
    // nothing typed: the page says what is missing
    browser.click("#ag-scan-read").await;
    browser.until("document.getElementById('ag-messages').textContent.includes('at least two steps')").await;
    let cell =
        |row: usize| format!("document.querySelectorAll('#ag-wedge tbody tr')[{row}].querySelectorAll('input')[1]");
    for (row, density) in [(0, "0.20"), (4, "1.404")] {
        browser.value(&format!("(() => {{ {}.value = '{density}'; return true; }})()", cell(row))).await;
    }
    browser.click("#ag-scan-read").await;
    browser.until("document.getElementById('ag-messages').textContent.includes('3 steps were read')").await;
    for (row, density) in [(0, 0.2), (1, 0.501), (2, 0.802), (3, 1.103), (4, 1.404)] {
        let read = browser.value(&format!("Number({}.value)", cell(row))).await.as_f64().unwrap();
        assert!((read - density).abs() < 0.02, "{row}: {read}");
    }
    assert_eq!(browser.value("document.querySelectorAll('#ag-wedge tbody tr').length").await, 21);
    browser.stop().await;
}

/// Four corners are dragged, and moved by the arrows; what lies between them is read.
#[tokio::test(flavor = "multi_thread")]
async fn patches_are_found_between_four_corners() {
    let application = Application::start();
    application.lab.library.add_roll("Tour", 0).unwrap();
    // two colours side by side
    let pixel = |i: usize| if i % 300 < 150 { [200u8, 60, 40] } else { [40, 90, 180] };
    let pixels: Vec<u8> = (0..300 * 200).flat_map(pixel).collect();
    let file = amber_files::write::jpeg(&pixels, 300, 200, 98, None).unwrap();
    let browser = Browser::start().await;
    browser.driver.goto(application.url("/charts")).await.unwrap();
    bring_scan(&browser, &file).await;
    browser.value(&set_number("ag-across", 2)).await;
    browser.value(&set_number("ag-down", 1)).await;
    let left = "document.querySelector('[data-corner=\"0\"]').style.left";
    let before = browser.value(left).await;
    browser.type_into("[data-corner='0']", Key::Left).await;
    browser.until(&format!("{left} !== {before}")).await;
    browser.click("#ag-scan-read").await;
    let cell = |row: usize, column: usize| {
        format!(
            "Number(document.querySelectorAll('#ag-patches tbody tr')[{row}].querySelectorAll('input')[{column}].value)"
        )
    };
    browser.until(&format!("{} > 30", cell(0, 5))).await;
    assert!(browser.value(&cell(1, 6)).await.as_f64().unwrap() < -30.0, "the second patch is blue");
    browser.stop().await;
}
