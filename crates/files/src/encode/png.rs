//! PNG of 8 and 16 bits, row by row.

use std::borrow::Cow;
use std::io::Write;

use png::{BitDepth, ColorType, Compression, Encoder, Info, PixelDimensions, Unit};

use super::{Out, Size};
use crate::attached::Attached;
use crate::error::{FileError, failed};

/// Keyword of the text chunk that holds an XMP packet (XMP specification, part 3).
pub const PACKET: &str = "XML:com.adobe.xmp";
const METRES_PER_INCH: f64 = 0.0254;

pub fn of_8_bit(
    bands: &mut dyn Iterator<Item = Vec<u8>>,
    size: Size,
    attached: &Attached,
    out: &mut Out,
) -> Result<(), FileError> {
    write(bands, size, BitDepth::Eight, attached, out)
}

pub fn of_16_bit(
    bands: &mut dyn Iterator<Item = Vec<u16>>,
    size: Size,
    attached: &Attached,
    out: &mut Out,
) -> Result<(), FileError> {
    let mut bytes = bands.map(|band| band.into_iter().flat_map(u16::to_be_bytes).collect());
    write(&mut bytes, size, BitDepth::Sixteen, attached, out)
}

fn write(
    bands: &mut dyn Iterator<Item = Vec<u8>>,
    [width, height]: Size,
    depth: BitDepth,
    attached: &Attached,
    out: &mut Out,
) -> Result<(), FileError> {
    let mut info = Info::with_size(width, height);
    (info.color_type, info.bit_depth) = (ColorType::Rgb, depth);
    info.icc_profile = Some(Cow::Owned(attached.profile()?));
    info.exif_metadata = attached.exif_block()?.map(Cow::Owned);
    info.pixel_dims = attached.pixels_per_inch.map(|ppi| {
        let per_metre = (ppi / METRES_PER_INCH).round() as u32;
        PixelDimensions { xppu: per_metre, yppu: per_metre, unit: Unit::Meter }
    });
    let mut encoder = Encoder::with_info(out, info).map_err(failed)?;
    encoder.set_compression(Compression::Balanced);
    if let Some(packet) = attached.packet() {
        encoder.add_itxt_chunk(PACKET.into(), packet.to_xml()).map_err(failed)?;
    }
    let mut writer = encoder.write_header().map_err(failed)?;
    let mut rows = writer.stream_writer().map_err(failed)?;
    for band in bands {
        rows.write_all(&band).map_err(failed)?;
    }
    rows.finish().map_err(failed)?;
    writer.finish().map_err(failed)
}
