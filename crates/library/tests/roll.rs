//! A roll as one job: presets, marks, frames taken off and moved, steps made together, the contact sheet.

use std::sync::Arc;

use amber_core::controls::Value;
use amber_core::{Catalogue, Development, Preset, PresetName, Stock};
use amber_library::{Change, Library, LibraryError, Mark, NewFrame, Order, SheetAsked, Step, Together, Tuning};

struct Place {
    folder: tempfile::TempDir,
    library: Library,
    stock: Arc<Stock>,
    roll: i64,
}

impl Place {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let library = Library::open(folder.path()).unwrap();
        let roll = library.add_roll("Tour", 0).unwrap();
        Self { folder, library, stock: Catalogue::first(), roll }
    }

    fn frame(&self, name: &str, taken: Option<i64>) -> i64 {
        let new =
            NewFrame { name: name.into(), format: "JPEG".into(), width: 60, height: 40, taken, development: None };
        self.library.add_frame(self.roll, name.as_bytes(), new, &self.stock).unwrap()
    }

    fn step(&self, frame: i64, stops: f64, preset: Option<&str>) -> Together {
        let before = self.library.frame(frame).unwrap().summary;
        let mut development = before.development;
        development.set(&self.stock, "film.push", Value::Number(stops)).unwrap();
        let change = Change { revision: before.revision, label: format!("Push {stops}"), development };
        Together { frame, change, stock: self.stock.clone(), preset: preset.map(str::to_owned) }
    }

    fn development(&self, frame: i64) -> Development {
        self.library.frame(frame).unwrap().summary.development
    }

    fn names(&self) -> Vec<String> {
        self.library.frames(self.roll).unwrap().into_iter().map(|f| f.name).collect()
    }
}

fn preset(name: &str, push: f64) -> Preset {
    let mut preset = Preset::empty(&PresetName { name: name.into(), ..PresetName::default() });
    preset.values.insert("film.push".into(), Value::Number(push));
    preset
}

#[test]
fn steps_made_together_are_taken_back_together() {
    let place = Place::new();
    let (a, b, c) = (place.frame("A", None), place.frame("B", None), place.frame("C", None));
    let before = [a, b, c].map(|id| place.development(id));
    let steps = |stops, preset: Option<&str>| [a, b, c].map(|id| place.step(id, stops, preset)).to_vec();
    let first = place.library.commit_together("First", steps(1.0, Some("one"))).unwrap();
    let second = place.library.commit_together("Second", steps(-1.0, Some("two"))).unwrap();
    assert_eq!(place.library.frame(a).unwrap().summary.presets, ["one", "two"]);
    // one of them goes on alone: it stays, and is named
    let alone = place.step(c, 0.5, None).change;
    place.library.commit(c, alone, &place.stock).unwrap();
    let undone = place.library.undo_together(second).unwrap();
    assert_eq!((undone.label.as_str(), undone.frames, undone.moved_on), ("Second", vec![a, b], vec![c]));
    assert_eq!(place.library.batch_of(a).unwrap(), Some(first));
    place.library.undo_together(first).unwrap();
    assert_eq!([a, b].map(|id| place.development(id)), before[..2], "bit for bit where it began");
    assert!(place.library.frame(a).unwrap().summary.presets.is_empty());
    assert_eq!(place.development(c).values["film.push"], Value::Number(0.5));
    // a frame's own undo and redo know nothing of the others
    let revision = place.library.frame(a).unwrap().summary.revision;
    place.library.step(a, revision, Step::Redo).unwrap();
    assert_eq!(place.library.frame(b).unwrap().redo.as_deref(), Some("Push 1"));
    assert!(place.library.undo_together(999).is_err());
}

#[test]
fn presets_are_kept_dropped_and_come_back() {
    let place = Place::new();
    let library = &place.library;
    let ids = library.add_presets(vec![preset("Evening", 1.0), preset("Evening", 0.5)]).unwrap();
    assert_eq!(ids, ["evening", "evening-2"]);
    assert_eq!(library.add_presets(vec![preset("Evening", 1.0)]).unwrap(), ["evening"], "it is there already");
    library.drop_preset("evening", true).unwrap();
    assert!(matches!(library.preset("evening").unwrap_err(), LibraryError::NoPreset { .. }));
    let exported = preset("Evening", 1.0).to_json();
    library.drop_preset("evening", false).unwrap();
    assert_eq!(library.preset("evening").unwrap().0, Preset::read(&exported).unwrap()[0]);
    library.replace_preset(&Preset { notes: "Calm.".into(), ..preset("Evening", 0.25) }).unwrap();
    assert_eq!(library.preset("evening").unwrap().0.values["film.push"], Value::Number(0.25));
    library.pin_preset("evening-2", true).unwrap();
    assert_eq!(library.pinned_presets().unwrap(), ["evening-2"]);
    // exported, deleted and brought in again it is the same
    let (before, _) = library.preset("evening").unwrap();
    library.drop_preset("evening", true).unwrap();
    assert_eq!(library.add_presets(Preset::read(&before.to_json()).unwrap()).unwrap(), ["evening"]);
    assert_eq!(library.preset("evening").unwrap().0, before);
    // a wrong one among several: none is kept
    let wrong = preset("Wrong", 99.0);
    assert!(library.add_presets(vec![preset("Right", 0.5), wrong]).is_err());
    assert_eq!(library.own_presets().unwrap().len(), 2);
    // what was dropped goes with the next start
    library.drop_preset("evening", true).unwrap();
    let Place { folder, library, .. } = place;
    drop(library);
    let again = Library::open(folder.path()).unwrap();
    assert!(again.drop_preset("evening", false).is_err());
    assert_eq!(again.own_presets().unwrap()[0].id, "evening-2");
}

