//! Encoding a finished picture that comes in bands of whole rows, while the next ones are made.

mod encoding;
mod jpeg;
mod jxl;
mod png;
mod tiff;
mod webp;

use std::io::{Seek, Write};

pub use encoding::{Bits, Encoding, Sampling};
pub(crate) use jpeg::encoder as jpeg_encoder;
pub(crate) use png::PACKET as PACKET_OF_PNG;
pub(crate) use tiff::PACKET as PACKET_OF_TIFF;

use crate::attached::Attached;
use crate::error::FileError;

/// Width and height in pixels.
pub type Size = [u32; 2];

/// A picture of 8 bits a channel in bands, interleaved RGB.
pub fn of_8_bit(
    encoding: &Encoding,
    bands: impl Iterator<Item = Vec<u8>>,
    size: Size,
    attached: &Attached,
    out: &mut (impl Write + Seek),
) -> Result<(), FileError> {
    match *encoding {
        Encoding::Jpeg { quality, sampling, within_kb: None } => {
            jpeg::banded(bands, size, (quality, sampling), Some(attached), out)
        }
        Encoding::Jpeg { quality, sampling, within_kb: Some(most) } => {
            let pixels = gathered(bands, size);
            jpeg::within(&pixels, size, (quality, sampling), most, attached, out)
        }
        Encoding::Png { .. } => png::of_8_bit(bands, size, attached, out),
        Encoding::Tiff { deflate, .. } => tiff::of_8_bit(bands, size, deflate, attached, out),
        Encoding::Webp {} => webp::lossless(&gathered(bands, size), size, attached, out),
        Encoding::Jxl { .. } => jxl::of_8_bit(&gathered(bands, size), size, attached, out),
    }
}

/// A picture of 16 bits a channel in bands, interleaved RGB, each of which but the last has as many rows.
pub fn of_16_bit(
    encoding: &Encoding,
    bands: impl Iterator<Item = Vec<u16>>,
    size: Size,
    attached: &Attached,
    out: &mut (impl Write + Seek),
) -> Result<(), FileError> {
    match *encoding {
        Encoding::Png { .. } => png::of_16_bit(bands, size, attached, out),
        Encoding::Tiff { deflate, .. } => tiff::of_16_bit(bands, size, deflate, attached, out),
        Encoding::Jxl { .. } => jxl::of_16_bit(&gathered(bands, size), size, attached, out),
        Encoding::Jpeg { .. } | Encoding::Webp {} => {
            of_8_bit(encoding, bands.map(|band| band.into_iter().map(of_code_16).collect()), size, attached, out)
        }
    }
}

/// A code of 16 bits rounded to 8.
fn of_code_16(code: u16) -> u8 {
    ((u32::from(code) + 128) / 257) as u8
}

/// All bands together; what was given up is black.
fn gathered<T: Copy + Default>(bands: impl Iterator<Item = Vec<T>>, [width, height]: Size) -> Vec<T> {
    let wanted = 3 * width as usize * height as usize;
    let mut pixels = Vec::with_capacity(wanted);
    bands.for_each(|band| pixels.extend_from_slice(&band));
    pixels.resize(wanted, T::default());
    pixels
}
