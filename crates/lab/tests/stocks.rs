//! Stocks of one's own and the readings, on a library of its own.

use std::sync::Arc;

use amber_core::StockName;
use amber_core::controls::Value;
use amber_core::render::Alone;
use amber_core::{Catalogue, Development, Stock};
use amber_files::{Limits, write};
use amber_lab::{Lab, Pass, Shown, ViewRequest};
use amber_library::{Change, Library};

struct Place {
    lab: Arc<Lab>,
    frame: i64,
    _folder: tempfile::TempDir,
}

/// A frame with a red, a green, a grey and a white quarter.
fn place() -> Place {
    let folder = tempfile::tempdir().unwrap();
    let lab = Lab::new(Library::open(folder.path()).unwrap(), Limits { megapixels: 2 }, Some(2)).unwrap();
    let roll = lab.library.add_roll("Tour", 0).unwrap();
    let (width, height) = (480u32, 320u32);
    let pixel = |i: u32| match (i % width < width / 2, i / width < height / 2) {
        (true, true) => [190u8, 50, 40],
        (false, true) => [60, 140, 60],
        (true, false) => [118, 118, 118],
        (false, false) => [255, 255, 255],
    };
    let pixels: Vec<u8> = (0..width * height).flat_map(pixel).collect();
    let bytes = write::jpeg(&pixels, width, height, 98, None).unwrap();
    let frame = lab.import(roll, "quarters.jpg", &bytes).unwrap();
    Place { lab: Arc::new(lab), frame, _folder: folder }
}

fn called(name: &str) -> StockName {
    StockName { name: name.into(), family: "mine".into(), notes: "For the quay.".into() }
}

fn set(place: &Place, values: &[(&str, f64)]) -> i64 {
    let frame = place.lab.library.frame(place.frame).unwrap();
    let mut development = frame.summary.development;
    for (id, v) in values {
        development.set(&frame.stock, id, Value::Number(*v)).unwrap();
    }
    let change = Change { revision: frame.summary.revision, label: "tuned".into(), development };
    place.lab.library.commit(place.frame, change, &frame.stock).unwrap().summary.revision
}

#[test]
fn a_tuned_frame_becomes_a_stock_and_looks_the_same() {
    let place = place();
    let revision = set(&place, &[("film.grain.granularity", 30.0), ("film.push", 1.0), ("scene.exposure", 0.5)]);
    let before = place.lab.library.frame(place.frame).unwrap();
    let picture = |lab: &Lab| lab.thumbnail(place.frame, Shown::Developed).unwrap();
    let seen = picture(&place.lab);
    let after = place.lab.keep_as_stock(place.frame, revision, &called("Harbour")).unwrap();
    assert_eq!(after.stock.name(), "Harbour");
    assert_eq!(after.summary.development.values.keys().collect::<Vec<_>>(), ["scene.exposure"]);
    assert_eq!(picture(&place.lab), seen, "the picture stays as it was");
    // one undo brings all back
    let undone = place.lab.library.step(place.frame, after.summary.revision, amber_library::Step::Undo).unwrap();
    assert_eq!(undone.summary.development.values, before.summary.development.values);
    // the file of the new stock goes out and comes in under another id
    let file = place.lab.library.find_stock("harbour").unwrap().to_json();
    assert!(place.lab.import_stock(file.as_bytes()).unwrap_err().to_string().contains("already"));
    place.lab.library.delete_stock("harbour").unwrap();
    assert_eq!(place.lab.import_stock(file.as_bytes()).unwrap().name(), "Harbour");
    assert_eq!(place.lab.rename_stock("harbour", &called("Late harbour")).unwrap().name(), "Late harbour");
    // a frame that was changed elsewhere leaves no stock behind
    assert!(place.lab.keep_as_stock(place.frame, 0, &called("Nothing")).is_err());
    assert!(place.lab.library.find_stock("nothing").is_err());
}

#[test]
fn hostile_files_are_refused() {
    let place = place();
    let plover = Catalogue::first();
    let refused = |bytes: &[u8]| place.lab.import_stock(bytes).unwrap_err().to_string();
    assert!(refused(plover.to_json().as_bytes()).contains("built-in"));
    assert!(refused(&[0xff, 0xfe, 0x00]).contains("not text"));
    assert!(refused(&vec![b' '; (1 << 20) + 1]).contains("larger than 1 MiB"));
    assert!(refused(b"{\"id\": 3}").contains("line 1"));
    let wild = plover.to_json().replace("\"plover\"", "\"wild\"").replace("\"mask\": ", "\"mask\": 9");
    assert!(refused(wild.as_bytes()).contains("mask"), "{}", refused(wild.as_bytes()));
    assert!(place.lab.library.own_stocks().unwrap().is_empty());
}

