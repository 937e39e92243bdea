//! Opening a JPEG XL: decoded into 16 bits, upright, in the colours that it says it has.

use amber_core::Source;
use jxl_oxide::{AllocTracker, AuxBoxData, JxlImage, PixelFormat};

use crate::codes::Reading;
use crate::error::{FileError, unreadable};
use crate::limits::Limits;
use crate::profile::ToWorking;

/// Bytes that decoding may take for each pixel, beside those that every file needs.
const BYTES_PER_PIXEL: usize = 64;
const BYTES_BESIDE: usize = 64 << 20;

/// Whether a file is a JPEG XL: a bare code stream, or one in boxes.
pub fn is_one(bytes: &[u8]) -> bool {
    bytes.starts_with(&[0xFF, 0x0A]) || bytes.starts_with(b"\0\0\0\x0CJXL \x0D\x0A\x87\x0A")
}

fn damaged(_: impl std::fmt::Display) -> FileError {
    FileError::Damaged { format: "JPEG XL", why: "its data cannot be decoded" }
}

fn image(bytes: &[u8], most: usize) -> Result<JxlImage, FileError> {
    let tracker = AllocTracker::with_limit(most);
    JxlImage::builder().alloc_tracker(tracker).read(bytes).map_err(damaged)
}

/// Width and height, upright.
pub fn size_of(bytes: &[u8]) -> Result<(u32, u32), FileError> {
    let image = image(bytes, BYTES_BESIDE)?;
    Ok((image.width(), image.height()))
}

/// The picture, and its EXIF block.
pub fn open(bytes: &[u8], limits: Limits) -> Result<(Source, Option<Vec<u8>>), FileError> {
    let (width, height) = size_of(bytes)?;
    limits.check(width, height)?;
    let pixels = width as usize * height as usize;
    let image = image(bytes, pixels * BYTES_PER_PIXEL + BYTES_BESIDE)?;
    if image.hdr_type().is_some() {
        return Err(FileError::UnreadableColours { what: "a picture for displays of high dynamic range" });
    }
    let channels = match image.pixel_format() {
        PixelFormat::Gray => 1,
        PixelFormat::Graya => 2,
        PixelFormat::Rgb => 3,
        PixelFormat::Rgba => 4,
        PixelFormat::Cmyk | PixelFormat::Cmyka => return Err(unreadable()),
    };
    let rendered = image.render_frame(0).map_err(damaged)?;
    let mut stream = rendered.stream();
    if stream.channels() as usize != channels || (stream.width(), stream.height()) != (width, height) {
        return Err(damaged("its channels"));
    }
    let mut samples = vec![0u16; pixels * channels];
    stream.write_to_buffer(&mut samples);
    let working = ToWorking::new(channels < 3, Some(&image.rendered_icc()))?;
    let codes = Reading { channels, working }.in_place(samples)?;
    let exif = match image.aux_boxes().first_exif() {
        Ok(AuxBoxData::Data(exif)) => Some(exif.payload().to_vec()),
        _ => None,
    };
    Ok((Source::new(width, height, codes).ok_or(FileError::NotAPicture)?, exif))
}
