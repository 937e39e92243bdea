//! Delivery on a library of its own: the queue, what it survives, orders, and developments that travel.

use std::path::Path;
use std::sync::Arc;
use std::time::Duration;

use amber_core::controls::Value;
use amber_core::output::OutputSpace;
use amber_core::{Development, ShippedPresets, StockName};
use amber_files::attached::packet_of_file;
use amber_files::{Encoding, Kept, Limits, write};
use amber_lab::{ExportSettings, ExportState, Lab, LabOrder, LookForm, Output, Size};
use amber_library::{Change, Library, Stage};

fn lab(folder: &Path) -> Arc<Lab> {
    Arc::new(Lab::new(Library::open(folder).unwrap(), Limits::default(), Some(2)).unwrap())
}

fn picture(width: u32, height: u32, salt: u32) -> Vec<u8> {
    let pixel = |i: u32| [(i * 7 + salt) % 256, (i / 3 + salt * 5) % 256, (i / width * 4) % 256].map(|v| v as u8);
    write::jpeg(&(0..width * height).flat_map(pixel).collect::<Vec<_>>(), width, height, 94, None).unwrap()
}

fn frames(lab: &Arc<Lab>, count: u32) -> Vec<i64> {
    let roll = lab.library.add_roll("Tour", 0).unwrap();
    (0..count).map(|i| lab.import(roll, &format!("quay-{i}.jpg"), &picture(120, 80, i)).unwrap()).collect()
}

fn tuned(lab: &Lab, frame: i64, values: &[(&str, f64)]) {
    let before = lab.library.frame(frame).unwrap();
    let mut development = before.summary.development.clone();
    for (id, value) in values {
        development.set(&before.stock, id, Value::Number(*value)).unwrap();
    }
    let change = Change { revision: before.summary.revision, label: "set".into(), development };
    lab.library.commit(frame, change, &before.stock).unwrap();
}

fn done(lab: &Lab, id: i64) -> Vec<u8> {
    assert!(lab.wait_for_export(id, Duration::from_secs(60)).unwrap(), "it does not end");
    let state = lab.export(id).unwrap().state;
    assert!(matches!(state, ExportState::Done { .. }), "{state:?}");
    std::fs::read(lab.export_file(id).unwrap()).unwrap()
}

fn small() -> Output {
    Output { encoding: Encoding::jpeg(90), ..Output::default() }
}

#[test]
fn the_queue_stands_still_goes_on_and_is_put_in_order() {
    let folder = tempfile::tempdir().unwrap();
    let lab = lab(folder.path());
    let frames = frames(&lab, 4);
    lab.pause_exports(true).unwrap();
    let settings = frames.iter().map(|frame| ExportSettings::of(*frame, "Same", small())).collect();
    let ids = lab.start_exports(settings).unwrap();
    let queue = lab.exports().unwrap();
    assert!(queue.paused && queue.going == 4 && queue.exports.iter().all(|e| e.state == ExportState::Waiting));
    let names: Vec<&str> = queue.exports.iter().map(|e| e.file_name.as_str()).collect();
    assert_eq!(names, ["Same.jpg", "Same 2.jpg", "Same 3.jpg", "Same 4.jpg"], "promised names are nobody else's");
    assert!(queue.exports.iter().all(|e| e.batch == ids[0]));
    lab.library.move_export(ids[3], Some(ids[0])).unwrap();
    lab.library.move_export(ids[0], None).unwrap();
    let order = |lab: &Lab| lab.exports().unwrap().exports.iter().map(|e| e.id).collect::<Vec<_>>();
    assert_eq!(order(&lab), [ids[3], ids[1], ids[2], ids[0]]);
    lab.cancel_export(ids[1]).unwrap();
    assert_eq!(lab.export(ids[1]).unwrap().state, ExportState::Cancelled);
    assert!(lab.library.move_export(ids[1], None).is_err(), "it does not wait any more");
    lab.pause_exports(false).unwrap();
    for id in [ids[0], ids[2], ids[3]] {
        done(&lab, id);
    }
    let written = |id: i64| lab.export_file(id).unwrap().metadata().unwrap().modified().unwrap();
    assert!(written(ids[3]) < written(ids[2]) && written(ids[2]) < written(ids[0]), "in the order of the queue");
    lab.retry_export(ids[1]).unwrap();
    done(&lab, ids[1]);
    assert!(lab.retry_export(ids[1]).is_err(), "what is done is not tried again");
    lab.library.forget_exports().unwrap();
    assert!(lab.exports().unwrap().exports.is_empty());
    assert_eq!(std::fs::read_dir(folder.path().join("exports")).unwrap().count(), 4, "files stay");
}