#[test]
fn the_plane_reads_zone_density_and_lightness() {
    let place = place();
    let lab = &place.lab;
    let stock = Catalogue::first();
    let plane = |development: &Development| {
        let plane = lab.plane(place.frame, development).unwrap();
        let size = (plane.width * plane.height) as usize;
        assert_eq!(plane.values.len(), 11 * size);
        // the middle of the grey quarter
        let at = (plane.height * 3 / 4 * plane.width + plane.width / 4) as usize;
        (0..11).map(|k| plane.values[k * size + at]).collect::<Vec<i16>>()
    };
    let own = plane(&Development::new(&stock));
    assert!(own[0].abs() < 20, "118 of 255 is mid grey: {own:?}");
    assert_eq!(own[1..4], own[4..7], "untuned: now and stock are alike");
    assert!((4000..6500).contains(&own[7]), "L* of mid grey {own:?}");
    let mut tuned = Development::new(&stock);
    tuned.set(&stock, "scene.exposure", Value::Number(1.0)).unwrap();
    tuned.set(&stock, "film.push", Value::Number(1.0)).unwrap();
    let more = plane(&tuned);
    assert!((more[0] - own[0] - 256).abs() < 12, "one stop: {more:?}");
    assert!(more[2] != more[5], "the stock's density is that without the push");
}

#[test]
fn ends_of_the_print_are_marked() {
    let place = place();
    let stock = Catalogue::find("blackthorn").unwrap();
    let reading = |stops: f64| {
        let mut development = Development::new(&stock);
        development.set(&stock, "scene.exposure", Value::Number(stops)).unwrap();
        place.lab.print_reading(place.frame, &development).unwrap()
    };
    let (dark, own, bright) = (reading(-5.0), reading(0.0), reading(5.0));
    assert!(dark.blocked > 0.7 && bright.blown > 0.7 && own.blown > 0.2, "{dark:?} {own:?} {bright:?}");
    assert!(own.banding > 0.1, "line film stretches the greys: {own:?}");
    assert!((own.lightness.iter().sum::<f64>() - 1.0).abs() < 1e-9);
}

#[test]
fn a_place_says_which_hues_move() {
    let place = place();
    let development = Development::new(&Catalogue::first());
    let strongest = |x: f64, y: f64| {
        let shares = place.lab.hues_at(place.frame, &development, [x, y]).unwrap();
        shares.into_iter().max_by(|a, b| a.share.total_cmp(&b.share)).unwrap()
    };
    assert_eq!(strongest(0.25, 0.25).id, "film.hue.red");
    assert_eq!(strongest(0.75, 0.25).id, "film.hue.green");
    assert!(strongest(0.25, 0.75).share < 0.05, "a grey has no hue");
}

#[test]
fn one_effect_is_viewed_alone() {
    let place = place();
    let view = |shown: Shown, pass: Pass| {
        let development = Development::new(&Catalogue::find("nightjar").unwrap());
        let request = ViewRequest {
            frame: place.frame,
            view: "w".into(),
            sequence: 1,
            development,
            overlay: None,
            level: 0,
            region: None,
            pass,
            shown,
            coarser: 0,
        };
        let bytes = place.lab.view(&request).unwrap().bytes;
        amber_files::open(&bytes, Limits::default()).unwrap().source.display_8_bit(amber_core::Region::whole(8, 8))
    };
    let halation = view(Shown::Alone(Alone::Halation), Pass::Settled);
    assert!(halation.iter().all(|v| *v < 40), "far from the edges nothing comes back");
    let grain = view(Shown::Alone(Alone::Grain), Pass::Settled);
    assert!(grain.iter().any(|v| v.abs_diff(128) > 1) && grain.iter().all(|v| v.abs_diff(128) < 90));
}

#[test]
fn stocks_named_by_hash_survive_their_own_change() {
    let place = place();
    let stock = Catalogue::find("tern").unwrap().renamed("mine", &called("Mine")).unwrap();
    place.lab.library.add_stock(&stock).unwrap();
    let found = place.lab.library.stock_of(&Development::new(&stock)).unwrap();
    assert_eq!(*found, stock);
    let mut other: Stock = stock.clone();
    other.iso = 50.0;
    place.lab.library.replace_stock(&other).unwrap();
    assert_eq!(place.lab.library.find_stock("mine").unwrap().iso, 50.0);
}
