//! Files in and out, and what independent programs say of them.

use std::process::Command;

use amber_files::{FileError, Limits, Metadata, open, plain, write};

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
    let back = plain::decoded(&write::png(&pixels, 31, 17).unwrap()).unwrap();
    assert_eq!(back, (pixels, 31, 17));
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

/// A PNG chunk with a right checksum.
fn chunk(kind: &[u8; 4], content: &[u8]) -> Vec<u8> {
    let mut crc = !0u32;
    for byte in kind.iter().chain(content) {
        crc ^= u32::from(*byte);
        (0..8).for_each(|_| crc = (crc >> 1) ^ (0xEDB8_8320 & (crc & 1).wrapping_neg()));
    }
    [&(content.len() as u32).to_be_bytes()[..], kind, content, &(!crc).to_be_bytes()].concat()
}

/// A PNG with a chunk put before its data.
fn png_with(extra: &[u8]) -> Vec<u8> {
    let png = write::png(&gradient(32, 32), 32, 32).unwrap();
    let header = 8 + 25;
    [&png[..header], extra, &png[header..]].concat()
}

/// zlib data of `length` zeros, in stored and repeated blocks as small as may be.
fn deflated_zeros(length: usize) -> Vec<u8> {
    use std::io::Write;
    let mut encoder = flate2::write::ZlibEncoder::new(Vec::new(), flate2::Compression::best());
    let block = vec![0u8; 1 << 20];
    (0..length >> 20).for_each(|_| encoder.write_all(&block).unwrap());
    encoder.finish().unwrap()
}

#[test]
fn a_profile_that_unpacks_without_end_is_refused() {
    let bomb = [b"bomb\0\0".as_slice(), &deflated_zeros(200 << 20)].concat();
    let error = open(&png_with(&chunk(b"iCCP", &bomb)), Limits::default()).unwrap_err();
    assert!(error.to_string().contains("profile"), "{error}");
}

#[test]
fn a_palette_cut_off_is_a_damaged_file() {
    let error = open(&png_with(&chunk(b"PLTE", &[7; 28])), Limits::default()).unwrap_err();
    assert!(matches!(error, FileError::Damaged { format: "PNG", .. }), "{error}");
}

#[test]
fn exif_that_shares_its_bytes_stays_small() {
    let mut block = b"II\x2a\0\x08\0\0\0".to_vec();
    let count = 20_000u16;
    block.extend(count.to_le_bytes());
    for i in 0..count {
        block.extend([0x010E + i % 300, 2].map(u16::to_le_bytes).concat());
        block.extend(800_000u32.to_le_bytes());
        block.extend((8 + 2 + 12 * u32::from(count) + 4).to_le_bytes());
    }
    block.extend([0; 4]);
    block.extend(vec![b'x'; 800_000]);
    let opened = open(&png_with(&chunk(b"eXIf", &block)), Limits::default()).unwrap();
    assert!(opened.metadata.is_empty(), "no field of 800 KB is kept");
}

/// A profile inside a file, all the way to the picture: Display P3's green lies outside sRGB.
#[test]
fn the_profile_of_a_file_is_honoured() {
    let p3 = moxcms::ColorProfile::new_display_p3().encode().unwrap();
    let pixels: Vec<u8> = [0, 255, 0].repeat(16 * 16);
    let mut jpeg = Vec::new();
    let mut encoder = jpeg_encoder::Encoder::new(&mut jpeg, 100);
    encoder.add_icc_profile(&p3).unwrap();
    encoder.encode(&pixels, 16, 16, jpeg_encoder::ColorType::Rgb).unwrap();
    let mut tiff_file = std::io::Cursor::new(Vec::new());
    let mut tiff = tiff::encoder::TiffEncoder::new(&mut tiff_file).unwrap();
    let mut image = tiff.new_image::<tiff::encoder::colortype::RGB8>(16, 16).unwrap();
    image.encoder().write_tag(tiff::tags::Tag::IccProfile, p3.as_slice()).unwrap();
    image.write_data(&pixels).unwrap();
    for file in [jpeg, tiff_file.into_inner()] {
        let opened = open(&file, Limits::default()).unwrap();
        let red = amber_core::picture::source::linear_of_code()[opened.source.row(8, 8, 1)[0] as usize];
        // P3 green in linear sRGB: -0.2249, 1.0420, -0.0786 (from the published primaries)
        assert!((red + 0.2249).abs() < 0.02, "{red}");
    }
}

/// Every kind of TIFF that is read by strips says what was written.
#[test]
fn strips_and_depths_are_read_as_they_were_written() {
    use tiff::encoder::colortype::{Gray8, Gray16, RGB8, RGB16, RGBA8, RGBA16};
    fn file<C: tiff::encoder::colortype::ColorType>(data: &[C::Inner], rows: u32) -> Vec<u8>
    where
        [C::Inner]: tiff::encoder::TiffValue,
    {
        let mut out = std::io::Cursor::new(Vec::new());
        let mut encoder = tiff::encoder::TiffEncoder::new(&mut out).unwrap();
        let mut image = encoder.new_image::<C>(30, 20).unwrap();
        image.rows_per_strip(rows).unwrap();
        image.write_data(data).unwrap();
        out.into_inner()
    }
    let eight: Vec<u8> = (0..30 * 20 * 4).map(|i| (i * 37 % 256) as u8).collect();
    let sixteen: Vec<u16> = (0..30 * 20 * 4).map(|i| (i * 997 % 65_536) as u16).collect();
    let count = 30 * 20;
    for rows in [20, 7] {
        let files = [
            file::<Gray8>(&eight[..count], rows),
            file::<RGB8>(&eight[..3 * count], rows),
            file::<RGBA8>(&eight, rows),
            file::<Gray16>(&sixteen[..count], rows),
            file::<RGB16>(&sixteen[..3 * count], rows),
            file::<RGBA16>(&sixteen, rows),
        ];
        for (kind, bytes) in files.iter().enumerate() {
            let ours = open(bytes, Limits::default()).unwrap().source;
            let channels = [1, 3, 4][kind % 3];
            let unit = |i: usize| if kind < 3 { f32::from(eight[i]) / 255.0 } else { f32::from(sixteen[i]) / 65535.0 };
            let encoded = amber_core::picture::source::encoded_of_code();
            for (i, a) in ours.pixels().chunks_exact(3).enumerate() {
                let alpha = if channels == 4 { unit(4 * i + 3) } else { 1.0 };
                for k in 0..3 {
                    let wanted = unit(channels * i + k % channels.min(3)) * alpha + 1.0 - alpha;
                    assert!((encoded[a[k] as usize] - wanted).abs() < 3e-5, "kind {kind}, {rows} rows");
                }
            }
        }
    }
}