/// Whatever moment the program ended at, what was ordered is there once when it has run again.
#[test]
fn an_interrupted_queue_goes_on_without_doubling_anything() {
    let folder = tempfile::tempdir().unwrap();
    let (ids, made) = {
        let lab = lab(folder.path());
        let frames = frames(&lab, 4);
        let first = done(&lab, lab.start_export(ExportSettings::of(frames[0], "One", small())).unwrap());
        lab.pause_exports(true).unwrap();
        let settings = frames.iter().map(|frame| ExportSettings::of(*frame, "Print", small())).collect();
        let ids = lab.start_exports(settings).unwrap();
        // whoever works on the queue has seen that it stands still
        std::thread::sleep(Duration::from_millis(300));
        lab.library.pause_exports(false).unwrap();
        // one whose file had its name when the end came, one that was being rendered, one whose name was taken since
        for id in &ids[..2] {
            assert_eq!(lab.library.next_export().unwrap().unwrap().0.id, *id);
        }
        let hash = blake3::hash(&first).to_hex().to_string();
        lab.library.export_made(ids[0], "Print.jpg", &hash, first.len() as u64).unwrap();
        std::fs::write(folder.path().join("exports/Print.jpg"), &first).unwrap();
        std::fs::write(folder.path().join("exports/.amber-part-left"), b"half").unwrap();
        std::fs::write(folder.path().join("exports/Print 3.jpg"), b"somebody else's").unwrap();
        lab.close();
        (ids, first)
    };
    let lab = lab(folder.path());
    lab.resume_exports().unwrap();
    assert_eq!(done(&lab, ids[0]), made, "it was not made again");
    for id in &ids[1..] {
        assert!(done(&lab, *id).len() > 500);
    }
    assert_eq!(lab.export(ids[2]).unwrap().file_name, "Print 5.jpg", "nothing is overwritten");
    assert_eq!(std::fs::read(folder.path().join("exports/Print 3.jpg")).unwrap(), b"somebody else's");
    let mut names: Vec<String> = std::fs::read_dir(folder.path().join("exports"))
        .unwrap()
        .map(|e| e.unwrap().file_name().to_string_lossy().into_owned())
        .collect();
    names.sort();
    assert_eq!(names, ["One.jpg", "Print 2.jpg", "Print 3.jpg", "Print 4.jpg", "Print 5.jpg", "Print.jpg"]);
    assert!(lab.library.interrupted_exports().unwrap().is_empty());
}

#[test]
fn a_failure_is_told_in_words_and_tried_again() {
    let folder = tempfile::tempdir().unwrap();
    let out = tempfile::tempdir().unwrap();
    let lab = lab(folder.path());
    let frames = frames(&lab, 2);
    let missing = out.path().join("not yet");
    let to = |frame: i64| ExportSettings { folder: Some(missing.clone()), ..ExportSettings::of(frame, "A", small()) };
    let ids = lab.start_exports(vec![to(frames[0]), ExportSettings::of(frames[1], "B", small())]).unwrap();
    done(&lab, ids[1]);
    let ExportState::Failed(why) = lab.export(ids[0]).unwrap().state else { panic!("the folder is not there") };
    assert!(why.contains("not yet") && why.contains("cannot be written"), "{why}");
    std::fs::create_dir(&missing).unwrap();
    lab.retry_export(ids[0]).unwrap();
    done(&lab, ids[0]);
    assert!(missing.join("A.jpg").is_file());
    // an original that is gone
    let lost = lab.library.frame(frames[0]).unwrap().summary.content;
    lab.library.pause_exports(true).unwrap();
    let id = lab.start_export(ExportSettings::of(frames[0], "C", small())).unwrap();
    lab.library.remove_frame(frames[0]).unwrap();
    assert!(!folder.path().join("originals").join(lost).exists());
    lab.pause_exports(false).unwrap();
    lab.wait_for_export(id, Duration::from_secs(60)).unwrap();
    assert!(matches!(lab.export(id).unwrap().state, ExportState::Failed(_)));
    assert_eq!(lab.library.export(id).unwrap().stage, Stage::Failed);
}

