//! WebP; of one that moves, its first picture.

use std::io::Cursor;

use image_webp::{DecodingError, WebPDecoder};

use super::{Kind, Samples, Stored, undecodable, unread};
use crate::error::FileError;
use crate::limits::Limits;

fn refused(error: DecodingError) -> FileError {
    match error {
        DecodingError::IoError(e) => unread(&e, Kind::WebP),
        _ => undecodable(Kind::WebP),
    }
}

fn decoder(bytes: &[u8]) -> Result<WebPDecoder<Cursor<&[u8]>>, FileError> {
    WebPDecoder::new(Cursor::new(bytes)).map_err(refused)
}

pub fn size_of(bytes: &[u8]) -> Result<(u32, u32), FileError> {
    Ok(decoder(bytes)?.dimensions())
}

pub fn stored(bytes: &[u8], limits: Limits) -> Result<Stored, FileError> {
    let mut decoder = decoder(bytes)?;
    let (width, height) = decoder.dimensions();
    limits.check(width, height)?;
    let icc = decoder.icc_profile().map_err(refused)?;
    let channels = if decoder.has_alpha() { 4 } else { 3 };
    let mut samples = vec![0; width as usize * height as usize * channels];
    decoder.read_image(&mut samples).map_err(refused)?;
    Ok(Stored { width, height, channels, samples: Samples::U8(samples), icc })
}
