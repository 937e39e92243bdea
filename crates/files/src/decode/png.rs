//! PNG.

use std::io::Cursor;

use png::{BitDepth, ColorType, Decoder, DecodingError, Limits as Bounds, Reader, Transformations};

use super::{Kind, Samples, Stored, too_much_beside, undecodable, unread, unusual};
use crate::chunks;
use crate::error::FileError;
use crate::limits::Limits;

/// Most bytes that a profile, an EXIF block or a text inside a file may unpack to.
const MOST_BESIDE: usize = 32 << 20;

fn refused(error: DecodingError) -> FileError {
    match error {
        DecodingError::IoError(e) => unread(&e, Kind::Png),
        DecodingError::LimitsExceeded => too_much_beside(Kind::Png),
        _ => undecodable(Kind::Png),
    }
}

fn reader(bytes: &[u8]) -> Result<Reader<Cursor<&[u8]>>, FileError> {
    chunks::check(bytes)?;
    // only what is unpacked beside the picture is bounded here; the picture is by its pixels
    let mut decoder = Decoder::new_with_limits(Cursor::new(bytes), Bounds { bytes: MOST_BESIDE });
    // palettes as their colours, fewer than 8 bits as 8, the colour that is clear as alpha
    decoder.set_transformations(Transformations::EXPAND);
    decoder.read_info().map_err(refused)
}

pub fn size_of(bytes: &[u8]) -> Result<(u32, u32), FileError> {
    Ok(reader(bytes)?.info().size())
}

pub fn stored(bytes: &[u8], limits: Limits) -> Result<Stored, FileError> {
    let mut reader = reader(bytes)?;
    let (width, height) = reader.info().size();
    limits.check(width, height)?;
    let icc = reader.info().icc_profile.as_ref().map(|profile| profile.to_vec());
    if icc.is_none() && chunks::find(bytes, b"iCCP").is_some() {
        return Err(FileError::Profile { why: "it is damaged, or larger than any profile is".into() });
    }
    let (colours, depth) = reader.output_color_type();
    let channels = match colours {
        ColorType::Grayscale => 1,
        ColorType::GrayscaleAlpha => 2,
        ColorType::Rgb => 3,
        ColorType::Rgba => 4,
        ColorType::Indexed => return Err(unusual()),
    };
    let size = reader.output_buffer_size().ok_or_else(|| undecodable(Kind::Png))?;
    let mut samples = vec![0u8; size];
    reader.next_frame(&mut samples).map_err(refused)?;
    let samples = match depth {
        BitDepth::Eight => Samples::U8(samples),
        BitDepth::Sixteen => Samples::U16(samples.chunks_exact(2).map(|v| u16::from_be_bytes([v[0], v[1]])).collect()),
        _ => return Err(unusual()),
    };
    Ok(Stored { width, height, channels, samples, icc })
}
