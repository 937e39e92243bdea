//! Masks through the lab: laid over a view, read at a place, in an export.

use amber_core::controls::Value;
use amber_core::mask::Mask;
use amber_files::{Limits, write};
use amber_lab::{Lab, Pass, Shown, ViewRequest};
use amber_library::Library;

#[test]
fn a_mask_is_laid_over_and_a_place_is_read() {
    let folder = tempfile::tempdir().unwrap();
    let lab = Lab::new(Library::open(folder.path()).unwrap(), Limits { megapixels: 2 }, Some(2)).unwrap();
    let roll = lab.library.add_roll("Tour", 0).unwrap();
    // left green, right grey
    let pixels: Vec<u8> = (0..600 * 400).flat_map(|i| if i % 600 < 300 { [60, 130, 50] } else { [118; 3] }).collect();
    let id = lab.import(roll, "a.jpg", &write::jpeg(&pixels, 600, 400, 95, None).unwrap()).unwrap();
    let frame = lab.library.frame(id).unwrap();
    let mut development = frame.summary.development;

    let (leaf, grey) =
        (lab.range_at(id, &development, [0.2, 0.5]).unwrap(), lab.range_at(id, &development, [0.8, 0.5]).unwrap());
    assert!((120.0..160.0).contains(&leaf.hue_degrees) && leaf.colourfulness > 0.1, "{leaf:?}");
    assert!(grey.colourfulness < 0.01 && (grey.zone - 5.0).abs() < 0.15, "{grey:?}");

    let text = r#"{"name":"Leaves","parts":[{"kind":"hue","low":110,"high":170,"feather":[10,10]}]}"#;
    development.masks.insert("1".into(), serde_json::from_str::<Mask>(text).unwrap());
    let asked = |sequence: u64, overlay: Option<&str>, values: &[(&str, Value)]| {
        let mut development = development.clone();
        values.iter().for_each(|(id, v)| development.set(&frame.stock, id, v.clone()).unwrap());
        ViewRequest {
            frame: id,
            view: "w".into(),
            sequence,
            development,
            overlay: overlay.map(Into::into),
            level: 2,
            region: None,
            pass: Pass::Settled,
            coarser: 0,
            shown: Shown::Developed,
        }
    };
    let view = |sequence: u64, overlay: Option<&str>, values: &[(&str, Value)]| {
        let request = asked(sequence, overlay, values);
        let picture = amber_files::open(&lab.view(&request).unwrap().bytes, Limits::default()).unwrap().source;
        let pixels = picture.display_8_bit(picture.region());
        let mean = |from: usize| -> [f64; 3] {
            let sum = |k: usize| (0..40).map(|x| f64::from(pixels[3 * (100 * 300 + from + x) + k])).sum::<f64>();
            [sum(0), sum(1), sum(2)].map(|s| s / 40.0)
        };
        (mean(60), mean(220))
    };
    let plain = view(1, None, &[]);
    let over = view(2, Some("1"), &[]);
    assert!(over.0[0] > plain.0[0] + 50.0 && (over.1[0] - plain.1[0]).abs() < 3.0, "{plain:?} {over:?}");
    let unknown = lab.view(&asked(3, Some("none of these"), &[])).unwrap_err().to_string();
    assert!(unknown.contains("does not have"), "{unknown}");
    let through = ("scene.local.1.mask", Value::Choice("1".into()));
    let dodged = view(4, None, &[through, ("scene.local.1.exposure", Value::Number(1.0))]);
    assert!(dodged.0[1] > plain.0[1] + 15.0 && (dodged.1[1] - plain.1[1]).abs() < 3.0, "{plain:?} {dodged:?}");
}
