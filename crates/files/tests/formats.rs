//! Files in and out, and what independent programs say of them.

use std::process::Command;

use amber_files::{FileError, Limits, Metadata, open, write};

fn gradient(width: u32, height: u32) -> Vec<u8> {
    (0..width * height).flat_map(|i| [(i % width * 255 / width) as u8, (i / width * 255 / height) as u8, 90]).collect()
}

/// A JPEG with EXIF: a camera's name, an exposure time, a place, and an orientation that turns it upright.
fn camera_jpeg() -> Vec<u8> {
    use exif::{Field, In, Rational, Tag, Value};
    let text = |s: &str| Value::Ascii(vec![s.as_bytes().to_vec()]);
    let one = |n, d| Value::Rational(vec![Rational { num: n, denom: d }]);
    let place = [(51, 1), (28, 1), (38, 1)].map(|(num, denom)| Rational { num, denom }).to_vec();
    let fields = [
        (Tag::Make, text("Invented Works")),
        (Tag::Orientation, Value::Short(vec![6])),
        (Tag::ExposureTime, one(1, 125)),
        (Tag::DateTimeOriginal, text("2026:10:14 09:12:00")),
        (Tag::GPSLatitudeRef, text("N")),
        (Tag::GPSLatitude, Value::Rational(place)),
    ]
    .map(|(tag, value)| Field { tag, ifd_num: In::PRIMARY, value });
    let mut writer = exif::experimental::Writer::new();
    fields.iter().for_each(|f| writer.push_field(f));
    let mut block = std::io::Cursor::new(Vec::new());
    writer.write(&mut block, false).unwrap();
    let mut out = Vec::new();
    let mut encoder = jpeg_encoder::Encoder::new(&mut out, 95);
    encoder.add_exif_metadata(&block.into_inner()).unwrap();
    encoder.encode(&gradient(60, 40), 60, 40, jpeg_encoder::ColorType::Rgb).unwrap();
    out
}

#[test]
fn orientation_is_applied() {
    let opened = open(&camera_jpeg(), Limits::default()).unwrap();
    assert_eq!((opened.source.width(), opened.source.height()), (40, 60));
    // turned by a quarter to the right: the left column of the file is the top row of the picture
    let row = opened.source.row(0, 0, 40);
    assert!(row[1] > row[3 * 39 + 1], "green runs from bottom to top of the file's left edge");
}

#[test]
fn a_16_bit_tiff_comes_back_exactly() {
    let pixels: Vec<u16> = (0..50 * 30 * 3).map(|i| (i * 997 % 65_536) as u16).collect();
    let bytes = write::tiff_16_bit(&pixels, 50, 30, &Metadata::default()).unwrap();
    let mut decoder = tiff::decoder::Decoder::new(std::io::Cursor::new(&bytes)).unwrap();
    match decoder.read_image().unwrap() {
        tiff::decoder::DecodingResult::U16(back) => assert_eq!(back, pixels),
        other => panic!("{other:?}"),
    }
    assert_eq!(open(&bytes, Limits::default()).unwrap().format, "TIFF");
}

#[test]
fn a_png_is_lossless() {
    let pixels = gradient(31, 17);
    let back = image::load_from_memory(&write::png(&pixels, 31, 17).unwrap()).unwrap().into_rgb8();
    assert_eq!(back.into_raw(), pixels);
}

#[test]
fn wrong_files_get_a_sentence() {
    let jpeg = camera_jpeg();
    let limits = Limits::default();
    let tiff = write::tiff_16_bit(&[1000; 30 * 20 * 3], 30, 20, &Metadata::default()).unwrap();
    let png = write::png(&gradient(60, 40), 60, 40).unwrap();
    assert!(matches!(open(b"hello, this is text", limits), Err(FileError::NotAPicture)));
    assert!(matches!(open(&[], limits), Err(FileError::NotAPicture)));
    for cut in [&jpeg[..jpeg.len() - 60], &jpeg[..200], &png[..png.len() / 2], &tiff[..tiff.len() / 2]] {
        let error = open(cut, limits).unwrap_err();
        assert!(matches!(error, FileError::Damaged { .. }), "{error}");
    }
    let error = open(&jpeg, Limits { megapixels: 0 }).unwrap_err().to_string();
    assert!(error.contains("60 x 40"), "{error}");
}

/// The written files as `exiftool` (an independent program, from Debian) reads them.
#[test]
fn an_independent_program_reads_what_we_write() {
    let metadata = open(&camera_jpeg(), Limits::default()).unwrap().metadata;
    let folder = tempfile::tempdir().unwrap();
    let jpeg = write::jpeg(&gradient(64, 48), 64, 48, 92, Some(&metadata)).unwrap();
    let tiff = write::tiff_16_bit(&[30_000; 64 * 48 * 3], 64, 48, &metadata).unwrap();
    for (name, bytes) in [("out.jpg", jpeg), ("out.tif", tiff)] {
        let path = folder.path().join(name);
        write::save(&path, &bytes).unwrap();
        let run = Command::new("exiftool").args(["-s", "-G0", "-n"]).arg(&path).output();
        let Ok(run) = run else { panic!("exiftool is missing: `make test` installs it") };
        let told = String::from_utf8_lossy(&run.stdout).replace(' ', "");
        for wanted in
            ["Make:InventedWorks", "ExposureTime:0.008", "GPSLatitudeRef:N", "ImageWidth:64", "ColorSpaceData:RGB"]
        {
            assert!(told.contains(wanted), "{name}: {wanted} is missing in\n{told}");
        }
        assert!(
            !told.contains("[EXIF]Orientation:6"),
            "{name}: the orientation was applied and must not be told again"
        );
        assert!(!told.contains("Warning"), "{name}: {told}");
    }
    let left: Vec<_> = std::fs::read_dir(folder.path()).unwrap().collect();
    assert_eq!(left.len(), 2, "no partial file is left");
}