/// An export keeps the development that it was ordered with, whatever is done to the frame before it runs.
#[test]
fn what_is_exported_is_what_was_ordered() {
    let folder = tempfile::tempdir().unwrap();
    let lab = lab(folder.path());
    let frame = frames(&lab, 1)[0];
    tuned(&lab, frame, &[("scene.exposure", 1.0)]);
    lab.pause_exports(true).unwrap();
    let id = lab.start_export(ExportSettings::of(frame, "Bright", small())).unwrap();
    tuned(&lab, frame, &[("scene.exposure", -2.0)]);
    lab.pause_exports(false).unwrap();
    let travelled = packet_of_file(&done(&lab, id)).unwrap().travelling.unwrap();
    assert_eq!(travelled.development.values.get("scene.exposure"), Some(&Value::Number(1.0)));
}

#[test]
fn an_order_is_run_on_frames_that_stay_as_they_are() {
    let folder = tempfile::tempdir().unwrap();
    let lab = lab(folder.path());
    let frames = frames(&lab, 3);
    let preset = ShippedPresets::find("blue-print").unwrap().clone();
    let order = LabOrder {
        presets: vec![preset],
        pattern: "{roll} {number:02} {stock}".into(),
        crop: Some("1x1".into()),
        output: Output { size: Size::LongEdge { px: 40 }, exif: Kept::Nothing, ..small() },
        ..LabOrder::default()
    };
    let names = lab.names_of_order(&order, &frames).unwrap();
    assert!(names[1].starts_with("Tour 02 "), "{names:?}");
    let ids = lab.run_order(&order, &frames, None).unwrap();
    for (id, name) in ids.iter().zip(&names) {
        let bytes = done(&lab, *id);
        let source = amber_files::open(&bytes, Limits::default()).unwrap().source;
        assert_eq!((source.width(), source.height()), (40, 40));
        assert_eq!(lab.export(*id).unwrap().file_name, format!("{name}.jpg"));
    }
    assert!(lab.library.frame(frames[0]).unwrap().summary.development.values.is_empty());
    assert!(lab.run_order(&order, &[], None).is_err());
}

/// A wide space holds the same picture: what lies in sRGB looks the same, and more is left of what does not.
#[test]
fn a_wide_export_is_the_same_picture() {
    let folder = tempfile::tempdir().unwrap();
    let lab = lab(folder.path());
    let frame = frames(&lab, 1)[0];
    let shown = |space: OutputSpace| {
        let output = Output { encoding: Encoding::of_ending("tif").unwrap(), space, ..Output::default() };
        let bytes = done(&lab, lab.start_export(ExportSettings::of(frame, "Wide", output)).unwrap());
        let source = amber_files::open(&bytes, Limits::default()).unwrap().source;
        source.display_8_bit(source.region())
    };
    let srgb = shown(OutputSpace::Srgb);
    for space in [OutputSpace::DisplayP3, OutputSpace::Rec2020] {
        let wide = shown(space);
        let off: Vec<u8> = srgb.iter().zip(&wide).map(|(a, b)| a.abs_diff(*b)).collect();
        let mean = off.iter().map(|v| f64::from(*v)).sum::<f64>() / off.len() as f64;
        // every colour of this picture is a loud one: the compression into sRGB moves many a little
        assert!(mean < 4.0, "{space:?} {mean}");
        assert!(wide != srgb, "{space:?}: its colours are not those of sRGB");
    }
}

