//! Opening a picture.

use std::io::Cursor;

use amber_core::Source;
use image::{ColorType, DynamicImage, ImageDecoder, ImageFormat, ImageReader};

use crate::error::FileError;
use crate::metadata::Metadata;
use crate::profile;

/// Bounds on what is decoded.
#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// Most pixels of a picture, in millions.
    pub megapixels: u64,
}

impl Default for Limits {
    fn default() -> Self {
        Self { megapixels: 120 }
    }
}

/// A picture that has been opened.
#[derive(Debug)]
pub struct Opened {
    pub source: Source,
    pub metadata: Metadata,
    /// "JPEG", "PNG" or "TIFF".
    pub format: &'static str,
}

/// Decodes a whole file: profile converted, orientation applied.
pub fn open(bytes: &[u8], limits: Limits) -> Result<Opened, FileError> {
    let guessed = image::guess_format(bytes).map_err(|_| FileError::NotAPicture)?;
    let format = match guessed {
        ImageFormat::Jpeg => "JPEG",
        ImageFormat::Png => "PNG",
        ImageFormat::Tiff => "TIFF",
        _ => return Err(FileError::NotAPicture),
    };
    let damaged = |why: String| FileError::Damaged { format, why };
    if guessed == ImageFormat::Jpeg && !jpeg_is_complete(bytes) {
        return Err(damaged("its end is missing".into()));
    }
    let mut reader = ImageReader::with_format(Cursor::new(bytes), guessed);
    reader.no_limits(); // bounded below by the pixels, before anything is decoded
    let mut decoder = reader.into_decoder().map_err(|e| refused(e, format))?;
    let (width, height) = decoder.dimensions();
    if width as u64 * height as u64 > limits.megapixels * 1_000_000 {
        return Err(FileError::TooManyPixels { width, height, limit: limits.megapixels });
    }
    let colour = decoder.color_type();
    let icc = decoder.icc_profile().map_err(|e| refused(e, format))?;
    let orientation = decoder.orientation().map_err(|e| refused(e, format))?;
    let mut picture = DynamicImage::from_decoder(decoder).map_err(|e| refused(e, format))?;
    picture.apply_orientation(orientation);
    let source = to_source(picture, colour, icc.as_deref())?;
    Ok(Opened { source, metadata: Metadata::of_file(bytes), format })
}

fn refused(error: image::ImageError, format: &'static str) -> FileError {
    match error {
        image::ImageError::Unsupported(e) => FileError::UnreadableColours { what: e.to_string() },
        other => FileError::Damaged { format, why: other.to_string() },
    }
}

/// Whether the end-of-image marker follows the scan data: decoders fill a cut-off picture with grey without a word.
fn jpeg_is_complete(bytes: &[u8]) -> bool {
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

fn to_source(picture: DynamicImage, colour: ColorType, icc: Option<&[u8]>) -> Result<Source, FileError> {
    let (width, height) = (picture.width(), picture.height());
    let grey = !colour.has_color();
    let deep = match colour {
        ColorType::L8 | ColorType::La8 | ColorType::Rgb8 | ColorType::Rgba8 => false,
        ColorType::L16 | ColorType::La16 | ColorType::Rgb16 | ColorType::Rgba16 => true,
        other => return Err(FileError::UnreadableColours { what: format!("{other:?}") }),
    };
    let channels = if grey { 1 } else { 3 };
    let mut samples = Vec::with_capacity(channels * width as usize * height as usize);
    // what is transparent lies on white
    let mut push = |values: &[f32], alpha: f32| samples.extend(values.iter().map(|v| v * alpha + 1.0 - alpha));
    match (grey, deep) {
        (true, false) => picture.into_luma_alpha8().pixels().for_each(|p| {
            let [v, a] = p.0.map(|c| c as f32 / 255.0);
            push(&[v], a);
        }),
        (true, true) => picture.into_luma_alpha16().pixels().for_each(|p| {
            let [v, a] = p.0.map(|c| c as f32 / 65535.0);
            push(&[v], a);
        }),
        (false, false) => picture.into_rgba8().pixels().for_each(|p| {
            let [r, g, b, a] = p.0.map(|c| c as f32 / 255.0);
            push(&[r, g, b], a);
        }),
        (false, true) => picture.into_rgba16().pixels().for_each(|p| {
            let [r, g, b, a] = p.0.map(|c| c as f32 / 65535.0);
            push(&[r, g, b], a);
        }),
    }
    let codes = profile::to_working(&samples, grey, icc)?;
    Source::new(width, height, codes).ok_or(FileError::NotAPicture)
}
