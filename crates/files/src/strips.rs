//! TIFF by strips and tiles: what is decoded goes straight to its place, turned as the file's orientation asks.

use std::io::Cursor;

use amber_core::Source;
use tiff::ColorType;
use tiff::decoder::{Decoder, DecodingResult};
use tiff::tags::{PlanarConfiguration, SampleFormat, Tag};

use crate::codes::Reading;
use crate::decode::tiff::{bounds, refused};
use crate::decode::{Kind, Turn, cut_off};
use crate::error::FileError;
use crate::limits::Limits;
use crate::profile::ToWorking;

/// Whether a file is a camera's raw data in the form of a TIFF: a digital negative, by the version that its first
/// directory states.
pub fn is_camera_raw(bytes: &[u8]) -> bool {
    const VERSION_OF_NEGATIVE: u16 = 50_706;
    let short = |at: usize| -> Option<u16> {
        let pair = [*bytes.get(at)?, *bytes.get(at + 1)?];
        Some(if bytes.starts_with(b"II") { u16::from_le_bytes(pair) } else { u16::from_be_bytes(pair) })
    };
    let place = bytes.get(4..8).and_then(|four| <[u8; 4]>::try_from(four).ok());
    let first = place.map(|p| if bytes.starts_with(b"II") { u32::from_le_bytes(p) } else { u32::from_be_bytes(p) });
    let Some(first) = first.map(|at| at as usize) else { return false };
    let fields = usize::from(short(first).unwrap_or(0));
    (0..fields).any(|i| short(first + 2 + 12 * i) == Some(VERSION_OF_NEGATIVE))
}

/// Opens a TIFF of ordinary kind: grey or RGB, with alpha or without, 8 or 16 bit. `None` for the others.
pub fn open(bytes: &[u8], limits: Limits) -> Result<Option<Source>, FileError> {
    let Ok(decoder) = Decoder::new(Cursor::new(bytes)) else { return Ok(None) };
    let mut decoder = decoder.with_limits(tiff::decoder::Limits::unlimited());
    let (width, height) = decoder.dimensions().map_err(|e| refused(&e))?;
    limits.check(width, height)?;
    let Some(channels) = channels_of(&mut decoder) else { return Ok(None) };
    if width == 0 || height == 0 {
        return Ok(None);
    }
    let mut decoder = decoder.with_limits(bounds(width, height));
    let icc = decoder.find_tag(Tag::IccProfile).ok().flatten().and_then(|v| v.into_u8_vec().ok());
    let way = decoder.find_tag_unsigned::<u16>(Tag::Orientation).ok().flatten().unwrap_or(1);
    let reading = Reading { channels, working: ToWorking::new(channels < 3, icc.as_deref())? };
    let turn = Turn { way, width: width as usize, height: height as usize };
    let codes = codes(&mut decoder, bytes, &reading, turn)?;
    let (width, height) = turn.upright();
    Ok(Source::new(width as u32, height as u32, codes))
}

/// Samples of a pixel, where they are of an ordinary kind.
fn channels_of(decoder: &mut Decoder<Cursor<&[u8]>>) -> Option<usize> {
    let planar = decoder.find_tag_unsigned::<u16>(Tag::PlanarConfiguration).ok()?;
    let format = decoder.find_tag_unsigned_vec::<u16>(Tag::SampleFormat).ok()?.unwrap_or_default();
    let whole = format.iter().all(|f| *f == SampleFormat::Uint.to_u16());
    // a grey that runs from white to black, and colours that are not plain RGB, are left to the other way
    let plain = matches!(decoder.find_tag_unsigned::<u16>(Tag::PhotometricInterpretation), Ok(Some(1 | 2)));
    if planar.is_some_and(|p| p != PlanarConfiguration::Chunky.to_u16()) || !whole || !plain {
        return None;
    }
    match decoder.colortype().ok()? {
        ColorType::Gray(8 | 16) => Some(1),
        ColorType::GrayA(8 | 16) => Some(2),
        ColorType::RGB(8 | 16) => Some(3),
        ColorType::RGBA(8 | 16) => Some(4),
        _ => None,
    }
}

/// Where the parts of an 8-bit file lie as they are, without compression: they need not be taken out first.
fn plain_parts(decoder: &mut Decoder<Cursor<&[u8]>>) -> Option<Vec<usize>> {
    const UNCOMPRESSED: u16 = 1;
    let compression = decoder.find_tag_unsigned::<u16>(Tag::Compression).ok()?.unwrap_or(UNCOMPRESSED);
    let predictor = decoder.find_tag_unsigned::<u16>(Tag::Predictor).ok()?.unwrap_or(1);
    let bits = decoder.find_tag_unsigned_vec::<u16>(Tag::BitsPerSample).ok()??;
    if compression != UNCOMPRESSED || predictor != 1 || bits.iter().any(|b| *b != 8) {
        return None;
    }
    let offsets = decoder.find_tag_unsigned_vec::<u64>(Tag::StripOffsets).ok()??;
    offsets.into_iter().map(|o| usize::try_from(o).ok()).collect()
}

fn codes(
    decoder: &mut Decoder<Cursor<&[u8]>>,
    bytes: &[u8],
    reading: &Reading,
    turn: Turn,
) -> Result<Vec<u16>, FileError> {
    let (width, height) = (turn.width, turn.height);
    let chunk = decoder.chunk_dimensions();
    let (chunk_width, chunk_height) = (chunk.0.max(1) as usize, chunk.1.max(1) as usize);
    let across = width.div_ceil(chunk_width);
    let count = across * height.div_ceil(chunk_height);
    let plain = plain_parts(decoder).filter(|offsets| offsets.len() == count);
    let mut codes = Vec::new();
    for index in 0..count {
        let (left, top) = (index % across * chunk_width, index / across * chunk_height);
        let (columns, rows) = (chunk_width.min(width - left), chunk_height.min(height - top));
        let enough = |have: usize| {
            let wanted = columns * rows * reading.channels;
            if have < wanted { Err(cut_off(Kind::Tiff)) } else { Ok(wanted) }
        };
        let part = if let Some(offsets) = &plain {
            let there = bytes.get(offsets[index]..).unwrap_or_default();
            reading.all(&there[..enough(there.len())?])?
        } else {
            match decoder.read_chunk(index as u32).map_err(|e| refused(&e))? {
                // one part that lies upright: its codes are the picture's
                DecodingResult::U16(mut v) => {
                    v.truncate(enough(v.len())?);
                    reading.in_place(v)?
                }
                DecodingResult::U8(v) => reading.all(&v[..enough(v.len())?])?,
                _ => return Err(crate::error::unreadable()),
            }
        };
        if count == 1 && turn.way <= 1 {
            return Ok(part);
        }
        if codes.is_empty() {
            codes = vec![0u16; 3 * width * height];
        }
        for (y, row) in part.chunks_exact(3 * columns).enumerate() {
            if turn.way <= 1 {
                let start = 3 * ((top + y) * width + left);
                codes[start..start + 3 * columns].copy_from_slice(row);
                continue;
            }
            for (x, pixel) in row.chunks_exact(3).enumerate() {
                let at = 3 * turn.place(left + x, top + y);
                codes[at..at + 3].copy_from_slice(pixel);
            }
        }
    }
    Ok(codes)
}