/// An export that comes back brings its development along, and with its original it is the same picture again.
#[test]
fn an_export_is_taken_up_again() {
    let folder = tempfile::tempdir().unwrap();
    let lab = lab(folder.path());
    let frame = frames(&lab, 1)[0];
    tuned(&lab, frame, &[("scene.exposure", 0.5), ("film.push", 1.0)]);
    lab.library.keep_proof(frame, Some("Cold one")).unwrap();
    let exported = done(&lab, lab.start_export(ExportSettings::of(frame, "Print", small())).unwrap());
    let roll = lab.library.add_roll("Back", 0).unwrap();
    let came = lab.import(roll, "print.jpg", &exported).unwrap();
    let brought = lab.brought(&exported).unwrap().unwrap();
    assert!(brought.original_here && brought.name.starts_with("Quay"), "{brought:?}");
    let again = lab.take_up(came).unwrap();
    let [before, after] = [frame, again].map(|id| lab.library.frame(id).unwrap().summary);
    assert_eq!((before.development, before.content), (after.development, after.content));
    let twice = done(&lab, lab.start_export(ExportSettings::of(again, "Again", small())).unwrap());
    let pixels = |bytes: &[u8]| amber_files::open(bytes, Limits::default()).unwrap().source.pixels().into_owned();
    assert!(pixels(&exported) == pixels(&twice), "bit for bit");
    assert_eq!(lab.library.frames(roll).unwrap().len(), 1, "the file itself is taken off, not lost");
    // a picture that brings nothing, and one whose original is elsewhere
    assert!(lab.brought(&picture(90, 60, 3)).unwrap().is_none());
    assert!(lab.take_up(frame).unwrap_err().to_string().contains("no development travels"));
    let elsewhere = tempfile::tempdir().unwrap();
    let other = self::lab(elsewhere.path());
    let roll = other.library.add_roll("Other", 0).unwrap();
    let came = other.import(roll, "print.jpg", &exported).unwrap();
    assert!(!other.brought(&exported).unwrap().unwrap().original_here);
    assert!(other.take_up(came).unwrap_err().to_string().contains("not in this library"));
    // and beside an original
    let packet = amber_files::Packet::read(&lab.sidecar(frame).unwrap()).unwrap();
    assert_eq!(packet.travelling.unwrap().proofs, ["Cold one"]);
}

/// A roll comes back from its archive as it was; an archive that was damaged leaves nothing.
#[test]
fn a_roll_is_archived_and_comes_back() {
    let [here, there] = [tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap()];
    let lab_here = lab(here.path());
    let ids = frames(&lab_here, 3);
    tuned(&lab_here, ids[0], &[("scene.exposure", 0.7)]);
    lab_here.library.keep_proof(ids[0], Some("Brighter")).unwrap();
    lab_here.lay_preset("blue-print", &ids[1..2], 1.0).unwrap();
    lab_here.library.mark(vec![ids[2]], amber_library::Mark::Keep).unwrap();
    lab_here.library.write_note(ids[2], "the good one").unwrap();
    let overlay = lab_here.add_picture("veil.jpg", &picture(50, 40, 9)).unwrap();
    let revision = lab_here.library.frame(ids[2]).unwrap().summary.revision;
    lab_here.lay_sheet(ids[2], revision, &format!("own:{}", overlay.hash), true).unwrap();
    let mut archive = Vec::new();
    lab_here.archive_roll(1, &mut archive, &|| false).unwrap();

    let lab_there = lab(there.path());
    let damaged: Vec<u8> =
        archive.iter().enumerate().map(|(i, b)| if i == archive.len() / 2 { b ^ 1 } else { *b }).collect();
    let refused = lab_there.read_archive(std::io::Cursor::new(damaged), 1 << 30).unwrap_err().to_string();
    assert!(refused.contains("no archive"), "{refused}");
    assert!(lab_there.read_archive(std::io::Cursor::new(b"PK nothing".to_vec()), 1 << 30).is_err());
    assert!(lab_there.library.rolls().unwrap().is_empty(), "nothing is left of it");
    let roll = lab_there.read_archive(std::io::Cursor::new(archive.clone()), 1 << 30).unwrap();
    let [before, after] = [(&lab_here, 1), (&lab_there, roll)].map(|(lab, roll)| lab.library.frames(roll).unwrap());
    for (a, b) in before.iter().zip(&after) {
        assert_eq!((&a.name, &a.content, &a.development), (&b.name, &b.content, &b.development));
        assert_eq!((a.mark, &a.note), (b.mark, &b.note));
        let bytes = |lab: &Lab| lab.library.originals.read(&a.content).unwrap();
        assert!(bytes(&lab_here) == bytes(&lab_there));
    }
    assert_eq!(lab_there.library.proofs(after[0].id).unwrap()[0].name, "Brighter");
    assert_eq!(lab_there.library.kept_pictures().unwrap()[0].hash, overlay.hash);
    let mut again = Vec::new();
    lab_there.archive_roll(roll, &mut again, &|| false).unwrap();
    assert!(again == archive, "an archive of what came back is the same file");
}

