//! A framed picture is framed everywhere: views, original, thumbnails, exports.

use amber_core::controls::Value;
use amber_files::{Limits, write};
use amber_lab::{Lab, Pass, Shown, ThumbnailSize, ViewRequest, frame_size};
use amber_library::{Change, Library};

#[test]
fn views_thumbnails_and_readings_show_the_frame() {
    let folder = tempfile::tempdir().unwrap();
    let lab = Lab::new(Library::open(folder.path()).unwrap(), Limits { megapixels: 2 }, Some(2)).unwrap();
    let roll = lab.library.add_roll("Tour", 0).unwrap();
    let pixels: Vec<u8> = (0..900 * 600).flat_map(|i| [(i % 900 / 4) as u8, (i / 900 / 3) as u8, 90]).collect();
    let id = lab.import(roll, "a.jpg", &write::jpeg(&pixels, 900, 600, 95, None).unwrap()).unwrap();
    let frame = lab.library.frame(id).unwrap();
    let mut development = frame.summary.development;
    for (control, value) in [("lens.format", Value::Choice("4x5".into())), ("lens.turn", Value::Choice("90".into()))] {
        development.set(&frame.stock, control, value).unwrap();
    }
    let change = Change { revision: 0, label: "framed".into(), development: development.clone() };
    let frame = lab.library.commit(id, change, &frame.stock).unwrap();
    let size = frame_size(&frame.summary, &development, &frame.stock);
    assert_eq!((size.width, size.height), (600, 750));
    let opened = |bytes: &[u8]| amber_files::open(bytes, Limits::default()).unwrap().source;
    for (sequence, shown) in [(1, Shown::Developed), (2, Shown::Original)] {
        let development = development.clone();
        let (view, pass) = ("w".to_string(), Pass::Settled);
        let request = ViewRequest {
            frame: id,
            view,
            sequence,
            development,
            overlay: None,
            level: 2,
            region: None,
            pass,
            shown,
            coarser: 0,
        };
        let picture = lab.view(&request).unwrap();
        assert_eq!((picture.frame_width, picture.frame_height), (300, 375));
        let source = opened(&picture.bytes);
        assert_eq!((source.width(), source.height()), (300, 375));
        assert_eq!((picture.framed.width, picture.framed.height), (600, 750));
    }
    let small = lab.thumbnail_of(&frame.summary, &development, &frame.stock, ThumbnailSize::Sheet).unwrap();
    let small = opened(&small);
    assert!((f64::from(small.height()) / f64::from(small.width()) - 1.25).abs() < 0.01);
    let plane = lab.plane(id, &development).unwrap();
    assert!(plane.height > plane.width);
}
