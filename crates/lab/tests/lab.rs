//! The lab's work on a library of its own: opening, thumbnails, views, readings, exports.

use std::sync::Arc;
use std::time::Duration;

use amber_core::controls::Value;
use amber_core::{Catalogue, Region, Station};
use amber_files::{Bits, Encoding, Limits, write};
use amber_lab::{Against, ExportSettings, ExportState, Lab, LabError, Output, Pass, Shown, Size, ViewRequest};
use amber_library::{Change, Library};

struct Place {
    lab: Arc<Lab>,
    roll: i64,
    folder: tempfile::TempDir,
}

fn place() -> Place {
    let folder = tempfile::tempdir().unwrap();
    let lab = Lab::new(Library::open(folder.path()).unwrap(), Limits { megapixels: 2 }, Some(2)).unwrap();
    let roll = lab.library.add_roll("Tour", 0).unwrap();
    Place { lab: Arc::new(lab), roll, folder }
}

fn picture(width: u32, height: u32) -> Vec<u8> {
    let pixel = |i: u32| [(i % width * 200 / width) as u8 + 20, (i / width * 180 / height) as u8 + 30, 110];
    let pixels: Vec<u8> = (0..width * height).flat_map(pixel).collect();
    write::jpeg(&pixels, width, height, 94, None).unwrap()
}

fn view(place: &Place, frame: i64, level: u8, pass: Pass, shown: Shown) -> ViewRequest {
    let development = place.lab.library.frame(frame).unwrap().summary.development;
    ViewRequest {
        frame,
        view: "w".into(),
        sequence: 1,
        development,
        overlay: None,
        level,
        region: None,
        pass,
        coarser: 0,
        shown,
    }
}

fn decoded(bytes: &[u8]) -> amber_core::Source {
    amber_files::open(bytes, Limits::default()).unwrap().source
}

/// Waits for an export to end.
fn ended(lab: &Lab, id: i64) -> ExportState {
    assert!(lab.wait_for_export(id, Duration::from_secs(120)).unwrap(), "the export does not end");
    lab.export(id).unwrap().state
}

#[test]
fn what_cannot_be_opened_leaves_nothing() {
    let place = place();
    for bytes in [b"text".to_vec(), picture(2000, 1500), picture(90, 60)[..900].to_vec()] {
        assert!(matches!(place.lab.import(place.roll, "a.jpg", &bytes), Err(LabError::File(_))));
    }
    assert!(place.lab.library.frames(place.roll).unwrap().is_empty());
    assert_eq!(std::fs::read_dir(place.folder.path().join("originals")).unwrap().count(), 0);
}

#[test]
fn thumbnails_follow_the_development_and_are_kept() {
    let place = place();
    let juniper = Catalogue::find("juniper").unwrap();
    let id = place.lab.import_on(place.roll, "hill-road.jpg", &picture(900, 600), &juniper).unwrap();
    let grey = decoded(&place.lab.thumbnail(id, Shown::Developed).unwrap());
    let colour = decoded(&place.lab.thumbnail(id, Shown::Original).unwrap());
    assert_eq!((grey.width(), colour.width()), (grey.width().max(480), grey.width()));
    let saturation = |s: &amber_core::Source| {
        let middle = s.display_8_bit(Region::new(s.width() / 2, s.height() / 8, 1, 1));
        middle.iter().max().unwrap() - middle.iter().min().unwrap()
    };
    assert!(saturation(&grey) < 12 && saturation(&colour) > 20);
    assert_eq!(std::fs::read_dir(place.folder.path().join("cache")).unwrap().count(), 2);
    // the cache may be deleted at any time
    std::fs::remove_dir_all(place.folder.path().join("cache")).unwrap();
    assert!(place.lab.thumbnail(id, Shown::Developed).is_ok());
}

