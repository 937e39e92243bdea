//! A plain decode and encode by the same crates: the unit against which speed is told.

use crate::decode::samples::as_rgb;
use crate::decode::{self, Kind};
use crate::error::FileError;
use crate::limits::Limits;
use crate::write;

/// A file's pixels in 8-bit RGB with their size, as its decoder gives them.
pub fn decoded(bytes: &[u8]) -> Result<(Vec<u8>, u32, u32), FileError> {
    let kind = Kind::of(bytes).ok_or(FileError::NotAPicture)?;
    let stored = decode::stored(bytes, kind, Limits::default())?;
    Ok((as_rgb(stored.samples.into_8_bits(), stored.channels), stored.width, stored.height))
}

/// A square picture's samples as they are stored, whatever its profile says: its side, and interleaved RGB, 0..1.
pub fn square_of_16_bit(bytes: &[u8]) -> Result<(u32, Vec<f32>), FileError> {
    /// Sides of the largest square that is read.
    const MOST: u32 = 1331;
    let kind = Kind::of(bytes).ok_or(FileError::NotAPicture)?;
    let (width, height) = decode::size_of(bytes, kind)?;
    if width != height || width > MOST {
        return Err(FileError::NotSquare { width, height });
    }
    let stored = decode::stored(bytes, kind, Limits::default())?;
    Ok((width, as_rgb(stored.samples.into_units(), stored.channels)))
}

/// Pixels as a JPEG, without profile and EXIF.
pub fn encoded(pixels: &[u8], width: u32, height: u32, quality: u8) -> Result<Vec<u8>, FileError> {
    write::jpeg(pixels, width, height, quality, None)
}
