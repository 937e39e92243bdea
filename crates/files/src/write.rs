//! Writing pictures.

use std::fs::File;
use std::io::BufWriter;
use std::path::Path;

use amber_core::Picture;
use amber_core::picture::buffer::Quantity;
use amber_saving::Access;
pub use amber_saving::Arriving;
use tiff::encoder::TiffEncoder;
use tiff::encoder::colortype::{Gray32Float, RGB32Float};

use crate::attached::Attached;
use crate::encode::{self, Bits, Encoding, Sampling, written};
use crate::error::{FileError, failed};
use crate::metadata::Metadata;

/// A JPEG in sRGB; with metadata, its profile and EXIF too. `quality` 1..100; from 90 the colour is not subsampled.
pub fn jpeg(
    pixels: &[u8],
    width: u32,
    height: u32,
    quality: u8,
    metadata: Option<&Metadata>,
) -> Result<Vec<u8>, FileError> {
    let attached = metadata.map(Attached::of);
    written(pixels.len() / 6, |out| {
        encode::whole_jpeg(pixels, [width, height], (quality, Sampling::Auto), attached.as_ref(), out)
    })
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
    written(pixels.len(), |out| {
        let mut encoder = png::Encoder::new(out, width, height);
        encoder.set_color(colour);
        encoder.set_depth(png::BitDepth::Eight);
        encoder.set_compression(png::Compression::Fastest);
        encoder.set_source_srgb(png::SrgbRenderingIntent::RelativeColorimetric);
        let mut writer = encoder.write_header().map_err(failed)?;
        writer.write_image_data(pixels).map_err(failed)?;
        writer.finish().map_err(failed)
    })
}

/// A 16-bit TIFF in sRGB with profile and EXIF.
pub fn tiff_16_bit(pixels: &[u16], width: u32, height: u32, metadata: &Metadata) -> Result<Vec<u8>, FileError> {
    let tiff = Encoding::Tiff { bits: Bits::Sixteen, deflate: false };
    let mut bands = std::iter::once(pixels.to_vec());
    written(pixels.len() * 2 + 65_536, |out| {
        encode::of_16_bit(&tiff, &mut bands, [width, height], &Attached::of(metadata), out)
    })
}

/// A 32-bit float TIFF of a quantity: one sample per layer, the numbers as they are.
pub fn tiff_float<Q: Quantity>(picture: &Picture<Q>) -> Result<Vec<u8>, FileError> {
    let (width, height) = (picture.region.width, picture.region.height);
    written(picture.bytes() + 4096, |out| {
        let mut encoder = TiffEncoder::new(out).map_err(failed)?;
        match picture.planes() {
            [single] => {
                let image = encoder.new_image::<Gray32Float>(width, height).map_err(failed)?;
                image.write_data(single).map_err(failed)
            }
            [red, green, blue] => {
                let pixels = red.iter().zip(green).zip(blue);
                let interleaved: Vec<f32> = pixels.flat_map(|((r, g), b)| [*r, *g, *b]).collect();
                let image = encoder.new_image::<RGB32Float>(width, height).map_err(failed)?;
                image.write_data(&interleaved).map_err(failed)
            }
            planes => Err(failed(format!("{} planes", planes.len()))),
        }
    })
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
