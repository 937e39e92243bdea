//! What independent programs say of the files that are written, and what is made of theirs: exiftool, ImageMagick,
//! libtiff's, libwebp's and libjxl's own tools, from Debian.

use std::io::Cursor;
use std::path::{Path, PathBuf};
use std::process::Command;

use amber_core::output::OutputSpace;
use amber_core::{Catalogue, Development, Stock};
use amber_files::attached::packet_of_file;
use amber_files::{Attached, Bits, Caption, Encoding, Limits, Metadata, Sampling, Travelling, encode, open};

const WIDTH: u32 = 300;
const HEIGHT: u32 = 40;

/// A ramp of more than 256 greys, tinted.
fn codes() -> Vec<u16> {
    let code = |i: u32| (i % WIDTH * 217) as u16;
    (0..WIDTH * HEIGHT).flat_map(|i| [code(i), code(i) / 2, 65_535 - code(i)]).collect()
}

fn travelling(strokes: usize) -> Travelling {
    let stock = Catalogue::first();
    let proofs = (0..strokes).map(|i| format!("Proof {i} & <more>")).collect();
    Travelling {
        original: "0123abcd".repeat(8),
        name: "Quay".into(),
        development: Development::new(&stock),
        stock: Some(Stock::clone(&stock)),
        proofs,
    }
}

fn attached(space: OutputSpace) -> Attached {
    let caption = Caption { title: "Low tide".into(), caption: "Söderås <3".into(), copyright: "© Ada".into() };
    let metadata = Metadata::default();
    Attached { space, metadata, caption, travelling: Some(travelling(2)), pixels_per_inch: Some(300.0) }
}

fn written(folder: &Path, encoding: Encoding, attached: &Attached) -> PathBuf {
    let mut out = Cursor::new(Vec::new());
    let size = [WIDTH, HEIGHT];
    let row = 3 * WIDTH as usize;
    match encoding.bits() {
        Bits::Sixteen => {
            let codes = codes();
            let mut bands = codes.chunks(row * 16).map(<[u16]>::to_vec);
            encode::of_16_bit(&encoding, &mut bands, size, attached, &mut out).unwrap();
        }
        Bits::Eight => {
            let eight: Vec<u8> = codes().iter().map(|v| (v >> 8) as u8).collect();
            let mut bands = eight.chunks(row * 16).map(<[u8]>::to_vec);
            encode::of_8_bit(&encoding, &mut bands, size, attached, &mut out).unwrap();
        }
    }
    let bits = u8::from(encoding.bits());
    let path = folder.join(format!("{bits}-{:?}.{}", attached.space, encoding.ending()));
    std::fs::write(&path, out.into_inner()).unwrap();
    path
}

fn said(program: &str, arguments: &[&str], file: &Path) -> String {
    let output = Command::new(program).args(arguments).arg(file).output().unwrap_or_else(|e| panic!("{program}: {e}"));
    let text = [output.stdout, output.stderr].concat();
    let text = String::from_utf8_lossy(&text).into_owned();
    assert!(output.status.success(), "{program} {file:?}: {text}");
    text
}

/// Pixels as ImageMagick reads them: 16 bits, interleaved, in the file's own encoding.
fn pixels(file: &Path) -> Vec<u16> {
    let raw = file.with_extension("raw");
    let target = format!("rgb:{}", raw.display());
    let made = Command::new("convert").arg(file).args(["-depth", "16", "-endian", "LSB", &target]).output().unwrap();
    assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
    let bytes = std::fs::read(raw).unwrap();
    bytes.chunks_exact(2).map(|v| u16::from_le_bytes([v[0], v[1]])).collect()
}

const FORMATS: [Encoding; 9] = [
    Encoding::Jpeg { quality: 100, sampling: Sampling::Full, within_kb: None },
    Encoding::Jpeg { quality: 90, sampling: Sampling::Half, within_kb: Some(9) },
    Encoding::Png { bits: Bits::Eight },
    Encoding::Png { bits: Bits::Sixteen },
    Encoding::Tiff { bits: Bits::Eight, deflate: false },
    Encoding::Tiff { bits: Bits::Sixteen, deflate: true },
    Encoding::Webp {},
    Encoding::Jxl { bits: Bits::Eight },
    Encoding::Jxl { bits: Bits::Sixteen },
];

