//! Opening a picture.
//!
//! Nothing of a file is believed before it is measured: its pixels, the length of its palette, what its profile and its
//! EXIF unpack to. What a decoder still stumbles over is a damaged file, never the end of the program.

use std::io::Cursor;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::Path;

use amber_core::Source;
use image::codecs::png::PngDecoder;
use image::{ColorType, DynamicImage, ImageDecoder, ImageError, ImageFormat, ImageReader};

use crate::codes::Reading;
use crate::error::{FileError, unreadable};
use crate::limits::Limits;
use crate::metadata::Metadata;
use crate::profile::ToWorking;
use crate::{chunks, jxl, light, strips};

/// Most bytes that a profile, an EXIF block or a text inside a file may unpack to.
const MOST_BESIDE: u64 = 32 << 20;

/// Endings of files that are read.
const ENDINGS: [&str; 7] = ["jpg", "jpeg", "png", "tif", "tiff", "webp", "jxl"];

/// Whether a file's ending is that of a picture that is read.
pub fn is_picture(path: &Path) -> bool {
    let ending = path.extension().map(|ending| ending.to_string_lossy().to_lowercase());
    ending.is_some_and(|ending| ENDINGS.contains(&ending.as_str()))
}

/// A picture that has been opened.
#[derive(Debug)]
pub struct Opened {
    pub source: Source,
    pub metadata: Metadata,
    /// "JPEG", "PNG", "TIFF", "WebP" or "JPEG XL".
    pub format: &'static str,
    /// Where the samples are light itself: the stops by which it was darkened to have room.
    pub light_stops: Option<u32>,
}

/// Kind of a file by its first bytes.
fn format_of(bytes: &[u8]) -> Result<(ImageFormat, &'static str), FileError> {
    // a TIFF of more than 4 GiB has a mark of its own
    if bytes.starts_with(b"II\x2b\0") || bytes.starts_with(b"MM\0\x2b") {
        return Ok((ImageFormat::Tiff, "TIFF"));
    }
    match image::guess_format(bytes).map_err(|_| FileError::NotAPicture)? {
        ImageFormat::Jpeg => Ok((ImageFormat::Jpeg, "JPEG")),
        ImageFormat::Png => Ok((ImageFormat::Png, "PNG")),
        ImageFormat::Tiff => Ok((ImageFormat::Tiff, "TIFF")),
        ImageFormat::WebP => Ok((ImageFormat::WebP, "WebP")),
        _ => Err(FileError::NotAPicture),
    }
}

/// A JPEG XL by name.
const JXL: &str = "JPEG XL";

/// Decodes a whole file: profile converted, orientation applied.
pub fn open(bytes: &[u8], limits: Limits) -> Result<Opened, FileError> {
    if jxl::is_one(bytes) {
        return walled(JXL, || {
            let (source, exif) = jxl::open(bytes, limits)?;
            let metadata = exif.map(|block| Metadata::of_block(&block)).unwrap_or_default();
            Ok(Opened { source, metadata, format: JXL, light_stops: None })
        });
    }
    let (kind, format) = format_of(bytes)?;
    walled(format, || {
        let of = |(source, light_stops)| Opened { source, metadata: Metadata::of_file(bytes), format, light_stops };
        if kind == ImageFormat::Tiff {
            if strips::is_camera_raw(bytes) {
                return Err(FileError::CameraRaw);
            }
            if let Some(source) = strips::open(bytes, limits)? {
                return Ok(of((source, None)));
            }
            let Stored { picture, .. } = stored(bytes, kind, format, limits)?;
            if let DynamicImage::ImageRgb32F(picture) = picture {
                let (source, stops) = light::source_of(picture)?;
                return Ok(of((source, Some(stops))));
            }
        }
        Ok(of((decoded(bytes, kind, format, limits)?, None)))
    })
}

/// Width and height of a file's picture as it is stored, without decoding it: what it says of itself.
pub fn size_of(bytes: &[u8]) -> Result<[u32; 2], FileError> {
    let (width, height) = if jxl::is_one(bytes) {
        walled(JXL, || jxl::size_of(bytes))?
    } else {
        let (kind, format) = format_of(bytes)?;
        walled(format, || Ok(decoder(bytes, kind, format)?.dimensions()))?
    };
    Ok([width, height])
}

/// A decoder that panics has met a damaged file.
fn walled<T>(format: &'static str, work: impl FnOnce() -> Result<T, FileError>) -> Result<T, FileError> {
    let damaged = FileError::Damaged { format, why: "its data contradict themselves" };
    catch_unwind(AssertUnwindSafe(work)).unwrap_or(Err(damaged))
}

fn decoder<'a>(
    bytes: &'a [u8],
    kind: ImageFormat,
    format: &'static str,
) -> Result<Box<dyn ImageDecoder + 'a>, FileError> {
    let refused = |e| refused(&e, format);
    match kind {
        ImageFormat::Png => {
            chunks::check(bytes)?;
            let mut limits = image::Limits::no_limits();
            limits.max_alloc = Some(MOST_BESIDE);
            let mut decoder = PngDecoder::with_limits(Cursor::new(bytes), limits).map_err(refused)?;
            // only what is unpacked beside the picture is bounded here; the picture is by its pixels
            decoder.set_limits(image::Limits::no_limits()).map_err(refused)?;
            Ok(Box::new(decoder))
        }
        _ => {
            let mut reader = ImageReader::with_format(Cursor::new(bytes), kind);
            reader.no_limits(); // the picture is bounded by its pixels, before anything is decoded
            Ok(Box::new(reader.into_decoder().map_err(refused)?))
        }
    }
}