#[test]
fn the_sheet_is_filtered_and_ordered() {
    let place = Place::new();
    let library = &place.library;
    let (quay, hill, alley) =
        (place.frame("quay", Some(300)), place.frame("Hill", None), place.frame("Alley", Some(100)));
    library.mark(vec![alley], Mark::Drop).unwrap();
    assert_eq!(library.mark(vec![hill, alley], Mark::Keep).unwrap(), [(hill, Mark::None), (alley, Mark::Drop)]);
    library.write_note(quay, " sky too light ").unwrap();
    library.commit_together("Laid", vec![place.step(quay, 1.0, Some("one"))]).unwrap();
    let asked = |asked: SheetAsked| {
        let mut frames = library.on_sheet(place.roll).unwrap();
        frames.retain(|frame| asked.takes(frame));
        asked.sort(&mut frames);
        frames.into_iter().map(|frame| frame.id).collect::<Vec<_>>()
    };
    let by = |order| asked(SheetAsked { order, ..SheetAsked::default() });
    assert_eq!(by(Order::Loaded), [quay, hill, alley]);
    assert_eq!(by(Order::Taken), [alley, quay, hill], "without a date last");
    assert_eq!(by(Order::Name), [alley, hill, quay]);
    assert_eq!(by(Order::Mark), [hill, alley, quay]);
    assert_eq!(by(Order::Tuned), [quay, hill, alley]);
    assert_eq!(by(Order::Preset), [quay, hill, alley]);
    for (only, wanted) in [
        (SheetAsked { mark: Some(Mark::Keep), ..SheetAsked::default() }, vec![hill, alley]),
        (SheetAsked { mark: Some(Mark::None), ..SheetAsked::default() }, vec![quay]),
        (SheetAsked { tuning: Tuning::Tuned, ..SheetAsked::default() }, vec![quay]),
        (SheetAsked { preset: Some("one".into()), ..SheetAsked::default() }, vec![quay]),
        (SheetAsked { stock: Some("juniper".into()), ..SheetAsked::default() }, vec![]),
        (SheetAsked { words: "SKY light".into(), ..SheetAsked::default() }, vec![quay]),
    ] {
        assert_eq!(asked(only.clone()), wanted, "{only:?}");
    }
    assert!(library.write_note(quay, "a\u{7}").is_err() && library.write_note(999, "x").is_err());
}

#[test]
fn frames_come_off_and_back_and_move() {
    let place = Place::new();
    let library = &place.library;
    let (a, b, c) = (place.frame("A", None), place.frame("B", None), place.frame("C", None));
    let content = library.frame(b).unwrap().summary.content;
    library.take_off(vec![b], true).unwrap();
    assert_eq!(place.names(), ["A", "C"]);
    assert_eq!(library.taken_off(place.roll).unwrap()[0].id, b);
    assert_eq!(library.place_on_roll(c).unwrap(), (2, 2, Some(a), None), "it is walked past");
    assert_eq!(library.roll(place.roll).unwrap().frames, 2);
    assert!(library.originals.read(&content).is_ok(), "its original waits with it");
    library.take_off(vec![b], false).unwrap();
    assert_eq!(place.names(), ["A", "B", "C"]);
    let other = library.add_roll("Other", 0).unwrap();
    let copies = library.copy_frames(vec![b], other).unwrap();
    library.move_frames(vec![a], other).unwrap();
    assert_eq!(library.frames(other).unwrap().iter().map(|f| f.id).collect::<Vec<_>>(), [copies[0], a]);
    // the original stays as long as one of the two has it
    library.remove_frame(b).unwrap();
    assert!(library.originals.read(&content).is_ok());
    library.remove_frame(copies[0]).unwrap();
    assert!(library.originals.read(&content).is_err());
    let before = library.rename_frames(vec![(c, "Quay".into())]).unwrap();
    assert_eq!((before, place.names()), (vec![(c, "C".into())], vec!["Quay".to_string()]));
    assert!(library.rename_frames(vec![(c, "Hill".into()), (c, " ".into())]).is_err());
    assert_eq!(place.names(), ["Quay"], "all or none");
}
