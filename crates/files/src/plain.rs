//! A plain decode and encode by the same crates: the unit against which speed is told.

use crate::error::FileError;
use crate::write;

/// A file's pixels in 8-bit RGB with their size, as its decoder gives them.
pub fn decoded(bytes: &[u8]) -> Result<(Vec<u8>, u32, u32), FileError> {
    let picture = image::load_from_memory(bytes).map_err(|_| FileError::NotAPicture)?.into_rgb8();
    let (width, height) = picture.dimensions();
    Ok((picture.into_raw(), width, height))
}

/// Pixels as a JPEG, without profile and EXIF.
pub fn encoded(pixels: &[u8], width: u32, height: u32, quality: u8) -> Result<Vec<u8>, FileError> {
    write::jpeg(pixels, width, height, quality, None)
}
