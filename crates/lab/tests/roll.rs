//! A roll as one job: presets laid on many frames, developments copied, several frames tuned at once, a roll metered,
//! its contact sheet printed.

use std::collections::BTreeMap;
use std::sync::Arc;
use std::time::{Duration, Instant};

use amber_core::controls::Value;
use amber_core::{Catalogue, Chosen, Development, Preset, PresetName, stations};
use amber_files::{Limits, write};
use amber_lab::{Differs, Lab, LabError, PrintForm, Tuned};
use amber_library::{Change, Library, Mark, Step};

struct Place {
    lab: Arc<Lab>,
    roll: i64,
    folder: tempfile::TempDir,
}

impl Place {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let lab = Lab::new(Library::open(folder.path()).unwrap(), Limits::default(), Some(2)).unwrap();
        let roll = lab.library.add_roll("Tour", 0).unwrap();
        Self { lab: Arc::new(lab), roll, folder }
    }

    fn frames<const N: usize>(&self) -> [i64; N] {
        std::array::from_fn(|i| self.lab.import(self.roll, &format!("frame-{i}.jpg"), &picture(i as u8)).unwrap())
    }

    fn development(&self, frame: i64) -> Development {
        self.lab.library.frame(frame).unwrap().summary.development
    }

    fn tune(&self, frame: i64, values: &[(&str, Value)]) {
        let now = self.lab.library.frame(frame).unwrap();
        let mut development = now.summary.development;
        for (id, value) in values {
            development.set(&now.stock, id, value.clone()).unwrap();
        }
        let change = Change { revision: now.summary.revision, label: "Tuned".into(), development };
        self.lab.library.commit(frame, change, &now.stock).unwrap();
    }

    fn keep(&self, frame: i64, name: &str) -> Preset {
        let chosen = Chosen::look_of(&self.development(frame));
        let called = PresetName { name: name.into(), group: "Mine".into(), notes: String::new() };
        self.lab.keep_preset(frame, &chosen, &called).unwrap()
    }
}

fn picture(shade: u8) -> Vec<u8> {
    let pixel = |i: u32| [(i % 60 * 3) as u8 + 20, (i / 60 * 4) as u8 + 30, 90 + shade];
    write::jpeg(&(0..2400).flat_map(pixel).collect::<Vec<_>>(), 60, 40, 94, None).unwrap()
}

fn number(v: f64) -> Value {
    Value::Number(v)
}

