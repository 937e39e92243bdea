//! Delivery on a library of its own: the queue, what it survives, orders, and developments that travel.

use std::path::Path;
use std::sync::Arc;
use std::time::Duration;

use amber_core::controls::Value;
use amber_core::output::OutputSpace;
use amber_core::{Development, ShippedPresets};
use amber_files::attached::packet_of_file;
use amber_files::{Encoding, Kept, Limits, write};
use amber_lab::{ExportSettings, ExportState, Lab, LabOrder, Output, Size};
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
