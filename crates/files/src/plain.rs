//! A plain decode and encode by the same crates: the unit against which speed is told.

use image::ImageDecoder;

use crate::error::FileError;
use crate::write;

/// A file's pixels in 8-bit RGB with their size, as its decoder gives them.
pub fn decoded(bytes: &[u8]) -> Result<(Vec<u8>, u32, u32), FileError> {
    let picture = image::load_from_memory(bytes).map_err(|_| FileError::NotAPicture)?.into_rgb8();
    let (width, height) = picture.dimensions();
    Ok((picture.into_raw(), width, height))
}

/// A square picture's samples as they are stored, whatever its profile says: its side, and interleaved RGB, 0..1.
pub fn square_of_16_bit(bytes: &[u8]) -> Result<(u32, Vec<f32>), FileError> {
    /// Sides of the largest square that is read.
    const MOST: u32 = 1331;
    let reader = image::ImageReader::new(std::io::Cursor::new(bytes)).with_guessed_format();
    let decoder = reader.ok().and_then(|reader| reader.into_decoder().ok()).ok_or(FileError::NotAPicture)?;
    let (width, height) = decoder.dimensions();
    if width != height || width > MOST {
        return Err(FileError::NotSquare { width, height });
    }
    let picture = image::DynamicImage::from_decoder(decoder).map_err(|_| FileError::NotAPicture)?.into_rgb16();
    Ok((width, picture.into_raw().into_iter().map(|v| f32::from(v) / 65535.0).collect()))
}

/// Pixels as a JPEG, without profile and EXIF.
pub fn encoded(pixels: &[u8], width: u32, height: u32, quality: u8) -> Result<Vec<u8>, FileError> {
    write::jpeg(pixels, width, height, quality, None)
}