/// A ZIP of a batch is written while its files are made, and says what could not be.
#[test]
fn a_batch_comes_as_one_file() {
    let folder = tempfile::tempdir().unwrap();
    let lab = lab(folder.path());
    let frames = frames(&lab, 3);
    lab.pause_exports(true).unwrap();
    let settings = frames.iter().map(|frame| ExportSettings::of(*frame, "Same", small())).collect();
    let ids = lab.start_exports(settings).unwrap();
    lab.cancel_export(ids[1]).unwrap();
    let zipped = std::thread::scope(|scope| {
        let zip = scope.spawn(|| {
            let mut out = Vec::new();
            lab.zip_exports(ids[0], &mut out, &|| false).map(|()| out)
        });
        std::thread::sleep(Duration::from_millis(300));
        lab.pause_exports(false).unwrap();
        zip.join().unwrap().unwrap()
    });
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(zipped)).unwrap();
    let names: Vec<String> = zip.file_names().map(|name| name.unwrap().into_owned()).collect();
    assert_eq!(names, ["Same.jpg", "Same 3.jpg", "not made.txt"]);
    let mut bytes = Vec::new();
    std::io::Read::read_to_end(&mut zip.by_name("Same 3.jpg").unwrap(), &mut bytes).unwrap();
    assert_eq!(bytes, done(&lab, ids[2]));
    assert!(lab.zip_exports(4711, Vec::new(), &|| false).is_err());
}

/// A frame's look comes as tables, a table becomes a stock that shows it, and readings are lines of numbers.
#[test]
fn a_look_goes_out_and_comes_in() {
    let folder = tempfile::tempdir().unwrap();
    let lab = lab(folder.path());
    let frame = frames(&lab, 1)[0];
    let cube = lab.look_of(frame, LookForm::Cube(17)).unwrap();
    assert!(String::from_utf8_lossy(&cube).contains("LUT_3D_SIZE 17"));
    let hald = lab.look_of(frame, LookForm::Hald(4)).unwrap();
    for (bytes, name) in [(&cube, "By text"), (&hald, "By picture")] {
        let called = StockName { name: name.into(), family: "mine".into(), notes: String::new() };
        let stock = lab.import_look(bytes, &called).unwrap();
        assert!(stock.look.is_some());
        let before = lab.library.frame(frame).unwrap().summary;
        let mut development = before.development.clone();
        development.change_stock(&stock);
        let change = Change { revision: before.revision, label: name.into(), development };
        lab.library.commit(frame, change, &stock).unwrap();
        let again = lab.look_of(frame, LookForm::Cube(17)).unwrap();
        let colours = |bytes: &[u8]| -> Vec<f32> {
            let text = String::from_utf8_lossy(bytes).into_owned();
            let lines = text.lines().filter(|line| line.starts_with(|c: char| c.is_ascii_digit()));
            lines.flat_map(|line| line.split(' ').map(|v| v.parse::<f32>().unwrap()).collect::<Vec<_>>()).collect()
        };
        let (a, b) = (colours(&cube), colours(&again));
        let mean = a.iter().zip(&b).map(|(a, b)| f64::from((a - b).abs())).sum::<f64>() / a.len() as f64;
        assert!(mean < 0.02, "{name}: {mean}");
    }
    assert!(
        lab.import_look(b"no table", &StockName { name: "x".into(), family: "y".into(), notes: String::new() })
            .is_err()
    );
    lab.library.pin(frame, &[[0.5, 0.5]]).unwrap();
    let csv = lab.readings_csv(frame).unwrap();
    for table in ["curve,", "zone,10,", "pin,1,", "print,"] {
        assert!(csv.contains(table), "{table} in {csv}");
    }
}

#[test]
fn light_itself_is_opened_with_its_stops() {
    let folder = tempfile::tempdir().unwrap();
    let lab = lab(folder.path());
    let roll = lab.library.add_roll("Light", 0).unwrap();
    let mut file = std::io::Cursor::new(Vec::new());
    let light: Vec<f32> = (0..3 * 60 * 40).map(|i| (i % 180) as f32 / 20.0).collect();
    let mut encoder = tiff::encoder::TiffEncoder::new(&mut file).unwrap();
    encoder.write_image::<tiff::encoder::colortype::RGB32Float>(60, 40, &light).unwrap();
    let frame = lab.import(roll, "render.tif", &file.into_inner()).unwrap();
    let development: Development = lab.library.frame(frame).unwrap().summary.development;
    let value = |id: &str| development.values.get(id).and_then(Value::as_number);
    assert_eq!((value("scene.exposure"), value("scene.headroom")), (Some(3.0), Some(0.0)));
}