#[test]
fn views_have_the_size_of_their_zoom_step() {
    let place = place();
    let id = place.lab.import(place.roll, "a.jpg", &picture(1200, 800)).unwrap();
    let settled = place.lab.view(&view(&place, id, 2, Pass::Settled, Shown::Developed)).unwrap();
    assert_eq!((settled.region, settled.media_type), (Region::whole(600, 400), "image/jpeg"));
    let quick = place.lab.view(&view(&place, id, 2, Pass::Quick, Shown::Developed)).unwrap();
    assert_eq!(quick.region, Region::whole(300, 200));
    // smaller by a step of the root of two where the pace asks, and by no more than two
    for (coarser, size) in [(1, [212, 141]), (2, [150, 100]), (9, [150, 100])] {
        let asked = ViewRequest { coarser, ..view(&place, id, 2, Pass::Quick, Shown::Developed) };
        assert_eq!(place.lab.view(&asked).unwrap().region, Region::whole(size[0], size[1]), "{coarser}");
        let region = Some(Region::new(101, 50, 300, 200));
        let part = place.lab.view(&ViewRequest { region, ..asked }).unwrap();
        let scale = f64::from(size[0]) / 600.0;
        let covers = |from: u32, to: u32, low: u32, high: u32| {
            f64::from(from) <= f64::from(low) * scale + 1e-3 && f64::from(to) >= f64::from(high) * scale - 1.0
        };
        let r = part.region;
        assert!(covers(r.x, r.right(), 101, 401) && covers(r.y, r.bottom(), 50, 250), "{r:?}");
    }
    let still = ViewRequest { coarser: 2, ..view(&place, id, 2, Pass::Settled, Shown::Developed) };
    assert_eq!(place.lab.view(&still).unwrap().region, settled.region);
    let part = ViewRequest {
        region: Some(Region::new(1100, 700, 500, 500)),
        ..view(&place, id, 0, Pass::Settled, Shown::Developed)
    };
    let part = place.lab.view(&part).unwrap();
    assert_eq!((part.region, part.media_type), (Region::new(1100, 700, 100, 100), "image/png"));
    let error = place.lab.view(&view(&place, id, 13, Pass::Settled, Shown::Developed)).unwrap_err();
    assert!(matches!(error, LabError::Level(13)));
}

/// 1:1 is lossless and equal to the 16-bit export, rounded.
#[test]
fn one_to_one_is_the_export() {
    let place = place();
    let id = place.lab.import(place.roll, "a.jpg", &picture(640, 480)).unwrap();
    let region = Region::new(200, 100, 150, 90);
    let request = ViewRequest { region: Some(region), ..view(&place, id, 0, Pass::Settled, Shown::Developed) };
    let seen = decoded(&place.lab.view(&request).unwrap().bytes);
    let tiff = Output { encoding: Encoding::Tiff { bits: Bits::Sixteen, deflate: false }, ..Output::default() };
    let order = ExportSettings::of(id, "whole", tiff);
    let export = place.lab.start_export(order).unwrap();
    assert!(matches!(ended(&place.lab, export), ExportState::Done { .. }));
    let file = std::fs::read(place.lab.export_file(export).unwrap()).unwrap();
    let mut decoder = tiff::decoder::Decoder::new(std::io::Cursor::new(&file)).unwrap();
    let tiff::decoder::DecodingResult::U16(codes) = decoder.read_image().unwrap() else { panic!("16 bits") };
    let shown = seen.display_8_bit(seen.region());
    for y in 0..90usize {
        for x in 0..150usize {
            for k in 0..3 {
                let code = codes[3 * ((y + 100) * 640 + x + 200) + k] as u32;
                assert_eq!(u32::from(shown[3 * (y * 150 + x) + k]), (code + 128) / 257, "{x},{y}");
            }
        }
    }
}

#[test]
fn the_original_is_shown_as_it_came() {
    let place = place();
    let bytes = picture(300, 200);
    let id = place.lab.import(place.roll, "a.jpg", &bytes).unwrap();
    let seen = decoded(&place.lab.view(&view(&place, id, 0, Pass::Settled, Shown::Original)).unwrap().bytes);
    let source = decoded(&bytes);
    assert!(seen.display_8_bit(seen.region()) == source.display_8_bit(source.region()));
}

#[test]
fn readings_follow_exposure() {
    let place = place();
    let id = place.lab.import(place.roll, "a.jpg", &picture(600, 400)).unwrap();
    let stock = Catalogue::first();
    let own = place.lab.library.frame(id).unwrap().summary.development;
    let mut more = own.clone();
    more.set(&stock, "scene.exposure", Value::Number(2.0)).unwrap();
    more.set(&stock, "film.push", Value::Number(1.0)).unwrap();
    let mean_zone = |zones: [f64; 11]| zones.iter().enumerate().map(|(i, s)| i as f64 * s).sum::<f64>();
    let (a, b) = (place.lab.film_reading(id, &own).unwrap(), place.lab.film_reading(id, &more).unwrap());
    assert!((a.zones.iter().sum::<f64>() - 1.0).abs() < 1e-9);
    assert!((mean_zone(b.zones) - mean_zone(a.zones) - 2.0).abs() < 0.25);
    assert_eq!(a.layers.len(), 3);
    assert!(a.layers[0].now == a.layers[0].stock && b.layers[0].now != b.layers[0].stock);
}

