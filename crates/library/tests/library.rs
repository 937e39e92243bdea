//! The library keeps what it is given, across restarts.

use amber_core::StockName;
use amber_core::controls::Value;
use amber_core::mask::Mask;
use amber_core::{Catalogue, Development};
use amber_library::{Change, Library, LibraryError, NewFrame, Step, Together};

fn picture(name: &str) -> NewFrame {
    NewFrame { name: name.into(), format: "JPEG".into(), width: 60, height: 40, taken: None, development: None }
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

/// A mask of brush strokes, `count` of 60 points each.
fn painted(count: usize) -> Mask {
    let stroke = |s: usize| {
        let points: Vec<String> = (0..60)
            .map(|p| format!("[0.{:05},0.{:05}]", (s * 61 + p * 7) % 99_999, (s * 37 + p * 11) % 99_999))
            .collect();
        format!(r#"{{"size":0.04,"softness":0.5,"strength":1.0,"points":[{}]}}"#, points.join(","))
    };
    let strokes: Vec<String> = (0..count).map(stroke).collect();
    let text = format!(r#"{{"name":"Sky","parts":[{{"kind":"brush","strokes":[{}]}}]}}"#, strokes.join(","));
    serde_json::from_str(&text).unwrap()
}

fn bytes_below(folder: &std::path::Path) -> u64 {
    let entries = std::fs::read_dir(folder).unwrap().map(Result::unwrap);
    entries.map(|e| if e.path().is_dir() { bytes_below(&e.path()) } else { e.metadata().unwrap().len() }).sum()
}

#[test]
fn four_hundred_strokes_are_small_and_each_can_be_undone() {
    let folder = tempfile::tempdir().unwrap();
    let stock = Catalogue::first();
    let library = Library::open(folder.path()).unwrap();
    let roll = library.add_roll("Tour", 0).unwrap();
    let id = library.add_frame(roll, b"original", picture("Hill"), &stock).unwrap();
    let mut frame = library.frame(id).unwrap();
    for count in 1..=400 {
        let mut development = frame.summary.development.clone();
        development.masks.insert("1".into(), painted(count));
        let change = Change { revision: frame.summary.revision, label: format!("Stroke {count}"), development };
        frame = library.commit(id, change, &stock).unwrap();
    }
    // 20 kB of it are the tables of presets and of steps made together, which are empty here
    assert!(bytes_below(folder.path()) < 2 << 20, "{} with its log", bytes_below(folder.path()));
    for left in [399, 398] {
        frame = library.step(id, frame.summary.revision, Step::Undo).unwrap();
        assert_eq!(frame.summary.development.masks["1"], painted(left));
    }
    library.close();
    let bytes = std::fs::metadata(folder.path().join("library.sqlite")).unwrap().len();
    assert!(bytes < 2_000_000, "{bytes} bytes for 400 strokes");
    assert!(!folder.path().join("library.sqlite-wal").exists(), "one whole file after a clean stop");
    // strokes that no step names are taken away: the redo branch is cut and the frame goes
    drop(library);
    let library = Library::open(folder.path()).unwrap();
    assert_eq!(library.frame(id).unwrap().summary.development.masks["1"], painted(398));
    library.remove_frame(id).unwrap();
    drop(library);
    drop(Library::open(folder.path()).unwrap());
    let strokes: i64 = rusqlite::Connection::open(folder.path().join("library.sqlite"))
        .unwrap()
        .query_row("SELECT COUNT(*) FROM strokes", [], |r| r.get(0))
        .unwrap();
    assert_eq!(strokes, 0);
}

/// Frozen libraries of every form, with two frames, history and masks.
#[test]
fn old_libraries_are_migrated_with_all_they_hold() {
    let forms = [
        include_str!("data/library-1.sql"),
        include_str!("data/library-2.sql"),
        include_str!("data/library-3.sql"),
        // form 4 added a table
        concat!(
            include_str!("data/library-3.sql"),
            include_str!("../migrations/04-pictures.sql"),
            "PRAGMA user_version = 4;",
        ),
        // form 5 added a table and a column
        concat!(
            include_str!("data/library-3.sql"),
            include_str!("../migrations/04-pictures.sql"),
            include_str!("../migrations/05-proofs.sql"),
            "PRAGMA user_version = 5;",
        ),
        // form 6 added tables and columns
        concat!(
            include_str!("data/library-3.sql"),
            include_str!("../migrations/04-pictures.sql"),
            include_str!("../migrations/05-proofs.sql"),
            include_str!("../migrations/06-roll.sql"),
            "PRAGMA user_version = 6;",
        ),
    ];
    forms.into_iter().for_each(holds_all);
}

fn holds_all(form: &str) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("library.sqlite");
    let old = rusqlite::Connection::open(&path).unwrap();
    old.execute_batch(form).unwrap();
    drop(old);
    let library = Library::open(folder.path()).unwrap();
    assert_eq!(library.rolls().unwrap()[0].name, "Old tour");
    let frames = library.frames(1).unwrap();
    assert_eq!(frames.iter().map(|f| f.name.as_str()).collect::<Vec<_>>(), ["Hill", "Quay"]);
    assert!(frames.iter().all(|f| f.trouble.is_none()));
    let frame = library.frame(frames[0].id).unwrap();
    assert_eq!(frame.summary.development.masks["1"], painted(3));
    assert_eq!(frame.summary.development.values["scene.exposure"], Value::Number(0.5));
    let back = library.step(frames[0].id, frame.summary.revision, Step::Undo).unwrap();
    assert_eq!(back.summary.development.masks["1"], painted(2), "older steps too");
    assert_eq!(library.pinned_stocks().unwrap(), ["juniper"]);
    // numbers go on after those that were given
    library.remove_frame(2).unwrap();
    let id = library.add_frame(1, b"new", picture("New"), &Catalogue::first()).unwrap();
    assert_eq!(id, 3, "numbers are never given again");
}

#[test]
fn the_rest_of_a_redo_branch_goes_with_a_change() {
    let folder = tempfile::tempdir().unwrap();
    let stock = Catalogue::first();
    let library = Library::open(folder.path()).unwrap();
    let roll = library.add_roll("Tour", 0).unwrap();
    let id = library.add_frame(roll, b"original", picture("Quay"), &stock).unwrap();
    let mut frame = library.frame(id).unwrap();
    let keep = |frame: &amber_library::Frame, stops: f64| {
        let development = with_exposure(&frame.summary.development, stops);
        let change = Change { revision: frame.summary.revision, label: format!("Exposure {stops}"), development };
        library.commit(id, change, &stock).unwrap()
    };
    for stops in [0.5, 1.0, 1.5] {
        frame = keep(&frame, stops);
    }
    frame = library.step(id, frame.summary.revision, Step::Undo).unwrap();
    frame = library.step(id, frame.summary.revision, Step::Undo).unwrap();
    frame = keep(&frame, 2.0);
    assert_eq!((frame.undo.as_deref(), frame.redo.as_deref()), (Some("Exposure 2"), None));
    let nothing = library.step(id, frame.summary.revision, Step::Redo).unwrap_err();
    assert!(matches!(nothing, LibraryError::NothingTo("redo")), "{nothing}");
}

#[test]
fn one_bad_frame_is_one_bad_frame() {
    let folder = tempfile::tempdir().unwrap();
    let stock = Catalogue::first();
    let library = Library::open(folder.path()).unwrap();
    let roll = library.add_roll("Tour", 0).unwrap();
    let bad = library.add_frame(roll, b"bad", picture("Bad"), &stock).unwrap();
    let good = library.add_frame(roll, b"good", picture("Good"), &stock).unwrap();
    drop(library);
    let raw = rusqlite::Connection::open(folder.path().join("library.sqlite")).unwrap();
    let newer = r#"{"version":99,"stock":{"id":"plover"}}"#;
    raw.execute("UPDATE history SET development = ?1 WHERE frame = ?2", rusqlite::params![newer, bad]).unwrap();
    drop(raw);
    let library = Library::open(folder.path()).unwrap();
    let frames = library.frames(roll).unwrap();
    assert!(frames[0].trouble.as_ref().unwrap().contains("version 99"), "{:?}", frames[0].trouble);
    assert!(frames[1].trouble.is_none() && library.frame(good).is_ok());
    assert!(library.frame(bad).unwrap_err().to_string().contains("newer"));
    library.remove_frame(bad).unwrap();
}

#[test]
fn a_copy_to_many_frames_is_all_or_nothing() {
    let folder = tempfile::tempdir().unwrap();
    let stock = Catalogue::first();
    let library = Library::open(folder.path()).unwrap();
    let roll = library.add_roll("Tour", 0).unwrap();
    let id = library.add_frame(roll, b"original", picture("Quay"), &stock).unwrap();
    let development = with_exposure(&library.frame(id).unwrap().summary.development, 1.0);
    let change = || Change { revision: 0, label: "Copied".into(), development: development.clone() };
    let step = |frame| Together { frame, change: change(), stock: stock.clone(), preset: None };
    assert!(library.commit_together("Copied", vec![step(id), step(99_999)]).is_err());
    assert_eq!(library.frame(id).unwrap().summary.revision, 0);
}

#[test]
fn a_damaged_original_heals_when_the_picture_is_loaded_again() {
    let folder = tempfile::tempdir().unwrap();
    let stock = Catalogue::first();
    let library = Library::open(folder.path()).unwrap();
    let roll = library.add_roll("Tour", 0).unwrap();
    let id = library.add_frame(roll, b"the bytes", picture("A"), &stock).unwrap();
    let hash = library.frame(id).unwrap().summary.content;
    let path = folder.path().join("originals").join(&hash);
    std::fs::remove_file(&path).unwrap();
    std::fs::write(&path, b"the bytex").unwrap();
    assert!(library.originals.read(&hash).unwrap_err().to_string().contains("Load the picture again"));
    library.add_frame(roll, b"the bytes", picture("B"), &stock).unwrap();
    assert_eq!(library.originals.read(&hash).unwrap(), b"the bytes");
}

/// Loading and taking off the same picture at once: whoever is told that it is there finds it there.
#[test]
fn an_acknowledged_upload_keeps_its_original() {
    let folder = tempfile::tempdir().unwrap();
    let stock = Catalogue::first();
    let library = Library::open(folder.path()).unwrap();
    let roll = library.add_roll("Tour", 0).unwrap();
    for _ in 0..40 {
        let first = library.add_frame(roll, b"shared", picture("A"), &stock).unwrap();
        std::thread::scope(|scope| {
            scope.spawn(|| library.remove_frame(first).unwrap());
            let second = library.add_frame(roll, b"shared", picture("B"), &stock).unwrap();
            let hash = library.frame(second).unwrap().summary.content;
            assert_eq!(library.originals.read(&hash).unwrap(), b"shared");
            library.remove_frame(second).unwrap();
        });
    }
}

#[test]
fn what_was_interrupted_is_taken_away_and_a_second_process_is_kept_out() {
    let folder = tempfile::tempdir().unwrap();
    let library = Library::open(folder.path()).unwrap();
    let second = Library::open(folder.path()).err().unwrap().to_string();
    assert!(second.contains("in use") && second.contains("--data"), "{second}");
    drop(library);
    // a crash between an original's arrival and its row, and in the middle of files
    let orphan = amber_library::Originals::hash_of(b"orphan");
    let raw = rusqlite::Connection::open(folder.path().join("library.sqlite")).unwrap();
    raw.execute("INSERT INTO loose VALUES (?1)", [&orphan]).unwrap();
    drop(raw);
    for left in [&format!("originals/{orphan}"), "originals/.tmpAbCdEf", "cache/.amber-part-x", "exports/a.jpg.77.part"]
    {
        std::fs::write(folder.path().join(left), b"orphan").unwrap();
    }
    drop(Library::open(folder.path()).unwrap());
    for part in ["originals", "cache", "exports"] {
        assert_eq!(std::fs::read_dir(folder.path().join(part)).unwrap().count(), 0, "{part}");
    }
}

#[test]
fn wrong_folders_get_a_sentence() {
    let says = |prepare: &dyn Fn(&std::path::Path)| {
        let folder = tempfile::tempdir().unwrap();
        prepare(folder.path());
        Library::open(folder.path()).err().unwrap().to_string()
    };
    let database = |folder: &std::path::Path| folder.join("library.sqlite");
    let orphaned = says(&|f| {
        std::fs::create_dir(f.join("originals")).unwrap();
        std::fs::write(f.join("originals").join("0".repeat(64)), b"x").unwrap();
    });
    assert!(orphaned.contains("no library.sqlite"), "{orphaned}");
    let nonsense = says(&|f| std::fs::write(database(f), vec![b'x'; 8192]).unwrap());
    assert!(nonsense.contains("library.sqlite"), "{nonsense}");
    for (version, part) in [(99, "version 99"), (-1, "not a library"), (2, "not a library")] {
        let sentence = says(&|f| {
            let raw = rusqlite::Connection::open(database(f)).unwrap();
            raw.pragma_update(None, "user_version", version).unwrap();
            raw.execute_batch("CREATE TABLE other (x)").unwrap();
        });
        assert!(sentence.contains(part), "{version}: {sentence}");
    }
}

#[test]
fn a_library_that_was_deleted_takes_nothing_more() {
    let folder = tempfile::tempdir().unwrap();
    let library = Library::open(folder.path()).unwrap();
    library.add_roll("Tour", 0).unwrap();
    std::fs::remove_file(folder.path().join("library.sqlite")).unwrap();
    assert!(library.add_roll("Lost", 0).unwrap_err().to_string().contains("deleted"));
}

#[test]
fn pins_set_at_once_are_all_kept() {
    let folder = tempfile::tempdir().unwrap();
    let library = Library::open(folder.path()).unwrap();
    let ids: Vec<String> = Catalogue::all().iter().map(|s| s.id.clone()).collect();
    std::thread::scope(|scope| {
        for id in &ids {
            scope.spawn(|| library.pin_stock(id, true).unwrap());
        }
    });
    assert_eq!(library.pinned_stocks().unwrap().len(), ids.len());
}

/// A picture that is laid on others is kept once, named, and not deleted while a frame uses it, nor while undo could
/// bring it back.
#[test]
fn pictures_that_are_used_are_not_deleted() {
    let folder = tempfile::tempdir().unwrap();
    let library = Library::open(folder.path()).unwrap();
    let hash = library.add_picture(b"a texture", "Old paper", [60, 40]).unwrap();
    assert_eq!(library.add_picture(b"a texture", "Again", [60, 40]).unwrap(), hash);
    let kept = library.kept_pictures().unwrap();
    assert_eq!((kept.len(), kept[0].name.as_str(), kept[0].width), (1, "Old paper", 60));
    library.rename_picture(&hash, "Ribbed paper").unwrap();
    assert!(library.rename_picture(&hash, " ").is_err() && library.rename_picture("0", "None").is_err());

    let stock = Catalogue::first();
    let roll = library.add_roll("Tour", 0).unwrap();
    let id = library.add_frame(roll, b"the original", picture("Hill"), &stock).unwrap();
    let frame = library.frame(id).unwrap();
    let mut development = frame.summary.development.clone();
    development.set(&stock, "surface.sheet.1.kind", Value::Choice(format!("own:{hash}"))).unwrap();
    let change = Change { revision: frame.summary.revision, label: "Laid".into(), development };
    let laid = library.commit(id, change, &stock).unwrap();
    let refused = library.delete_picture(&hash).unwrap_err().to_string();
    assert_eq!(refused, "'Ribbed paper' lies on Hill: take it off there first");
    let undone = library.step(id, laid.summary.revision, Step::Undo).unwrap();
    let refused = library.delete_picture(&hash).unwrap_err().to_string();
    assert!(refused.contains("Hill (in its history)"), "{refused}");
    // another step takes its place: nothing can bring it back
    let development = with_exposure(&undone.summary.development, 1.0);
    let change = Change { revision: undone.summary.revision, label: "Exposure".into(), development };
    library.commit(id, change, &stock).unwrap();
    library.delete_picture(&hash).unwrap();
    assert!(library.kept_pictures().unwrap().is_empty() && library.pictures.read(&hash).is_err());
    assert!(matches!(library.delete_picture(&hash), Err(LibraryError::NoPicture)));
}

#[test]
fn proofs_are_kept_named_dropped_and_taken_back() {
    let folder = tempfile::tempdir().unwrap();
    let stock = Catalogue::find("juniper").unwrap();
    let library = Library::open(folder.path()).unwrap();
    let roll = library.add_roll("Tour", 0).unwrap();
    let id = library.add_frame(roll, b"original", picture("Quay"), &stock).unwrap();
    let frame = library.frame(id).unwrap();
    let mut development = frame.summary.development.clone();
    development.masks.insert("1".into(), painted(2));
    development.set(&stock, "film.push", Value::Number(1.0)).unwrap();
    let change = Change { revision: 0, label: "Push".into(), development: development.clone() };
    library.commit(id, change, &stock).unwrap();
    let first = library.keep_proof(id, None).unwrap();
    let second = library.keep_proof(id, Some("  Hard  ")).unwrap();
    assert_eq!((first.name.as_str(), second.name.as_str()), ("Proof 1", "Hard"));
    assert_eq!(first.development, development, "its masks too");
    library.drop_proof(id, first.id, true).unwrap();
    assert_eq!(library.keep_proof(id, None).unwrap().name, "Proof 1", "the number is free again");
    library.drop_proof(id, first.id, false).unwrap();
    library.drop_proof(id, second.id, true).unwrap();
    library.rename_proof(id, first.id, "Soft").unwrap();
    assert!(matches!(library.rename_proof(id, first.id, "\n").unwrap_err(), LibraryError::Name));
    library.pin(id, &[[0.25, 0.5]]).unwrap();
    // nothing but the proofs names these strokes any more, and what was dropped goes at the next start
    library.step(id, 1, Step::Undo).unwrap();
    drop(library);
    let library = Library::open(folder.path()).unwrap();
    let names: Vec<String> = library.proofs(id).unwrap().into_iter().map(|p| p.name).collect();
    assert_eq!(names, ["Soft", "Proof 1"]);
    assert_eq!(library.proof(id, first.id).unwrap().development.masks["1"], painted(2));
    assert!(library.proof(id, second.id).is_err() && library.drop_proof(id, second.id, false).is_err());
    assert_eq!(library.pins(id).unwrap(), [[0.25, 0.5]]);
    library.remove_frame(id).unwrap();
    assert!(library.proofs(id).unwrap().is_empty());
}
