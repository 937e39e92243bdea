//! Opening a picture.
//!
//! Nothing of a file is believed before it is measured: its pixels, the length of its palette, what its profile and its
//! EXIF unpack to. What a decoder still stumbles over is a damaged file, never the end of the program.

use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::Path;

use amber_core::Source;

use crate::codes::Reading;
use crate::decode::samples::as_rgba;
use crate::decode::{self, Kind, Samples, Stored};
use crate::error::{FileError, unreadable};
use crate::limits::Limits;
use crate::metadata::Metadata;
use crate::profile::ToWorking;
use crate::{jxl, light, strips};

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
    let kind = Kind::of(bytes).ok_or(FileError::NotAPicture)?;
    walled(kind.name(), || {
        let metadata = || Metadata::of_file(bytes);
        let of = |source, light_stops| Opened { source, metadata: metadata(), format: kind.name(), light_stops };
        if kind == Kind::Tiff {
            if strips::is_camera_raw(bytes) {
                return Err(FileError::CameraRaw);
            }
            if let Some(source) = strips::open(bytes, limits)? {
                return Ok(of(source, None));
            }
        }
        match decode::stored(bytes, kind, limits)? {
            Stored { width, height, channels: 3, samples: Samples::F32(light), .. } => {
                let (source, stops) = light::source_of(width, height, &light)?;
                Ok(of(source, Some(stops)))
            }
            stored => Ok(of(source_of(stored)?, None)),
        }
    })
}

/// Width and height of a file's picture as it is stored, without decoding it: what it says of itself.
pub fn size_of(bytes: &[u8]) -> Result<[u32; 2], FileError> {
    let (width, height) = if jxl::is_one(bytes) {
        walled(JXL, || jxl::size_of(bytes))?
    } else {
        let kind = Kind::of(bytes).ok_or(FileError::NotAPicture)?;
        walled(kind.name(), || decode::size_of(bytes, kind))?
    };
    Ok([width, height])
}

/// A decoder that panics has met a damaged file.
fn walled<T>(format: &'static str, work: impl FnOnce() -> Result<T, FileError>) -> Result<T, FileError> {
    let damaged = FileError::Damaged { format, why: "its data contradict themselves" };
    catch_unwind(AssertUnwindSafe(work)).unwrap_or(Err(damaged))
}

/// A picture with what of it covers, for a sheet: encoded sRGB and cover in 8 bits, interleaved.
pub(crate) fn with_cover(bytes: &[u8], limits: Limits) -> Result<(u32, u32, Vec<u8>), FileError> {
    if jxl::is_one(bytes) {
        let source = open(bytes, limits)?.source;
        let rgb = source.display_8_bit(source.region());
        let rgba = rgb.chunks_exact(3).flat_map(|p| [p[0], p[1], p[2], u8::MAX]).collect();
        return Ok((source.width(), source.height(), rgba));
    }
    let kind = Kind::of(bytes).ok_or(FileError::NotAPicture)?;
    walled(kind.name(), || {
        let Stored { width, height, channels, samples, icc } = decode::stored(bytes, kind, limits)?;
        let is_srgb = reading(channels, &samples, icc.as_deref())?.working.is_srgb();
        let mut rgba = as_rgba(samples.into_8_bits(), channels);
        if !is_srgb {
            // another profile: its colours as they are opened for a photograph
            let source = source_of(decode::stored(bytes, kind, limits)?)?;
            let shown = source.display_8_bit(source.region());
            rgba.chunks_exact_mut(4).zip(shown.chunks_exact(3)).for_each(|(out, rgb)| out[..3].copy_from_slice(rgb));
        }
        Ok((width, height, rgba))
    })
}

fn source_of(stored: Stored) -> Result<Source, FileError> {
    let Stored { width, height, channels, samples, icc } = stored;
    let reading = reading(channels, &samples, icc.as_deref())?;
    let codes = match samples {
        Samples::U8(samples) if reading.is_held_in_8_bits() => {
            return Source::of_8_bit(width, height, samples).ok_or(FileError::NotAPicture);
        }
        Samples::U8(samples) => reading.all(&samples)?,
        Samples::U16(samples) => reading.in_place(samples)?,
        Samples::F32(_) => return Err(unreadable()),
    };
    Source::new(width, height, codes).ok_or(FileError::NotAPicture)
}

fn reading(channels: usize, samples: &Samples, icc: Option<&[u8]>) -> Result<Reading, FileError> {
    if matches!(samples, Samples::F32(_)) {
        return Err(unreadable());
    }
    Ok(Reading { channels, working: ToWorking::new(channels < 3, icc)? })
}