#[test]
fn a_preset_is_laid_on_all_and_taken_back() {
    let place = Place::new();
    let [maker, a, b] = place.frames();
    place.tune(maker, &[("film.push", number(1.0)), ("scene.exposure", number(0.5)), ("film.grain.seed", number(7.0))]);
    place.tune(a, &[("film.push", number(-1.0)), ("scene.exposure", number(-0.5))]);
    let before = [a, b].map(|id| place.development(id));
    let evening = place.keep(maker, "Evening");
    let other = place
        .lab
        .import_presets(br#"{"version":1,"name":"Softer","values":{"lens.softness.overall":20,"film.push":0.5}}"#);
    let other = other.unwrap().remove(0);
    let laid = place.lab.lay_preset(&evening.id, &[a, b], 1.0).unwrap();
    assert_eq!(laid.frames, [a, b]);
    assert_eq!(laid.message, "Preset Evening on 2 of 2 frames. Replaced: push, pull.");
    let after = place.development(a);
    assert_eq!((&after.values["film.push"], &after.values["scene.exposure"]), (&number(1.0), &number(-0.5)));
    assert!(!after.values.contains_key("film.grain.seed"), "every frame has its own piece of film");
    assert_ne!(place.development(a).seed, place.development(b).seed);
    // another over it: its values win, the rest stays; undo twice is where it began
    let second = place.lab.lay_preset(&other, &[a, b], 1.0).unwrap();
    assert_eq!(place.lab.library.frame(b).unwrap().summary.presets, [evening.id.clone(), other]);
    place.lab.undo_together(second.batch).unwrap();
    place.lab.undo_together(laid.batch).unwrap();
    assert_eq!([a, b].map(|id| place.development(id)), before);
    // one frame's preset is taken back alone
    place.lab.lay_preset(&evening.id, &[a, b], 1.0).unwrap();
    let revision = place.lab.library.frame(a).unwrap().summary.revision;
    place.lab.step(a, revision, Step::Undo).unwrap();
    assert_eq!(place.development(a), before[0]);
    assert_ne!(place.development(b), before[1]);
    assert!(matches!(place.lab.lay_preset(&evening.id, &[], 1.0), Err(LabError::NoFrames)));
    // nothing of the way: no step, and nothing to take back
    let nothing = place.lab.lay_preset(&evening.id, &[a, b], 0.0).unwrap();
    assert_eq!((nothing.batch, nothing.frames.len()), (0, 0));
    // a frame that is not there: none is changed
    let now = place.development(a);
    assert!(place.lab.lay_preset(&evening.id, &[a, 9999], 1.0).is_err());
    assert_eq!(place.development(a), now);
}

#[test]
fn a_preset_comes_back_from_its_file_and_is_updated() {
    let place = Place::new();
    let [maker, ..] = place.frames::<1>();
    place.tune(maker, &[("film.push", number(1.0)), ("print.exposure", number(0.1))]);
    let kept = place.keep(maker, "Evening");
    let file = kept.to_json();
    place.lab.library.drop_preset(&kept.id, true).unwrap();
    let Place { lab, folder, .. } = place;
    drop(lab);
    let lab = Lab::new(Library::open(folder.path()).unwrap(), Limits::default(), Some(2)).unwrap();
    let again = lab.import_presets(file.as_bytes()).unwrap().remove(0);
    assert_eq!(lab.library.preset(&again).unwrap().0, kept, "export, delete, import gives the same");
    for wrong in [&b"\xff\xfe"[..], b"{", br#"{"version":1,"name":"A","values":{"film.push":[1,2]}}"#] {
        assert!(lab.import_presets(wrong).is_err());
    }
    let mut development = lab.library.frame(maker).unwrap().summary.development;
    development.values.insert("film.push".into(), number(0.25));
    let stock = Catalogue::first();
    let change = Change { revision: 1, label: "Less".into(), development };
    lab.library.commit(maker, change, &stock).unwrap();
    let (_, changes) = lab.updated_preset(&again, maker).unwrap();
    assert_eq!(changes.len(), 1);
    assert_eq!((changes[0].label.as_str(), changes[0].after.as_deref()), ("Push, pull", Some("+0.25 EV")));
    assert_eq!(lab.library.preset(&again).unwrap().0.values["film.push"], number(1.0), "shown, not done");
    lab.update_preset(&again, maker).unwrap();
    assert_eq!(lab.library.preset(&again).unwrap().0.values["film.push"], number(0.25));
}

#[test]
fn a_stock_of_ones_own_travels_in_the_preset() {
    let place = Place::new();
    let [maker, ..] = place.frames::<1>();
    place.tune(maker, &[("film.grain.granularity", number(31.0))]);
    let called = amber_core::StockName { name: "Quay".into(), family: "mine".into(), notes: String::new() };
    place.lab.keep_as_stock(maker, 1, &called).unwrap();
    let preset = place.keep(maker, "On the quay");
    let other = Place::new();
    let [frame, ..] = other.frames::<1>();
    let id = other.lab.import_presets(preset.to_json().as_bytes()).unwrap().remove(0);
    other.lab.lay_preset(&id, &[frame], 1.0).unwrap();
    let there = other.lab.library.frame(frame).unwrap();
    assert_eq!((there.stock.name(), place.lab.library.frame(maker).unwrap().stock), ("Quay".into(), there.stock));
}

#[test]
fn a_development_is_copied_by_its_parts() {
    let place = Place::new();
    let [from, a, b] = place.frames();
    place.tune(from, &[("film.push", number(1.0)), ("scene.exposure", number(0.5))]);
    let look = Chosen::look_of(&place.development(from));
    place.lab.copy_development(from, &look, &[from, a]).unwrap();
    assert_eq!(place.development(a).values.keys().collect::<Vec<_>>(), ["film.push"]);
    let light = Chosen { controls: ["scene.exposure".to_string()].into(), ..Chosen::default() };
    place.lab.copy_development(from, &light, &[b]).unwrap();
    assert_eq!(place.development(b).values.keys().collect::<Vec<_>>(), ["scene.exposure"]);
    assert!(matches!(place.lab.copy_development(from, &Chosen::default(), &[a]), Err(LabError::EmptyPreset)));
    let back = place.lab.back_to_stock(&[a, b]).unwrap();
    assert!(place.development(a).values.is_empty());
    assert_eq!(place.development(b).values.len(), 1, "exposure is the picture's");
    assert_eq!(back.frames, [a]);
}

#[test]
fn what_is_changed_of_one_is_changed_of_all() {
    let place = Place::new();
    let [a, b, c] = place.frames();
    place.tune(a, &[("scene.exposure", number(0.5)), ("film.push", number(0.5))]);
    place.tune(b, &[("scene.exposure", number(-1.0)), ("scene.temperature", number(4000.0))]);
    let differing = place.lab.differing(&[a, b, c]).unwrap();
    let exposure = Differs::Between("\u{2212}1.00 EV".into(), "+0.50 EV".into());
    assert_eq!(differing["scene.exposure"], exposure);
    assert!(!differing.contains_key("scene.tint"));
    let mut values: BTreeMap<String, Value> = place.development(a).values;
    values.insert("scene.exposure".into(), number(1.0));
    values.insert("scene.temperature".into(), number(5000.0));
    values.insert("print.exposure".into(), number(0.2));
    values.remove("film.push");
    let tuned = Tuned { revision: 1, values, masks: BTreeMap::new(), off: None };
    let (frame, followed) = place.lab.tune_all(a, tuned, &[a, b, c]).unwrap();
    assert_eq!(followed, 2);
    let of = |id: i64, control: &str| {
        let control = stations::find(control).unwrap();
        place.development(id).written(&frame.stock).number(control)
    };
    // what belongs to the picture moves by as much, in mired where that is its measure; the rest is as it is there
    assert_eq!([a, b, c].map(|id| of(id, "scene.exposure")), [1.0, -0.5, 0.5]);
    let own = Catalogue::first();
    let own = stations::find("scene.temperature").unwrap().own_value(&own).as_number().unwrap();
    let moved = 1e6 / 5000.0 - 1e6 / own;
    let mired = 1e6 / of(b, "scene.temperature");
    assert!((mired - (250.0 + moved)).abs() < 2.0, "{mired}");
    assert_eq!([a, b, c].map(|id| of(id, "print.exposure")), [0.2; 3]);
    assert_eq!([a, b, c].map(|id| of(id, "film.push")), [0.0; 3]);
    // and taken back of all
    place.lab.undo_all(a, frame.summary.revision).unwrap();
    assert_eq!([a, b, c].map(|id| of(id, "scene.exposure")), [0.5, -1.0, 0.0]);
}

#[test]
fn a_roll_is_metered_as_a_series() {
    let place = Place::new();
    let all: [i64; 3] = place.frames();
    let metered = place.lab.meter_roll(&all, false, false).unwrap();
    assert_eq!(metered.len(), 3);
    let balance = |metered: &amber_lab::FrameMetering| -> Vec<Value> {
        let of = |v: &&amber_lab::Metered| matches!(v.id, "scene.temperature" | "scene.tint");
        metered.values.iter().filter(of).map(|v| v.after.clone()).collect()
    };
    let held = place.lab.meter_roll(&all, true, false).unwrap();
    assert!(held.iter().all(|m| m.series == 1 && balance(m) == balance(&held[0])), "one light, one balance");
    assert_eq!(place.development(all[0]).values.len(), 0, "nothing is applied");
    let values = held.iter().map(|m| (m.frame.id, m.values.iter().map(|v| (v.id.into(), v.after.clone())).collect()));
    let taken = place.lab.set_on_each("Metered", values.collect()).unwrap();
    assert_eq!(taken.frames.len(), 3);
    place.lab.undo_together(taken.batch).unwrap();
    assert!(all.iter().all(|id| place.development(*id).values.is_empty()));
    let wrong = BTreeMap::from([(all[0], BTreeMap::from([("scene.exposure".to_string(), number(99.0))]))]);
    assert!(place.lab.set_on_each("Metered", wrong).is_err());
}

#[test]
fn frames_are_named_by_a_pattern_and_printed() {
    let place = Place::new();
    let all: [i64; 3] = place.frames();
    let before = place.lab.rename_by(&all, "{roll} {number:03}, {stock}").unwrap();
    assert_eq!(before[0].1, "Frame 0");
    assert_eq!(place.lab.library.frame(all[2]).unwrap().summary.name, "Tour 003, Plover");
    assert!(matches!(place.lab.rename_by(&all, "{colour}"), Err(LabError::Pattern(_))));
    place.lab.library.mark(vec![all[0]], Mark::Drop).unwrap();
    let print = place.lab.contact_print("Tour", &all, PrintForm::Jpeg).unwrap();
    let (pixels, width, height) = amber_files::plain::decoded(&print.bytes).unwrap();
    assert_eq!((width, height, print.pages), (2339, 1654, 1));
    let black = pixels.chunks(3).filter(|p| p.iter().all(|v| *v < 30)).count();
    assert!(black > 80_000, "frames lie on black: {black}");
    let pdf = place.lab.contact_print("Tour", &all, PrintForm::Pdf).unwrap();
    assert!(pdf.bytes.starts_with(b"%PDF-") && pdf.media_type == "application/pdf");
    assert!(place.lab.contact_print("Tour", &[], PrintForm::Pdf).is_err());
}

#[test]
fn pictures_of_the_sheet_are_made_behind_and_survive() {
    let place = Place::new();
    let all: [i64; 3] = place.frames();
    let folder = place.folder.path().join("cache");
    let pictures = || {
        let entries = std::fs::read_dir(&folder).into_iter().flatten().flatten();
        entries.filter(|e| e.path().extension().is_some_and(|ending| ending == "jpg")).count()
    };
    assert_eq!(pictures(), 0);
    place.lab.thumbnails_soon(&all);
    place.lab.wait_for_thumbnails();
    assert_eq!(pictures(), 3);
    let Place { lab, folder: place, .. } = place;
    lab.close();
    drop(lab);
    let lab = Arc::new(Lab::new(Library::open(place.path()).unwrap(), Limits::default(), Some(2)).unwrap());
    lab.thumbnails_soon(&all);
    lab.wait_for_thumbnails();
    assert_eq!(pictures(), 3, "none is made twice");
    let began = Instant::now();
    lab.close();
    lab.thumbnails_soon(&all);
    assert!(began.elapsed() < Duration::from_secs(30));
}