/// A file as it is stored, oriented.
struct Stored {
    picture: DynamicImage,
    colour: ColorType,
    icc: Option<Vec<u8>>,
}

fn stored(bytes: &[u8], kind: ImageFormat, format: &'static str, limits: Limits) -> Result<Stored, FileError> {
    if kind == ImageFormat::Jpeg && !jpeg_is_complete(bytes) {
        return Err(FileError::Damaged { format, why: "its end is missing" });
    }
    let refused = |e| refused(&e, format);
    let mut decoder = decoder(bytes, kind, format)?;
    let (width, height) = decoder.dimensions();
    limits.check(width, height)?;
    let colour = decoder.color_type();
    let icc = decoder.icc_profile().map_err(refused)?;
    if icc.is_none() && kind == ImageFormat::Png && chunks::find(bytes, b"iCCP").is_some() {
        return Err(FileError::Profile { why: "it is damaged, or larger than any profile is".into() });
    }
    let orientation = decoder.orientation().map_err(refused)?;
    let mut picture = DynamicImage::from_decoder(decoder).map_err(refused)?;
    picture.apply_orientation(orientation);
    Ok(Stored { picture, colour, icc })
}

/// A picture with what of it covers, for a sheet: encoded sRGB and cover in 8 bits, interleaved.
pub(crate) fn with_cover(bytes: &[u8], limits: Limits) -> Result<(u32, u32, Vec<u8>), FileError> {
    if jxl::is_one(bytes) {
        let source = open(bytes, limits)?.source;
        let rgb = source.display_8_bit(source.region());
        let rgba = rgb.chunks_exact(3).flat_map(|p| [p[0], p[1], p[2], u8::MAX]).collect();
        return Ok((source.width(), source.height(), rgba));
    }
    let (kind, format) = format_of(bytes)?;
    walled(format, || {
        let Stored { picture, colour, icc } = stored(bytes, kind, format, limits)?;
        let (width, height) = (picture.width(), picture.height());
        let is_srgb = reading(colour, icc.as_deref())?.working.is_srgb();
        let mut rgba = picture.into_rgba8().into_raw();
        if !is_srgb {
            // another profile: its colours as they are opened for a photograph
            let source = decoded(bytes, kind, format, limits)?;
            let shown = source.display_8_bit(source.region());
            rgba.chunks_exact_mut(4).zip(shown.chunks_exact(3)).for_each(|(out, rgb)| out[..3].copy_from_slice(rgb));
        }
        Ok((width, height, rgba))
    })
}

fn decoded(bytes: &[u8], kind: ImageFormat, format: &'static str, limits: Limits) -> Result<Source, FileError> {
    let Stored { picture, colour, icc } = stored(bytes, kind, format, limits)?;
    let reading = reading(colour, icc.as_deref())?;
    let (width, height) = (picture.width(), picture.height());
    let picture = match picture {
        DynamicImage::ImageRgb8(p) if reading.is_held_in_8_bits() => {
            return Source::of_8_bit(width, height, p.into_raw()).ok_or(FileError::NotAPicture);
        }
        other => other,
    };
    let codes = match picture {
        DynamicImage::ImageLuma8(p) => reading.all(&p.into_raw()),
        DynamicImage::ImageLumaA8(p) => reading.all(&p.into_raw()),
        DynamicImage::ImageRgb8(p) => reading.all(&p.into_raw()),
        DynamicImage::ImageRgba8(p) => reading.all(&p.into_raw()),
        DynamicImage::ImageLuma16(p) => reading.all(&p.into_raw()),
        DynamicImage::ImageLumaA16(p) => reading.all(&p.into_raw()),
        DynamicImage::ImageRgb16(p) => reading.in_place(p.into_raw()),
        DynamicImage::ImageRgba16(p) => reading.in_place(p.into_raw()),
        _ => Err(unreadable()),
    }?;
    Source::new(width, height, codes).ok_or(FileError::NotAPicture)
}

fn reading(colour: ColorType, icc: Option<&[u8]>) -> Result<Reading, FileError> {
    let channels = match colour {
        ColorType::L8 | ColorType::L16 => 1,
        ColorType::La8 | ColorType::La16 => 2,
        ColorType::Rgb8 | ColorType::Rgb16 => 3,
        ColorType::Rgba8 | ColorType::Rgba16 => 4,
        _ => return Err(unreadable()),
    };
    Ok(Reading { channels, working: ToWorking::new(channels < 3, icc)? })
}

/// A decoder's complaint in our own words.
pub(crate) fn refused(error: &ImageError, format: &'static str) -> FileError {
    match error {
        ImageError::Unsupported(_) => FileError::UnreadableColours { what: "an unusual kind or compression" },
        ImageError::IoError(e) if e.kind() == std::io::ErrorKind::UnexpectedEof => {
            FileError::Damaged { format, why: "its end is missing" }
        }
        ImageError::Limits(_) => FileError::Damaged { format, why: "what it holds beside the picture is too large" },
        _ => FileError::Damaged { format, why: "its data cannot be decoded" },
    }
}

/// Whether the end-of-image marker follows the scan data: decoders fill a cut-off picture with grey without a word.
fn jpeg_is_complete(bytes: &[u8]) -> bool {
    let mut at = 2;
    while at + 4 <= bytes.len() {
        if bytes[at] != 0xFF {
            return false;
        }
        let marker = bytes[at + 1];
        if marker == 0xFF {
            at += 1;
            continue;
        }
        if marker == 0xDA {
            return bytes[at..].windows(2).any(|pair| pair == [0xFF, 0xD9]);
        }
        at += 2 + u16::from_be_bytes([bytes[at + 2], bytes[at + 3]]) as usize;
    }
    false
}
