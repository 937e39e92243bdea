//! WebP without loss.

use image_webp::{ColorType, WebPEncoder};

use super::{Out, Size};
use crate::attached::Attached;
use crate::error::{FileError, failed};

/// Longest side that the format has room for.
const LARGEST_SIDE: u32 = 16_384;

pub fn lossless(pixels: &[u8], [width, height]: Size, attached: &Attached, out: &mut Out) -> Result<(), FileError> {
    if width.max(height) > LARGEST_SIDE {
        return Err(failed(format!("a WebP has at most {LARGEST_SIDE} pixels a side")));
    }
    let mut encoder = WebPEncoder::new(out);
    encoder.set_icc_profile(attached.profile()?);
    if let Some(block) = attached.exif_block()? {
        encoder.set_exif_metadata(block);
    }
    if let Some(packet) = attached.packet() {
        encoder.set_xmp_metadata(packet.to_xml().into_bytes());
    }
    encoder.encode(pixels, width, height, ColorType::Rgb8).map_err(failed)
}
