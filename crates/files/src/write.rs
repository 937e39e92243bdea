//! Writing pictures.

use std::fs::File;
use std::io::{BufWriter, Cursor, Seek, Write};
use std::path::Path;

use amber_core::Picture;
use amber_core::picture::buffer::Quantity;
use amber_saving::Access;
pub use amber_saving::Arriving;
use exif::Context;
use jpeg_encoder::{ColorType, Encoder, SamplingFactor};
use tiff::TiffResult;
use tiff::encoder::colortype::{Gray32Float, RGB16, RGB32Float};
use tiff::encoder::{DirectoryEncoder, ImageEncoder, TiffEncoder, TiffKind, TiffKindStandard};
use tiff::tags::Tag;

use crate::error::FileError;
use crate::metadata::{Metadata, tiff_value};
use crate::profile;

const LARGEST_JPEG_SIDE: u32 = 65_535;

pub(crate) fn failed(why: impl ToString) -> FileError {
    FileError::Encode { why: why.to_string() }
}

/// A JPEG in sRGB with profile and EXIF. `quality` 1..100; from 90 the colour is not subsampled.
pub fn jpeg(
    pixels: &[u8],
    width: u32,
    height: u32,
    quality: u8,
    metadata: Option<&Metadata>,
) -> Result<Vec<u8>, FileError> {
    let mut out = Vec::with_capacity(pixels.len() / 6);
    let (encoder, [width, height]) = jpeg_encoder(&mut out, width, height, quality, metadata)?;
    encoder.encode(pixels, width, height, ColorType::Rgb).map_err(failed)?;
    Ok(out)
}

/// An encoder with all but the pixels, and the size as it takes it.
pub(crate) fn jpeg_encoder<'a, W: Write>(
    out: &'a mut W,
    width: u32,
    height: u32,
    quality: u8,
    metadata: Option<&Metadata>,
) -> Result<(Encoder<&'a mut W>, [u16; 2]), FileError> {
    let side = |v: u32| {
        u16::try_from(v).map_err(|_| failed(format!("a JPEG holds at most {LARGEST_JPEG_SIDE} pixels a side")))
    };
    let size = [side(width)?, side(height)?];
    let mut encoder = Encoder::new(out, quality.clamp(1, 100));
    encoder.set_sampling_factor(if quality >= 90 { SamplingFactor::R_4_4_4 } else { SamplingFactor::R_4_2_0 });
    if let Some(metadata) = metadata {
        encoder.add_icc_profile(&profile::srgb()?).map_err(failed)?;
        if !metadata.is_empty() {
            // an EXIF block too large for a JPEG is left out rather than losing the picture
            let _ = encoder.add_exif_metadata(&metadata.to_block()?);
        }
    }
    Ok((encoder, size))
}

/// A lossless PNG of 8 bits in sRGB, made fast: for views.
pub fn png(pixels: &[u8], width: u32, height: u32) -> Result<Vec<u8>, FileError> {
    png_of(pixels, width, height, png::ColorType::Rgb)
}

/// A PNG in 8 bits with what covers: for what is laid over a view.
pub fn png_with_cover(pixels: &[u8], width: u32, height: u32) -> Result<Vec<u8>, FileError> {
    png_of(pixels, width, height, png::ColorType::Rgba)
}

fn png_of(pixels: &[u8], width: u32, height: u32, colour: png::ColorType) -> Result<Vec<u8>, FileError> {
    let mut out = Vec::with_capacity(pixels.len());
    let mut encoder = png::Encoder::new(&mut out, width, height);
    encoder.set_color(colour);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_compression(png::Compression::Fastest);
    encoder.set_source_srgb(png::SrgbRenderingIntent::RelativeColorimetric);
    let mut writer = encoder.write_header().map_err(failed)?;
    writer.write_image_data(pixels).map_err(failed)?;
    writer.finish().map_err(failed)?;
    Ok(out)
}

/// A 16-bit TIFF in sRGB with profile and EXIF.
pub fn tiff_16_bit(pixels: &[u16], width: u32, height: u32, metadata: &Metadata) -> Result<Vec<u8>, FileError> {
    let mut out = Cursor::new(Vec::with_capacity(pixels.len() * 2 + 65_536));
    tiff_encoder(&mut out, width, height, metadata, |image| image.write_data(pixels))?;
    Ok(out.into_inner())
}

/// All of a 16-bit TIFF but the pixels, which `write` adds.
pub(crate) fn tiff_encoder<W: Write + Seek>(
    out: &mut W,
    width: u32,
    height: u32,
    metadata: &Metadata,
    write: impl FnOnce(ImageEncoder<'_, &mut W, RGB16, TiffKindStandard>) -> TiffResult<()>,
) -> Result<(), FileError> {
    let mut encoder = TiffEncoder::new(out).map_err(failed)?;
    let mut pointers = Vec::new();
    for (context, tag) in [(Context::Exif, Tag::ExifDirectory), (Context::Gps, Tag::GpsDirectory)] {
        if metadata.directory(context).next().is_some() {
            let mut directory = encoder.extra_directory().map_err(failed)?;
            write_fields(&mut directory, metadata, context)?;
            pointers.push((tag, directory.finish_with_offsets().map_err(failed)?.offset));
        }
    }
    let mut image = encoder.new_image::<RGB16>(width, height).map_err(failed)?;
    image.encoder().write_tag(Tag::IccProfile, profile::srgb()?.as_slice()).map_err(failed)?;
    write_fields(image.encoder(), metadata, Context::Tiff)?;
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

/// A 32-bit float TIFF of a quantity: one sample per layer, the numbers as they are.
pub fn tiff_float<Q: Quantity>(picture: &Picture<Q>) -> Result<Vec<u8>, FileError> {
    let (width, height) = (picture.region.width, picture.region.height);
    let mut out = Cursor::new(Vec::with_capacity(picture.bytes() + 4096));
    let mut encoder = TiffEncoder::new(&mut out).map_err(failed)?;
    match picture.planes() {
        [single] => {
            let image = encoder.new_image::<Gray32Float>(width, height).map_err(failed)?;
            image.write_data(single).map_err(failed)?;
        }
        [red, green, blue] => {
            let interleaved: Vec<f32> = red.iter().zip(green).zip(blue).flat_map(|((r, g), b)| [*r, *g, *b]).collect();
            let image = encoder.new_image::<RGB32Float>(width, height).map_err(failed)?;
            image.write_data(&interleaved).map_err(failed)?;
        }
        planes => return Err(failed(format!("{} planes", planes.len()))),
    }
    Ok(out.into_inner())
}

/// [`amber_saving::save`] with an error that names the file.
pub fn save(path: &Path, bytes: &[u8]) -> Result<(), FileError> {
    amber_saving::save(path, bytes).map_err(|source| wrong(path, source))
}

/// A file beside the one that it is to be, made while it is written.
pub fn arriving<E: From<FileError>>(
    path: &Path,
    write: impl FnOnce(&mut BufWriter<&File>) -> Result<(), E>,
) -> Result<Arriving, E> {
    let mut refused = None;
    let written = Arriving::written(amber_saving::folder_of(path), Access::Usual, |file| {
        write(file).map_err(|error| {
            refused = Some(error);
            std::io::Error::other("given up")
        })
    });
    written.map_err(|error| refused.unwrap_or_else(|| wrong(path, error).into()))
}

fn wrong(path: &Path, source: std::io::Error) -> FileError {
    FileError::Write { path: path.display().to_string(), source }
}
