//! JPEG.

use zune_core::bytestream::ZCursor;
use zune_core::colorspace::ColorSpace;
use zune_core::options::DecoderOptions;
use zune_jpeg::JpegDecoder;
use zune_jpeg::errors::DecodeErrors;

use super::{Kind, Samples, Stored, cut_off, too_much_beside, undecodable, unusual};
use crate::error::FileError;
use crate::limits::Limits;

type Decoder<'a> = JpegDecoder<ZCursor<&'a [u8]>>;

fn refused(error: DecodeErrors) -> FileError {
    match error {
        DecodeErrors::Unsupported(_) => unusual(),
        DecodeErrors::LargeDimensions(_) => too_much_beside(Kind::Jpeg),
        _ => undecodable(Kind::Jpeg),
    }
}

/// A decoder that has read the headers, with the picture's size.
fn decoder(bytes: &[u8]) -> Result<(Decoder<'_>, (u32, u32)), FileError> {
    // the picture is bounded by its pixels, before anything is decoded
    let (most, strict) = (usize::MAX, false);
    let options = DecoderOptions::default().set_strict_mode(strict).set_max_width(most).set_max_height(most);
    let mut decoder = JpegDecoder::new_with_options(ZCursor::new(bytes), options);
    decoder.decode_headers().map_err(refused)?;
    let (width, height) = decoder.dimensions().ok_or_else(|| undecodable(Kind::Jpeg))?;
    Ok((decoder, (width as u32, height as u32)))
}

pub fn size_of(bytes: &[u8]) -> Result<(u32, u32), FileError> {
    Ok(decoder(bytes)?.1)
}

pub fn stored(bytes: &[u8], limits: Limits) -> Result<Stored, FileError> {
    if !is_complete(bytes) {
        return Err(cut_off(Kind::Jpeg));
    }
    let (mut decoder, (width, height)) = decoder(bytes)?;
    limits.check(width, height)?;
    let icc = decoder.icc_profile();
    // inks and colour differences come as RGB
    let (colours, channels) = match decoder.input_colorspace() {
        Some(ColorSpace::Luma) => (ColorSpace::Luma, 1),
        Some(ColorSpace::LumaA) => (ColorSpace::LumaA, 2),
        Some(ColorSpace::RGBA) => (ColorSpace::RGBA, 4),
        _ => (ColorSpace::RGB, 3),
    };
    decoder.set_options(decoder.options().jpeg_set_out_colorspace(colours));
    let mut samples = vec![0; width as usize * height as usize * channels];
    decoder.decode_into(&mut samples).map_err(refused)?;
    Ok(Stored { width, height, channels, samples: Samples::U8(samples), icc })
}

/// Whether the end-of-image marker follows the scan data: decoders fill a cut-off picture with grey without a word.
fn is_complete(bytes: &[u8]) -> bool {
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
