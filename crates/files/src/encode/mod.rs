//! Encoding a finished picture that comes in bands of whole rows, while the next ones are made.

mod encoding;
mod jpeg;
mod jxl;
mod png;
mod tiff;
mod webp;

use std::io::{BufWriter, Cursor, Seek, Write};

pub use encoding::{Bits, Encoding, Sampling};
pub(crate) use jpeg::whole as whole_jpeg;
pub(crate) use png::PACKET as PACKET_OF_PNG;
pub(crate) use tiff::PACKET as PACKET_OF_TIFF;

use crate::attached::Attached;
use crate::error::{FileError, failed};

/// Width and height in pixels.
pub type Size = [u32; 2];

/// Where a file goes. Encoders are made for this one kind of place: each of them is long, and would be made anew for
/// every other.
pub type Out<'a> = BufWriter<&'a mut dyn Place>;

/// What a file is written to.
pub trait Place: Write + Seek + Send {}

impl<P: Write + Seek + Send> Place for P {}

/// The bytes of a file, of which there are about so many.
pub(crate) fn written(
    about: usize,
    write: impl FnOnce(&mut Out) -> Result<(), FileError>,
) -> Result<Vec<u8>, FileError> {
    let mut bytes = Cursor::new(Vec::with_capacity(about));
    let mut out = Out::new(&mut bytes);
    write(&mut out)?;
    out.flush().map_err(failed)?;
    drop(out);
    Ok(bytes.into_inner())
}

/// A picture of 8 bits a channel in bands, interleaved RGB.
pub fn of_8_bit(
    encoding: &Encoding,
    bands: &mut dyn Iterator<Item = Vec<u8>>,
    size: Size,
    attached: &Attached,
    out: &mut dyn Place,
) -> Result<(), FileError> {
    let mut buffered = BufWriter::new(out);
    match *encoding {
        Encoding::Jpeg { quality, sampling, within_kb: None } => {
            jpeg::banded(bands, size, (quality, sampling), Some(attached), &mut buffered)?;
        }
        Encoding::Jpeg { quality, sampling, within_kb: Some(most) } => {
            let pixels = gathered(bands, size);
            jpeg::within(&pixels, size, (quality, sampling), most, attached, &mut buffered)?;
        }
        Encoding::Png { .. } => png::of_8_bit(bands, size, attached, &mut buffered)?,
        Encoding::Tiff { deflate, .. } => tiff::of_8_bit(bands, size, deflate, attached, &mut buffered)?,
        Encoding::Webp {} => webp::lossless(&gathered(bands, size), size, attached, &mut buffered)?,
        Encoding::Jxl { .. } => jxl::of_8_bit(&gathered(bands, size), size, attached, &mut buffered)?,
    }
    buffered.flush().map_err(failed)
}

/// A picture of 16 bits a channel in bands, interleaved RGB, each of which but the last has as many rows.
pub fn of_16_bit(
    encoding: &Encoding,
    bands: &mut dyn Iterator<Item = Vec<u16>>,
    size: Size,
    attached: &Attached,
    out: &mut dyn Place,
) -> Result<(), FileError> {
    let mut buffered = BufWriter::new(out);
    match *encoding {
        Encoding::Png { .. } => png::of_16_bit(bands, size, attached, &mut buffered)?,
        Encoding::Tiff { deflate, .. } => tiff::of_16_bit(bands, size, deflate, attached, &mut buffered)?,
        Encoding::Jxl { .. } => jxl::of_16_bit(&gathered(bands, size), size, attached, &mut buffered)?,
        Encoding::Jpeg { .. } | Encoding::Webp {} => {
            let mut bands = bands.map(|band| band.into_iter().map(of_code_16).collect());
            of_8_bit(encoding, &mut bands, size, attached, &mut buffered)?;
        }
    }
    buffered.flush().map_err(failed)
}

/// A code of 16 bits rounded to 8.
fn of_code_16(code: u16) -> u8 {
    ((u32::from(code) + 128) / 257) as u8
}

/// All bands together; what was given up is black.
fn gathered<T: Copy + Default>(bands: &mut dyn Iterator<Item = Vec<T>>, [width, height]: Size) -> Vec<T> {
    let wanted = 3 * width as usize * height as usize;
    let mut pixels = Vec::with_capacity(wanted);
    bands.for_each(|band| pixels.extend_from_slice(&band));
    pixels.resize(wanted, T::default());
    pixels
}
