//! TIFF of any kind that is read: with planes one after the other, grey from white to black, two levels, inks, and
//! numbers that are light itself. Ordinary ones are opened by strips (`strips`).

use std::io::Cursor;

use tiff::decoder::{Decoder, DecodingResult, Limits as Bounds};
use tiff::tags::{SampleFormat, Tag};
use tiff::{ColorType, TiffError};

use super::{Kind, Samples, Stored, cut_off, undecodable, unread, unusual};
use crate::error::{FileError, unreadable};
use crate::limits::Limits;

type Reader<'a> = Decoder<Cursor<&'a [u8]>>;

/// Largest colour profile of a file.
const MOST_PROFILE: usize = 32 << 20;

pub fn refused(error: &TiffError) -> FileError {
    match error {
        TiffError::UnsupportedError(_) => unusual(),
        TiffError::IoError(e) => unread(e, Kind::Tiff),
        TiffError::LimitsExceeded => {
            FileError::Damaged { format: Kind::Tiff.name(), why: "its parts are larger than the picture" }
        }
        _ => undecodable(Kind::Tiff),
    }
}

/// What no part of a file may exceed, whatever the file says: the whole picture.
pub fn bounds(width: u32, height: u32) -> Bounds {
    let mut bounds = Bounds::default();
    bounds.decoding_buffer_size = width as usize * height as usize * 16 + (1 << 20);
    bounds.intermediate_buffer_size = bounds.decoding_buffer_size;
    bounds.ifd_value_size = MOST_PROFILE;
    bounds
}

/// How the samples of a pixel lie in the file.
#[derive(Clone, Copy, PartialEq)]
enum Laid {
    /// As they are wanted.
    Plainly,
    /// Eight pixels in a byte.
    Bits,
    /// Cyan, magenta, yellow, black.
    Inks,
}

fn laid(decoder: &mut Reader) -> Result<(usize, Laid), FileError> {
    let colours = decoder.colortype().map_err(|e| refused(&e))?;
    let (channels, bits, laid) = match colours {
        ColorType::Gray(1) => (1, 1, Laid::Bits),
        ColorType::Gray(bits @ (8 | 16)) => (1, bits, Laid::Plainly),
        ColorType::GrayA(bits @ (8 | 16)) => (2, bits, Laid::Plainly),
        ColorType::RGB(bits @ (8 | 16 | 32)) => (3, bits, Laid::Plainly),
        ColorType::RGBA(bits @ (8 | 16 | 32)) => (4, bits, Laid::Plainly),
        ColorType::CMYK(bits @ (8 | 16)) => (3, bits, Laid::Inks),
        _ => return Err(unusual()),
    };
    let formats = decoder.find_tag_unsigned_vec::<u16>(Tag::SampleFormat).map_err(|e| refused(&e))?;
    let wanted = if bits == 32 { SampleFormat::IEEEFP } else { SampleFormat::Uint };
    if formats.unwrap_or_default().iter().any(|format| *format != wanted.to_u16()) {
        return Err(unusual());
    }
    Ok((channels, laid))
}

/// A decoder, with the picture's size.
fn decoder(bytes: &[u8]) -> Result<(Reader<'_>, (u32, u32)), FileError> {
    let mut decoder = Decoder::new(Cursor::new(bytes)).map_err(|e| refused(&e))?;
    let size = decoder.dimensions().map_err(|e| refused(&e))?;
    Ok((decoder, size))
}

pub fn size_of(bytes: &[u8]) -> Result<(u32, u32), FileError> {
    let (mut decoder, size) = decoder(bytes)?;
    laid(&mut decoder)?;
    Ok(size)
}