#[test]
fn every_format_says_to_others_what_was_attached() {
    let folder = tempfile::tempdir().unwrap();
    for encoding in FORMATS {
        for space in OutputSpace::ALL {
            if space != OutputSpace::Srgb && matches!(encoding, Encoding::Jxl { .. }) {
                continue;
            }
            let file = written(folder.path(), encoding, &attached(space));
            let read = said("exiftool", &["-a", "-G1", "-s", "-u"], &file);
            let find = |tag: &str| {
                let line =
                    read.lines().find(|line| line.split_once(']').is_some_and(|(_, l)| l.trim().starts_with(tag)));
                line.and_then(|line| line.split_once(": ")).map_or_else(|| panic!("{tag} of {file:?}: {read}"), |l| l.1)
            };
            assert_eq!(find("Title"), "Low tide", "{file:?}");
            assert_eq!(find("Description"), "Söderås <3");
            assert_eq!(find("Rights"), "© Ada");
            assert_eq!(find("Original"), "0123abcd".repeat(8));
            assert!(find("Development").contains("\"version\""));
            if !matches!(encoding, Encoding::Jxl { .. }) {
                let profile = find("ProfileDescription");
                let named = ["sRGB", "P3", "2020"][OutputSpace::ALL.iter().position(|s| *s == space).unwrap()];
                assert!(profile.contains(named), "{profile} of {file:?}");
            }
            let resolution = find("XResolution");
            assert!(matches!(resolution, "300" | "11811"), "{resolution} of {file:?}");
        }
    }
}

#[test]
fn sixteen_bits_are_sixteen_and_nothing_is_lost() {
    let folder = tempfile::tempdir().unwrap();
    for encoding in FORMATS {
        let file = written(folder.path(), encoding, &attached(OutputSpace::Srgb));
        let shown = match encoding {
            Encoding::Jxl { .. } => {
                let png = file.with_extension("from-jxl.png");
                let made = Command::new("djxl").arg(&file).arg(&png).output().unwrap();
                assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
                png
            }
            _ => file.clone(),
        };
        let there = pixels(&shown);
        let wanted = codes();
        assert_eq!(there.len(), wanted.len(), "{file:?}");
        match (encoding, encoding.bits()) {
            (Encoding::Jpeg { within_kb: None, .. }, _) => {
                let off = there.iter().zip(&wanted).map(|(a, b)| a.abs_diff(*b)).max().unwrap();
                assert!(off < 3 * 257, "{off} of {file:?}");
            }
            (Encoding::Jpeg { .. }, _) => assert!(std::fs::metadata(&file).unwrap().len() <= 9000),
            (_, Bits::Sixteen) => assert!(there == wanted, "{file:?}"),
            (_, Bits::Eight) => assert!(there.iter().zip(&wanted).all(|(a, b)| *a == (b >> 8) * 257), "{file:?}"),
        }
    }
}

#[test]
fn the_formats_own_tools_find_no_fault() {
    let folder = tempfile::tempdir().unwrap();
    for (encoding, program) in [(FORMATS[4], "tiffinfo"), (FORMATS[5], "tiffinfo"), (FORMATS[6], "webpinfo")] {
        let file = written(folder.path(), encoding, &attached(OutputSpace::DisplayP3));
        let text = said(program, &[], &file);
        let complaint =
            |line: &&str| ["Warning", "Error", "TIFF"].iter().any(|word| line.contains(&format!("{word}:")));
        assert_eq!(text.lines().find(complaint), None, "{program}");
    }
}

