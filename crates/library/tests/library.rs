//! The library keeps what it is given, across restarts.

use amber_core::controls::Value;
use amber_core::stock::StockName;
use amber_core::{Catalogue, Development};
use amber_library::{Change, Library, LibraryError, NewFrame, Step};

fn picture(name: &str) -> NewFrame {
    NewFrame { name: name.into(), format: "JPEG".into(), width: 60, height: 40 }
}

fn with_exposure(development: &Development, stops: f64) -> Development {
    let mut changed = development.clone();
    changed.set(&Catalogue::first(), "scene.exposure", Value::Number(stops)).unwrap();
    changed
}

#[test]
fn undo_and_redo_survive_a_restart() {
    let folder = tempfile::tempdir().unwrap();
    let stock = Catalogue::first();
    let library = Library::open(folder.path()).unwrap();
    let roll = library.add_roll("Tour", 0).unwrap();
    let id = library.add_frame(roll, b"the original", picture("Hill"), &stock).unwrap();
    let mut frame = library.frame(id).unwrap();
    for stops in [0.5, 1.0, 1.5] {
        let development = with_exposure(&frame.summary.development, stops);
        let change = Change { revision: frame.summary.revision, label: format!("Exposure {stops}"), development };
        frame = library.commit(id, change, &stock).unwrap();
    }
    frame = library.step(id, frame.summary.revision, Step::Undo).unwrap();
    drop(library);

    let library = Library::open(folder.path()).unwrap();
    let again = library.frame(id).unwrap();
    assert_eq!(again.summary.development.values["scene.exposure"], Value::Number(1.0));
    assert_eq!(again.undo.as_deref(), Some("Exposure 1"));
    assert_eq!(again.redo.as_deref(), Some("Exposure 1.5"));
    let redone = library.step(id, frame.summary.revision, Step::Redo).unwrap();
    assert_eq!(redone.summary.development.values["scene.exposure"], Value::Number(1.5));
    let nothing = library.step(id, redone.summary.revision, Step::Redo).unwrap_err();
    assert_eq!(nothing.to_string(), "there is nothing to redo");
}

#[test]
fn a_second_window_is_caught_by_revision() {
    let folder = tempfile::tempdir().unwrap();
    let stock = Catalogue::first();
    let library = Library::open(folder.path()).unwrap();
    let roll = library.add_roll("Tour", 0).unwrap();
    let id = library.add_frame(roll, b"original", picture("Quay"), &stock).unwrap();
    let frame = library.frame(id).unwrap();
    let change = |stops| Change {
        revision: frame.summary.revision,
        label: "Exposure".into(),
        development: with_exposure(&frame.summary.development, stops),
    };
    library.commit(id, change(1.0), &stock).unwrap();
    let late = library.commit(id, change(2.0), &stock).unwrap_err();
    assert!(matches!(late, LibraryError::ChangedElsewhere { .. }));
    assert_eq!(library.frame(id).unwrap().summary.development.values["scene.exposure"], Value::Number(1.0));
}

#[test]
fn originals_are_kept_byte_for_byte_and_shared() {
    let folder = tempfile::tempdir().unwrap();
    let stock = Catalogue::first();
    let library = Library::open(folder.path()).unwrap();
    let roll = library.add_roll("Tour", 0).unwrap();
    let first = library.add_frame(roll, b"same bytes", picture("A"), &stock).unwrap();
    let second = library.add_frame(roll, b"same bytes", picture("B"), &stock).unwrap();
    let hash = library.frame(first).unwrap().summary.content;
    assert_eq!(library.originals.read(&hash).unwrap(), b"same bytes");
    library.remove_frame(first).unwrap();
    assert_eq!(library.originals.read(&hash).unwrap(), b"same bytes");
    library.remove_frame(second).unwrap();
    assert!(library.originals.read(&hash).is_err());
    assert!(library.frames(roll).unwrap().is_empty());
}

#[test]
fn names_and_places_are_checked() {
    let folder = tempfile::tempdir().unwrap();
    let library = Library::open(folder.path()).unwrap();
    assert!(matches!(library.add_roll("   ", 0), Err(LibraryError::Name)));
    assert!(matches!(library.frame(99), Err(LibraryError::NotThere { what: "frame", id: 99 })));
    let missing = library.add_frame(7, b"x", picture("A"), &Catalogue::first());
    assert!(matches!(missing, Err(LibraryError::NotThere { what: "roll", id: 7 })));
    // nothing half-stored
    assert_eq!(std::fs::read_dir(folder.path().join("originals")).unwrap().count(), 0);
}

#[test]
fn stocks_of_ones_own() {
    let folder = tempfile::tempdir().unwrap();
    let library = Library::open(folder.path()).unwrap();
    let called = StockName { name: "Dusk".into(), family: "mine".into(), notes: "For evenings.".into() };
    let plover = Catalogue::first();
    let dusk = plover.renamed("dusk", &called).unwrap();
    library.add_stock(&dusk).unwrap();
    assert!(library.add_stock(&dusk).unwrap_err().to_string().contains("already"));
    for refused in [library.add_stock(&plover), library.replace_stock(&plover), library.delete_stock("plover")] {
        assert!(refused.unwrap_err().to_string().contains("built-in"));
    }
    assert_eq!(library.free_stock_id("dusk").unwrap(), "dusk-2");
    assert_eq!(library.free_stock_id("plover").unwrap(), "plover-2");

    // a frame keeps the copy it was developed with, whatever happens to the stock
    let roll = library.add_roll("Tour", 0).unwrap();
    let id = library.add_frame(roll, b"the original", picture("Hill"), &dusk).unwrap();
    library.replace_stock(&dusk.renamed("dusk", &StockName { name: "Late".into(), ..called }).unwrap()).unwrap();
    assert_eq!(library.find_stock("dusk").unwrap().name(), "Late");
    assert_eq!(library.frame(id).unwrap().stock.name(), "Dusk");
    library.delete_stock("dusk").unwrap();
    assert_eq!(library.frame(id).unwrap().stock.name(), "Dusk");
    assert!(library.own_stocks().unwrap().is_empty() && library.delete_stock("dusk").is_err());
}

#[test]
fn pinned_stocks_are_remembered() {
    let folder = tempfile::tempdir().unwrap();
    let library = Library::open(folder.path()).unwrap();
    library.pin_stock("juniper", true).unwrap();
    library.pin_stock("beryl", true).unwrap();
    assert_eq!(library.pin_stock("juniper", true).unwrap(), ["beryl", "juniper"]);
    drop(library);
    let library = Library::open(folder.path()).unwrap();
    assert_eq!(library.pin_stock("beryl", false).unwrap(), ["juniper"]);
    assert!(library.pin_stock("nothing", true).is_err());
}
