//! What Scene asks of a picture: neutral, metering, and noise that is smoothed before the picture is reduced.

use amber_core::controls::Value;
use amber_core::picture::reduce::Level;
use amber_core::stations::scene::metering::cast_stops;
use amber_files::{Limits, write};
use amber_lab::{Lab, LabError, Pass, Shown, ViewRequest};
use amber_library::Library;

const WIDTH: u32 = 900;
const HEIGHT: u32 = 600;

/// A lab with one frame, made of encoded pixels.
fn lab_with(pixel: impl Fn(u32, u32) -> [u8; 3]) -> (Lab, i64, tempfile::TempDir) {
    let folder = tempfile::tempdir().unwrap();
    let lab = Lab::new(Library::open(folder.path()).unwrap(), Limits { megapixels: 2 }, Some(2)).unwrap();
    let roll = lab.library.add_roll("Tour", 0).unwrap();
    let pixels: Vec<u8> = (0..WIDTH * HEIGHT).flat_map(|i| pixel(i % WIDTH, i / WIDTH)).collect();
    let id = lab.import(roll, "a.jpg", &write::jpeg(&pixels, WIDTH, HEIGHT, 97, None).unwrap()).unwrap();
    (lab, id, folder)
}

/// Greys under a warm lamp, black at the left.
fn warm(x: u32, _: u32) -> [u8; 3] {
    if x < 90 { [0; 3] } else { [(60 + x / 8) as u8, (50 + x / 10) as u8, (40 + x / 16) as u8] }
}

#[test]
fn a_picked_grey_is_neutral_and_black_is_refused() {
    let (lab, id, _folder) = lab_with(warm);
    let development = lab.library.frame(id).unwrap().summary.development;
    let (kelvin, tint) = lab.neutral_at(id, &development, [0.6, 0.5]).unwrap();
    assert!(kelvin < 5000.0, "a warm lamp: {kelvin}");
    let mut balanced = development.clone();
    let stock = lab.library.stock_of(&balanced).unwrap();
    balanced.set(&stock, "scene.temperature", Value::Number(kelvin)).unwrap();
    balanced.set(&stock, "scene.tint", Value::Number(tint)).unwrap();
    // what was picked under one balance is the same under another: the balance in force does not count
    let again = lab.neutral_at(id, &balanced, [0.6, 0.5]).unwrap();
    assert_eq!(again, (kelvin, tint));
    // the two planes of colour of the readings come nearer to nothing
    let chroma = |development| {
        let plane = lab.plane(id, development).unwrap();
        let (n, i) = (plane.width * plane.height, plane.width * (plane.height / 2) + plane.width * 6 / 10);
        let at = |k: u32| f64::from(plane.values[(k * n + i) as usize]) / 100.0;
        at(8).hypot(at(9))
    };
    assert!(chroma(&balanced) < 0.5 * chroma(&development), "{} {}", chroma(&balanced), chroma(&development));
    assert!(matches!(lab.neutral_at(id, &development, [0.02, 0.5]), Err(LabError::NoNeutral)));
}

#[test]
fn metering_proposes_and_applies_nothing() {
    let (lab, id, _folder) = lab_with(|x, y| warm(x, y).map(|v| v / 3));
    let development = lab.library.frame(id).unwrap().summary.development;
    let metering = lab.metering(id, &development).unwrap();
    assert_eq!(lab.library.frame(id).unwrap().summary.development, development);
    assert_eq!(metering.controls, ["scene.exposure", "scene.temperature", "scene.tint", "scene.rendering"]);
    let value = |id: &str| metering.proposed.values.get(id).and_then(Value::as_number);
    assert!(value("scene.exposure").unwrap() > 0.5, "a dark picture: {:?}", metering.proposed.values);
    assert!(value("scene.temperature").unwrap() < 5500.0);
    // seated: less of the picture lies below the straight line than before
    let below = |reading: &amber_lab::FilmReading| {
        let first = ((metering.straight_line[0] + 5.5) * 10.0).max(0.0) as usize;
        reading.exposures[..first.min(reading.exposures.len())].iter().sum::<f64>()
    };
    assert!(below(&metering.after) <= below(&metering.before));
    assert!(metering.after.zones[..4].iter().sum::<f64>() < metering.before.zones[..4].iter().sum::<f64>());
    assert!(cast_stops([0.3, 0.2, 0.1], 5500.0, 0.0) > 1.0);
}

/// The settled view at a reduced scale is the export's own way: smoothed at full size, then reduced.
#[test]
fn noise_is_smoothed_before_reduction() {
    // the sum of four uniform numbers of a mixing hash is nearly normal
    let noise = |x: u32, y: u32, k: u32| {
        let mut h = x.wrapping_mul(0x9e37_79b1) ^ y.wrapping_mul(0x85eb_ca77) ^ k.wrapping_mul(0xc2b2_ae3d);
        (0..4).fold(0, |sum, _| {
            h = (h ^ (h >> 15)).wrapping_mul(0x2c1b_3c6d).wrapping_add(k);
            h ^= h >> 13;
            sum + (h >> 28)
        })
    };
    let noisy = |x: u32, y: u32| [0, 1, 2].map(|k| (70 + x / 12 + noise(x, y, k)) as u8);
    let (lab, id, _folder) = lab_with(noisy);
    let summary = lab.library.frame(id).unwrap().summary;
    let stock = lab.library.stock_of(&summary.development).unwrap();
    let mut development = summary.development.clone();
    for control in ["scene.noise.luminance", "scene.noise.colour"] {
        development.set(&stock, control, Value::Number(1.0)).unwrap();
    }
    development.set(&stock, "film.grain.granularity", Value::Number(0.0)).unwrap();
    let mut plain = summary.development;
    plain.set(&stock, "film.grain.granularity", Value::Number(0.0)).unwrap();
    let spread = |development: &amber_core::Development, level: u8, pass: Pass, sequence: u64| {
        let request = ViewRequest {
            frame: id,
            view: "w".into(),
            sequence,
            development: development.clone(),
            overlay: None,
            level,
            region: None,
            pass,
            shown: Shown::Developed,
            coarser: 0,
        };
        let picture = lab.view(&request).unwrap();
        let source = amber_files::open(&picture.bytes, Limits::default()).unwrap().source;
        let row: Vec<f64> = source.row(source.height() / 2, 0, source.width()).iter().map(|c| f64::from(*c)).collect();
        row.windows(6).map(|w| (w[3] - w[0]).abs()).sum::<f64>() / row.len() as f64
    };
    let full = |d, sequence| spread(d, Level::FULL.0, Pass::Settled, sequence);
    let (smooth, noisy) = (full(&development, 1), full(&plain, 2));
    assert!(smooth < 0.5 * noisy, "{smooth} {noisy}");
    // a view in motion smooths what it has
    assert!(spread(&development, 0, Pass::Quick, 3) < 0.9 * spread(&plain, 0, Pass::Quick, 4));
}
