//! Reduced originals on disk: a view from them is the view, and what is not whole is made again.

use std::path::{Path, PathBuf};

use amber_files::{Limits, write};
use amber_lab::{Lab, LabError, Pass, Shown, ViewRequest};
use amber_library::Library;

/// Six megapixels with a lamp of two pixels.
fn picture() -> Vec<u8> {
    let (width, height) = (3000u32, 2000u32);
    let value = |x: u32, y: u32| ((x / 9) ^ (y / 7)) as u8 / 3 + (x * 7 + y * 3) as u8 % 5;
    let lamp = |x: u32, y: u32| x / 2 == 700 && y / 2 == 480;
    let pixels: Vec<u8> = (0..width * height)
        .flat_map(|i| {
            let (x, y) = (i % width, i / width);
            if lamp(x, y) { [255; 3] } else { [value(x, y), value(y, x), 90] }
        })
        .collect();
    write::png(&pixels, width, height).unwrap()
}

fn lab(folder: &Path) -> Lab {
    Lab::new(Library::open(folder).unwrap(), Limits::default(), Some(2)).unwrap()
}

fn seen(lab: &Lab, frame: i64, level: u8) -> Result<Vec<u8>, LabError> {
    let development = lab.library.frame(frame).unwrap().summary.development;
    let request = ViewRequest {
        frame,
        view: "w".into(),
        sequence: 1,
        development,
        overlay: None,
        level,
        region: None,
        pass: Pass::Settled,
        coarser: 0,
        shown: Shown::Developed,
    };
    lab.view(&request).map(|view| view.bytes)
}

fn files(folder: &Path) -> Vec<PathBuf> {
    let all = std::fs::read_dir(folder).into_iter().flatten().map(|e| e.unwrap().path());
    let mut files: Vec<PathBuf> = all.flat_map(|p| if p.is_dir() { files(&p) } else { vec![p] }).collect();
    files.sort();
    files
}

#[test]
fn a_frame_that_was_there_once_needs_its_file_no_more() {
    let place = tempfile::tempdir().unwrap();
    let first = lab(place.path());
    let roll = first.library.add_roll("Roll", 0).unwrap();
    let frame = first.import(roll, "a.png", &picture()).unwrap();
    let wanted = [3, 5].map(|level| seen(&first, frame, level).unwrap());
    drop(first);
    let levels = place.path().join("cache").join("levels");
    assert_eq!(files(&levels).len(), 3, "two zoom steps and what was measured");

    // without its file: bit for bit the same, and what was never there is missed
    let originals = files(&place.path().join("originals"));
    let [original] = originals.as_slice() else { panic!("{originals:?}") };
    let bytes = std::fs::read(original).unwrap();
    std::fs::remove_file(original).unwrap();
    let again = lab(place.path());
    for (level, wanted) in [3, 5].into_iter().zip(&wanted) {
        assert!(seen(&again, frame, level).unwrap() == *wanted, "{level}");
    }
    assert!(seen(&again, frame, 4).is_err());
    drop(again);

    // what is not whole is made again
    for file in files(&levels) {
        let mut kept = std::fs::read(&file).unwrap();
        let middle = kept.len() / 2;
        kept[middle] ^= 1;
        std::fs::write(&file, kept).unwrap();
    }
    assert!(seen(&lab(place.path()), frame, 3).is_err(), "a flipped bit is no picture");
    std::fs::write(original, bytes).unwrap();
    assert!(seen(&lab(place.path()), frame, 3).unwrap() == wanted[0]);
    for file in files(&levels) {
        std::fs::write(&file, b"").unwrap();
    }
    assert!(seen(&lab(place.path()), frame, 5).unwrap() == wanted[1]);
}

/// What lies on disks was reduced by this program or by one that reduces alike. When this hash changes, VERSION in
/// `levels.rs` goes up by one, so that nothing old is taken for new.
#[test]
fn the_reduction_is_that_of_the_version() {
    let place = tempfile::tempdir().unwrap();
    let lab = lab(place.path());
    let roll = lab.library.add_roll("Roll", 0).unwrap();
    let frame = lab.import(roll, "a.png", &picture()).unwrap();
    seen(&lab, frame, 4).unwrap();
    let mut hash = blake3::Hasher::new();
    files(&place.path().join("cache").join("levels")).iter().for_each(|file| {
        hash.update(file.file_name().unwrap().to_str().unwrap().as_bytes());
        hash.update(&std::fs::read(file).unwrap());
    });
    assert_eq!(hash.finalize().to_hex()[..16].to_string(), "d3a0cd42418f5531");
}
