//! Sheets and mounts as the lab keeps, shows and exports them.

use std::time::Duration;

use amber_core::controls::Value;
use amber_files::{Encoding, Limits, write};
use amber_lab::{ExportSettings, ExportState, Lab, Output, name_of_sheet};
use amber_library::{Change, Library};

struct Place {
    lab: std::sync::Arc<Lab>,
    frame: i64,
    _folder: tempfile::TempDir,
}

fn picture(width: u32, height: u32, light: u8) -> Vec<u8> {
    write::jpeg(&vec![light; (3 * width * height) as usize], width, height, 95, None).unwrap()
}

fn place() -> Place {
    let folder = tempfile::tempdir().unwrap();
    let lab = Lab::new(Library::open(folder.path()).unwrap(), Limits { megapixels: 2 }, Some(2)).unwrap();
    let roll = lab.library.add_roll("Tour", 0).unwrap();
    let frame = lab.import(roll, "grey.jpg", &picture(300, 200, 110)).unwrap();
    Place { lab: lab.into(), frame, _folder: folder }
}

impl Place {
    fn set(&self, values: &[(&str, Value)]) {
        let frame = self.lab.library.frame(self.frame).unwrap();
        let mut development = frame.summary.development.clone();
        for (id, value) in values {
            development.set(&frame.stock, id, value.clone()).unwrap();
        }
        let change = Change { revision: frame.summary.revision, label: "set".into(), development };
        self.lab.library.commit(self.frame, change, &frame.stock).unwrap();
    }

    /// Width and height of an export, and its pixels.
    fn exported(&self) -> (u32, u32, Vec<u8>) {
        let output = Output { encoding: Encoding::jpeg(95), ..Output::default() };
        let id = self.lab.start_export(ExportSettings::of(self.frame, "out", output)).unwrap();
        assert!(self.lab.wait_for_export(id, Duration::from_secs(60)).unwrap(), "the export does not end");
        assert!(matches!(self.lab.export(id).unwrap().state, ExportState::Done { .. }));
        let bytes = std::fs::read(self.lab.export_file(id).unwrap()).unwrap();
        let source = amber_files::open(&bytes, Limits::default()).unwrap().source;
        (source.width(), source.height(), source.display_8_bit(source.region()))
    }
}

#[test]
fn a_sheet_is_laid_named_and_taken_off() {
    let place = place();
    let lab = &place.lab;
    let picture = lab.add_picture("ribbed-paper.jpg", &picture(90, 60, 250)).unwrap();
    let kind = format!("own:{}", picture.hash);
    let kept = lab.library.kept_pictures().unwrap();
    assert_eq!(name_of_sheet(&kind, &kept).as_deref(), Some("Ribbed paper"));
    assert_eq!(name_of_sheet("dust", &[]).as_deref(), Some("Dust"));
    assert_eq!(name_of_sheet(&kind, &[]), None);
    assert!(lab.add_picture("none.png", b"no picture").is_err());
    let revision = |frame: &amber_library::Frame| frame.summary.revision;
    let dust = lab.lay_sheet(place.frame, 0, "dust", true).unwrap();
    let both = lab.lay_sheet(place.frame, revision(&dust), &kind, true).unwrap();
    assert_eq!(both.undo.as_deref(), Some("Ribbed paper laid"));
    let values = &both.summary.development.values;
    assert_eq!(values["surface.sheet.2.kind"], Value::Choice(kind.clone()));
    assert!(
        values.get("surface.sheet.1.order").is_none_or(|v| v.as_number() < values["surface.sheet.2.order"].as_number())
    );
    // it is seen on the frame, and the board shows each kind by itself
    let (_, _, pixels) = place.exported();
    assert!(pixels.iter().all(|v| *v > 240), "the picture lies over everything");
    let frame = lab.library.frame(place.frame).unwrap();
    assert_ne!(lab.sheet_thumbnail(&frame, "burn").unwrap(), lab.sheet_thumbnail(&frame, &kind).unwrap());
    assert!(lab.sheet_thumbnail(&frame, "no-such-kind").is_err());
    assert!(lab.picture_thumbnail(&picture.hash).unwrap().starts_with(&[0xFF, 0xD8]));
    let off = lab.lay_sheet(place.frame, revision(&both), &kind, false).unwrap();
    assert!(!off.summary.development.values.keys().any(|id| id.starts_with("surface.sheet.2.")));
    assert_eq!(off.undo.as_deref(), Some("Ribbed paper taken off"));
}

/// A mounted export grows by its mount, or keeps the picture's size.
#[test]
fn an_export_grows_by_its_mount_or_keeps_its_size() {
    let place = place();
    place.set(&[("surface.mount.kind", Value::Choice("border".into())), ("surface.mount.width", Value::Number(10.0))]);
    let (width, height, pixels) = place.exported();
    assert_eq!((width, height), (360, 260));
    assert!(pixels[0] > 240, "paper in the corner");
    let middle = 3 * (130 * 360 + 180);
    assert!((40..220).contains(&pixels[middle]), "the picture in the middle: {}", pixels[middle]);
    // what lies round the picture on the bench is the same
    let frame = place.lab.library.frame(place.frame).unwrap();
    let alone = place.lab.mount_alone(&frame, &frame.summary.development, 300).unwrap();
    let mut reader = png::Decoder::new(std::io::Cursor::new(&alone)).read_info().unwrap();
    assert_eq!((reader.info().size(), reader.info().color_type), ((360, 260), png::ColorType::Rgba));
    let mut rgba = vec![0; 4 * 360 * 260];
    reader.next_frame(&mut rgba).unwrap();
    assert_eq!((rgba[3], rgba[4 * (130 * 360 + 180) + 3]), (255, 0));
    place.set(&[("surface.mount.keeps", Value::Switch(true))]);
    let (width, height, _) = place.exported();
    assert!(width.abs_diff(300) <= 1 && height < 240, "{width} x {height}");
}