/// A development too long for one segment of a JPEG goes into several, and comes back whole.
#[test]
fn a_long_development_travels_in_every_format() {
    let folder = tempfile::tempdir().unwrap();
    let long = Attached { travelling: Some(travelling(9000)), ..attached(OutputSpace::Srgb) };
    for encoding in FORMATS {
        if matches!(encoding, Encoding::Jpeg { within_kb: Some(_), .. }) {
            continue;
        }
        let file = written(folder.path(), encoding, &long);
        let packet = packet_of_file(&std::fs::read(&file).unwrap()).unwrap();
        assert_eq!(
            (Some(&packet.caption), packet.travelling.as_ref()),
            (Some(&long.caption), long.travelling.as_ref())
        );
    }
    let jpeg = written(folder.path(), FORMATS[0], &long);
    assert!(said("exiftool", &["-m", "-a", "-s"], &jpeg).contains("Proof 8999"), "others put it together too");
}

/// What comes in: WebP and JPEG XL of other programs, and ours of each format.
#[test]
fn what_others_write_is_opened() {
    let folder = tempfile::tempdir().unwrap();
    let png = written(folder.path(), FORMATS[2], &attached(OutputSpace::Srgb));
    let shown = |bytes: &[u8]| {
        let opened = open(bytes, Limits::default()).unwrap();
        (opened.format, opened.source.display_8_bit(opened.source.region()))
    };
    let wanted: Vec<u8> = codes().iter().map(|v| (v >> 8) as u8).collect();
    assert!(shown(&std::fs::read(&png).unwrap()).1 == wanted);
    for (ending, program, arguments) in
        [("webp", "cwebp", &["-quiet", "-lossless", "-exact"][..]), ("jxl", "cjxl", &["--quiet", "-d", "0"][..])]
    {
        let file = folder.path().join(format!("theirs.{ending}"));
        let mut made = Command::new(program);
        made.args(arguments).arg(&png);
        if program == "cwebp" {
            made.arg("-o");
        }
        let made = made.arg(&file).output().unwrap();
        assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
        let (format, there) = shown(&std::fs::read(&file).unwrap());
        let off = there.iter().zip(&wanted).map(|(a, b)| a.abs_diff(*b)).max();
        assert_eq!(off, Some(0), "{format}");
    }
    for encoding in [FORMATS[3], FORMATS[5], FORMATS[6], FORMATS[7], FORMATS[8]] {
        let file = written(folder.path(), encoding, &attached(OutputSpace::Srgb));
        let (format, there) = shown(&std::fs::read(&file).unwrap());
        let off = there.iter().zip(&wanted).map(|(a, b)| a.abs_diff(*b)).max().unwrap();
        assert!(off <= 1, "{off} of {format} {file:?}");
    }
    let wide = written(folder.path(), FORMATS[3], &attached(OutputSpace::Rec2020));
    assert!(shown(&std::fs::read(&wide).unwrap()).1 != wanted, "its profile is read");
}

/// Unusual kinds of the usual formats, as ImageMagick writes and reads them.
#[test]
fn unusual_kinds_are_read_as_another_program_reads_them() {
    let folder = tempfile::tempdir().unwrap();
    let from = written(folder.path(), FORMATS[2], &attached(OutputSpace::Srgb));
    let kinds: [(&str, &[&str]); 13] = [
        ("planes.tif", &["-interlace", "plane"]),
        ("planes-16.tif", &["-depth", "16", "-interlace", "plane", "-compress", "lzw"]),
        ("two-levels.tif", &["-monochrome", "-type", "bilevel", "-compress", "none"]),
        ("white-first.tif", &["-colorspace", "gray", "-define", "quantum:polarity=min-is-white"]),
        ("inks.tif", &["-colorspace", "CMYK"]),
        ("inks-16.tif", &["-colorspace", "CMYK", "-depth", "16"]),
        ("tiles.tif", &["-define", "tiff:tile-geometry=64x16"]),
        ("grey.jpg", &["-colorspace", "gray", "-quality", "100"]),
        ("progressive.jpg", &["-interlace", "plane", "-quality", "100", "-sampling-factor", "1x1"]),
        ("palette.png", &["-colors", "40", "-type", "palette"]),
        ("few-levels.png", &["-colorspace", "gray", "-depth", "4"]),
        ("interlaced.png", &["-interlace", "png"]),
        ("grey-16.png", &["-colorspace", "gray", "-depth", "16"]),
    ];
    for (name, arguments) in kinds {
        let file = folder.path().join(name);
        let made = Command::new("convert").arg(&from).arg("-strip").args(arguments).arg(&file).output().unwrap();
        assert!(made.status.success(), "{name}: {}", String::from_utf8_lossy(&made.stderr));
        let flat = folder.path().join("flat.png");
        let made = Command::new("convert").arg(&file).args(["-colorspace", "sRGB", "-depth", "16"]).arg(&flat).output();
        assert!(made.unwrap().status.success(), "{name}");
        let theirs = pixels(&flat);
        let opened = open(&std::fs::read(&file).unwrap(), Limits::default()).unwrap_or_else(|e| panic!("{name}: {e}"));
        let ours = opened.source.display_8_bit(opened.source.region());
        assert_eq!(ours.len(), theirs.len(), "{name}");
        let off = ours.iter().zip(&theirs).map(|(a, b)| (i32::from(*a) - i32::from(b / 257)).abs()).max().unwrap();
        assert!(off <= 2, "{off} of {name}");
    }
}