/// The picture as it lies in the file, and the way to turn it.
pub fn stored(bytes: &[u8], limits: Limits) -> Result<(Stored, u16), FileError> {
    let (decoder, (width, height)) = decoder(bytes)?;
    limits.check(width, height)?;
    let mut decoder = decoder.with_limits(bounds(width, height));
    let (channels, laid) = laid(&mut decoder)?;
    let icc = decoder.find_tag(Tag::IccProfile).ok().flatten().and_then(|v| v.into_u8_vec().ok());
    let way = decoder.find_tag_unsigned::<u16>(Tag::Orientation).ok().flatten().unwrap_or(1);
    let mut read = DecodingResult::U8(Vec::new());
    let layout = decoder.read_image_to_buffer(&mut read).map_err(|e| refused(&e))?;
    if read.as_buffer(0).as_bytes().len() < layout.complete_len {
        return Err(cut_off(Kind::Tiff));
    }
    let planes = layout.planes;
    if planes > 1 && laid != Laid::Plainly {
        return Err(unusual());
    }
    let pixels = width as usize * height as usize;
    let samples = match (read, laid) {
        (DecodingResult::U8(v), Laid::Bits) => Samples::U8(unpacked(&v, width as usize)),
        (DecodingResult::U8(v), Laid::Inks) => Samples::U8(v.as_chunks().0.iter().flat_map(of_inks).collect()),
        (DecodingResult::U16(v), Laid::Inks) => Samples::U16(v.as_chunks().0.iter().flat_map(of_inks_16).collect()),
        (DecodingResult::U8(v), _) => Samples::U8(together(v, planes, channels, pixels)),
        (DecodingResult::U16(v), _) => Samples::U16(together(v, planes, channels, pixels)),
        (DecodingResult::F32(v), _) => Samples::F32(together(v, planes, channels, pixels)),
        _ => return Err(unreadable()),
    };
    Ok((Stored { width, height, channels, samples, icc }, way))
}

/// Planes one after the other as pixels.
fn together<T: Copy>(samples: Vec<T>, planes: usize, channels: usize, pixels: usize) -> Vec<T> {
    if planes <= 1 || samples.len() < channels * pixels {
        return samples;
    }
    (0..pixels).flat_map(|i| (0..channels).map(move |k| k * pixels + i)).map(|i| samples[i]).collect()
}

/// Bits as black and white; each row begins with a byte of its own.
fn unpacked(bytes: &[u8], width: usize) -> Vec<u8> {
    let bit = |row: &[u8], x: usize| if row[x / 8] >> (7 - x % 8) & 1 == 1 { u8::MAX } else { 0 };
    bytes.chunks_exact(width.div_ceil(8).max(1)).flat_map(|row| (0..width).map(move |x| bit(row, x))).collect()
}

/// What inks leave of the light, each for itself and black for all.
fn of_inks([cyan, magenta, yellow, black]: &[u8; 4]) -> [u8; 3] {
    let left = 1.0 - f32::from(*black) / 255.0;
    [cyan, magenta, yellow].map(|ink| ((255.0 - f32::from(*ink)) * left) as u8)
}

fn of_inks_16([cyan, magenta, yellow, black]: &[u16; 4]) -> [u16; 3] {
    let left = 1.0 - f32::from(*black) / 65535.0;
    [cyan, magenta, yellow].map(|ink| ((65535.0 - f32::from(*ink)) * left) as u16)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bits_planes_and_inks_become_pixels() {
        assert_eq!(
            unpacked(&[0b1010_0000, 0b1000_0000, 0, 0x80], 9),
            [255, 0, 255, 0, 0, 0, 0, 0, 255, 0, 0, 0, 0, 0, 0, 0, 0, 255]
        );
        assert_eq!(together(vec![1, 2, 3, 4, 5, 6], 3, 3, 2), [1, 3, 5, 2, 4, 6]);
        assert_eq!((of_inks(&[255, 0, 0, 0]), of_inks(&[0, 0, 0, 255])), ([0, 255, 255], [0, 0, 0]));
        assert_eq!(of_inks_16(&[0, 65535, 0, 0]), [65535, 0, 65535]);
    }
}