#[test]
fn exports_are_named_numbered_and_marked() {
    let place = place();
    let id = place.lab.import(place.roll, "hill-road.jpg", &picture(640, 480)).unwrap();
    let order = |name: &str, size: Size| ExportSettings::of(id, name, Output { size, ..Output::default() });
    let first = place.lab.start_export(order("../My print", Size::Full)).unwrap();
    let second = place.lab.start_export(order("../My print", Size::LongEdge { px: 320 })).unwrap();
    assert!(matches!(ended(&place.lab, first), ExportState::Done { .. }));
    assert!(matches!(ended(&place.lab, second), ExportState::Done { .. }));
    let folder = place.folder.path().join("exports");
    let size = |name: &str| {
        let source = decoded(&std::fs::read(folder.join(name)).unwrap());
        (source.width(), source.height())
    };
    assert_eq!(size("My print.jpg"), (640, 480));
    assert_eq!(size("My print 2.jpg"), (320, 240));
    assert!(place.lab.library.frame(id).unwrap().summary.exported);
    assert!(matches!(place.lab.start_export(order("..", Size::Full)), Err(LabError::ExportName)));
    let tiny = order("a", Size::LongEdge { px: 3 });
    assert!(matches!(place.lab.start_export(tiny), Err(LabError::Side(3))));
    assert!(place.lab.export_file(99).is_err());
}

#[test]
fn old_work_keeps_the_stock_it_was_made_with() {
    let place = place();
    let id = place.lab.import(place.roll, "a.jpg", &picture(90, 60)).unwrap();
    let frame = place.lab.library.frame(id).unwrap();
    // a stock that has since been changed: the library still has its copy
    let mut older = (*frame.stock).clone();
    older.iso = 160.0;
    let development = amber_core::Development::new(&older);
    let change = Change { revision: frame.summary.revision, label: "older".into(), development };
    let again = place.lab.library.commit(id, change, &older).unwrap();
    assert_eq!(again.stock.iso, 160.0);
    assert_ne!(again.stock.content_hash(), Catalogue::first().content_hash());
}

/// The log comes by the page, newest first, each step with the station at which it changed something.
#[test]
fn the_log_is_read_a_page_at_a_time() {
    let place = place();
    let frame = place.lab.import(place.roll, "quay.jpg", &picture(60, 40)).unwrap();
    let stock = Catalogue::first();
    for step in 0..130 {
        let now = place.lab.library.frame(frame).unwrap().summary;
        let mut development = now.development;
        let (id, label) = if step % 2 == 0 { ("scene.exposure", "Exposure") } else { ("film.push", "Push") };
        development.set(&stock, id, Value::Number(f64::from(step % 7 + 1) * 0.25)).unwrap();
        let change = Change { revision: now.revision, label: format!("{label} {step}"), development };
        place.lab.library.commit(frame, change, &stock).unwrap();
    }
    let (newest, more) = place.lab.log(frame, None).unwrap();
    assert!(more && newest.len() == 60 && newest[0].now && !newest[0].ahead);
    assert_eq!((newest[0].label.as_str(), newest[0].station), ("Push 129", Some(Station::Film)));
    assert_eq!(newest[1].station, Some(Station::Scene));
    let (second, _) = place.lab.log(frame, newest.last().map(|step| step.step)).unwrap();
    assert_eq!(second[0].step, newest[59].step - 1);
    let (last, more) = place.lab.log(frame, second.last().map(|step| step.step)).unwrap();
    assert!(!more && last.len() == 11);
    assert_eq!((last[10].label.as_str(), last[10].station), ("Loaded", None));
}

/// Versions by name; along the line what comes later is off, and what is being changed counts.
#[test]
fn versions_of_a_frame_are_known_by_name() {
    let place = place();
    let id = place.lab.import(place.roll, "quay.jpg", &picture(60, 40)).unwrap();
    let frame = place.lab.library.frame(id).unwrap();
    let mut now = frame.summary.development.clone();
    for (control, v) in [("lens.crop.size", 80.0), ("print.exposure", 0.5)] {
        now.set(&frame.stock, control, Value::Number(v)).unwrap();
    }
    let of = |name: &str| place.lab.against(&frame, &now, Against::named(name).unwrap()).unwrap();
    assert_eq!(of("stock").values.keys().collect::<Vec<_>>(), ["lens.crop.size"], "framed as the picture is");
    assert!(of("kept").values.is_empty());
    assert_eq!(of("after:tone").off.iter().collect::<Vec<_>>(), ["surface", "years"]);
    assert_eq!(of("itself:bath").off.len(), 4);
    assert_eq!(of("after:print").values, now.values);
    assert!(Against::named("proof:x").is_none() && Against::named("after:attic").is_none());
    assert!(place.lab.against(&frame, &now, Against::Proof(7)).is_err());
}