/// Pictures that lie as their EXIF says, as ImageMagick turns them.
#[test]
fn pictures_are_turned_as_another_program_turns_them() {
    let folder = tempfile::tempdir().unwrap();
    let from = written(folder.path(), FORMATS[2], &attached(OutputSpace::Srgb));
    let convert = |from: &Path, arguments: &[&str], to: &Path| {
        let made = Command::new("convert").arg(from).args(arguments).arg(to).output().unwrap();
        assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
    };
    for (way, ending) in (2..=8).flat_map(|way| [(way, "tif"), (way, "jpg")]) {
        let (file, flat) = (folder.path().join(format!("way-{way}.{ending}")), folder.path().join("flat.png"));
        convert(&from, &["-strip", "-quality", "100"], &file);
        said("exiftool", &["-q", "-overwrite_original", &format!("-Orientation#={way}")], &file);
        convert(&file, &["-auto-orient"], &flat);
        let theirs = pixels(&flat);
        let opened = open(&std::fs::read(&file).unwrap(), Limits::default()).unwrap();
        assert_eq!(opened.source.width(), if way >= 5 { HEIGHT } else { WIDTH }, "{way} {ending}");
        let ours = opened.source.display_8_bit(opened.source.region());
        let off = ours.iter().zip(&theirs).map(|(a, b)| (i32::from(*a) - i32::from(b / 257)).abs()).max().unwrap();
        assert!(off <= 2, "{off} of way {way}, {ending}");
    }
}

#[test]
fn files_that_cannot_be_read_or_written_get_a_sentence() {
    let mut raw = Vec::new();
    raw.extend_from_slice(b"II*\0\x08\0\0\0\x01\0");
    // the tag of a digital negative's version: four bytes
    raw.extend_from_slice(&[0x12, 0xC6, 1, 0, 4, 0, 0, 0, 1, 4, 0, 0, 0, 0, 0, 0]);
    let sentence = open(&raw, Limits::default()).unwrap_err().to_string();
    assert!(sentence.contains("raw file"), "{sentence}");
    for bytes in [&b"\xFF\x0Anonsense"[..], b"RIFF\x20\0\0\0WEBPVP8 nonsense", b"\0\0\0\x0CJXL \x0D\x0A\x87\x0Aabc"] {
        let sentence = open(bytes, Limits::default()).unwrap_err().to_string();
        assert!(sentence.contains("damaged"), "{sentence}");
    }
    let mut out = Cursor::new(Vec::new());
    let wide = attached(OutputSpace::Rec2020);
    let jxl = encode::of_8_bit(&FORMATS[7], &mut std::iter::once(vec![0; 12]), [2, 2], &wide, &mut out);
    assert!(jxl.unwrap_err().to_string().contains("sRGB only"));
}
