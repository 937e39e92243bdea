//! TIFF of 8 and 16 bits, strip by strip.

use std::io::{Seek, Write};

use exif::Context;
use tiff::TiffResult;
use tiff::encoder::colortype::{ColorType, RGB8, RGB16};
use tiff::encoder::{
    Compression, DeflateLevel, DirectoryEncoder, ImageEncoder, Predictor, TiffEncoder, TiffKind, TiffKindStandard,
    TiffValue,
};
use tiff::tags::Tag;

use super::{Out, Size};
use crate::attached::Attached;
use crate::error::{FileError, failed};
use crate::metadata::{Metadata, tiff_value};

/// Tag of an XMP packet (XMP specification, part 3).
pub const PACKET: Tag = Tag::Unknown(700);

pub fn of_8_bit(
    bands: &mut dyn Iterator<Item = Vec<u8>>,
    size: Size,
    deflate: bool,
    attached: &Attached,
    out: &mut Out,
) -> Result<(), FileError> {
    strips::<RGB8>(bands, size, deflate, attached, out)
}

pub fn of_16_bit(
    bands: &mut dyn Iterator<Item = Vec<u16>>,
    size: Size,
    deflate: bool,
    attached: &Attached,
    out: &mut Out,
) -> Result<(), FileError> {
    strips::<RGB16>(bands, size, deflate, attached, out)
}

fn strips<C: ColorType>(
    bands: &mut dyn Iterator<Item = Vec<C::Inner>>,
    size: Size,
    deflate: bool,
    attached: &Attached,
    out: &mut Out,
) -> Result<(), FileError>
where
    [C::Inner]: TiffValue,
{
    let mut bands = bands.peekable();
    let rows = bands.peek().map_or(1, |band| band.len() / (3 * size[0] as usize));
    tiff_encoder::<C>(out, size, deflate, attached, |mut image| {
        image.rows_per_strip(rows.max(1) as u32)?;
        if deflate {
            // the encoder compresses strips only of a whole picture
            return image.write_data(&bands.flatten().collect::<Vec<_>>());
        }
        for band in bands {
            image.write_strip(&band)?;
        }
        image.finish()
    })
}

/// All of a TIFF but the pixels, which `write` adds.
fn tiff_encoder<C: ColorType>(
    out: &mut Out,
    [width, height]: Size,
    deflate: bool,
    attached: &Attached,
    write: impl FnOnce(ImageEncoder<'_, &mut Out, C, TiffKindStandard>) -> TiffResult<()>,
) -> Result<(), FileError> {
    let metadata = attached.described();
    let mut encoder = TiffEncoder::new(out).map_err(failed)?;
    if deflate {
        let compression = Compression::Deflate(DeflateLevel::Balanced);
        encoder = encoder.with_compression(compression).with_predictor(Predictor::Horizontal);
    }
    let mut pointers = Vec::new();
    for (context, tag) in [(Context::Exif, Tag::ExifDirectory), (Context::Gps, Tag::GpsDirectory)] {
        if metadata.directory(context).next().is_some() {
            let mut directory = encoder.extra_directory().map_err(failed)?;
            write_fields(&mut directory, &metadata, context)?;
            pointers.push((tag, directory.finish_with_offsets().map_err(failed)?.offset));
        }
    }
    let mut image = encoder.new_image::<C>(width, height).map_err(failed)?;
    image.encoder().write_tag(Tag::IccProfile, attached.profile()?.as_slice()).map_err(failed)?;
    if let Some(packet) = attached.packet() {
        image.encoder().write_tag(PACKET, packet.to_xml().as_bytes()).map_err(failed)?;
    }
    write_fields(image.encoder(), &metadata, Context::Tiff)?;
    for (tag, offset) in pointers {
        image.encoder().write_tag(tag, offset).map_err(failed)?;
    }
    write(image).map_err(failed)
}

fn write_fields<W: Write + Seek, K: TiffKind>(
    directory: &mut DirectoryEncoder<W, K>,
    metadata: &Metadata,
    context: Context,
) -> Result<(), FileError> {
    let mut fields = tiff::Directory::empty();
    for field in metadata.directory(context) {
        let Some((kind, bytes)) = tiff_value(&field.value) else { continue };
        let entry = directory.write_entry_bytes(kind, &bytes).map_err(failed)?;
        fields.extend([(Tag::from_u16_exhaustive(field.tag.number()), entry)]);
    }
    directory.extend_from(&fields);
    Ok(())
}

#[cfg(test)]
mod tests {
    use std::io::Cursor;

    use tiff::decoder::DecodingResult;

    use super::*;
    use crate::encode::written;

    #[test]
    fn bands_come_back_exactly() {
        let (width, height) = (61usize, 45usize);
        let wide: Vec<u16> = (0..3 * width * height).map(|i| (i.wrapping_mul(40_503) >> 3) as u16).collect();
        let (attached, size) = (Attached::default(), [width as u32, height as u32]);
        for (rows, deflate) in [(1, true), (7, false), (16, true), (45, false), (60, true)] {
            let mut bands = wide.chunks(3 * width * rows).map(<[u16]>::to_vec);
            let banded = written(0, |out| of_16_bit(&mut bands, size, deflate, &attached, out)).unwrap();
            let read = tiff::decoder::Decoder::new(Cursor::new(&banded)).unwrap().read_image().unwrap();
            assert!(matches!(read, DecodingResult::U16(read) if read == wide), "{rows} rows");
        }
    }
}
