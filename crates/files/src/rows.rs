//! Encoding a picture that comes in bands of whole rows, while the next ones are made.

use std::cell::RefCell;
use std::io::{Seek, Write};

use jpeg_encoder::{ImageBuffer, JpegColorType};
use multiversion::multiversion;

use crate::error::FileError;
use crate::metadata::Metadata;
use crate::write::{failed, jpeg_encoder, tiff_encoder};

/// Rows of 8-bit RGB as an encoder asks for them: from the top, the last one again and again.
struct Rows<I> {
    size: [u16; 2],
    bands: RefCell<Bands<I>>,
}

struct Bands<I> {
    coming: I,
    now: Vec<u8>,
    /// First row of the band in hand.
    top: usize,
}

impl<I: Iterator<Item = Vec<u8>>> ImageBuffer for Rows<I> {
    fn get_jpeg_color_type(&self) -> JpegColorType {
        JpegColorType::Ycbcr
    }

    fn width(&self) -> u16 {
        self.size[0]
    }

    fn height(&self) -> u16 {
        self.size[1]
    }

    fn fill_buffers(&self, y: u16, buffers: &mut [Vec<u8>; 4]) {
        let length = 3 * usize::from(self.size[0]);
        let mut bands = self.bands.borrow_mut();
        while usize::from(y) >= bands.top + bands.now.len() / length {
            // bands that do not come were given up: nobody reads this file
            let Some(next) = bands.coming.next() else { break };
            bands.top += bands.now.len() / length;
            bands.now = next;
        }
        let start = usize::from(y).saturating_sub(bands.top) * length;
        let row = bands.now.get(start..start + length).unwrap_or_default();
        let [luma, blue, red, _] = buffers;
        to_ycbcr(row, [&mut *luma, &mut *blue, &mut *red]);
        // a missing row is black
        let missing = usize::from(self.size[0]) - row.len() / 3;
        luma.resize(luma.len() + missing, 0);
        blue.resize(blue.len() + missing, 128);
        red.resize(red.len() + missing, 128);
    }
}

/// Pixels that are converted together.
const RUN: usize = 64;

/// Luma and colour differences (ITU-R BT.601) of interleaved RGB, in the encoder's own integers, as it would convert
/// the whole picture.
#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
fn to_ycbcr(pixels: &[u8], mut planes: [&mut Vec<u8>; 3]) {
    let mut converted = [[0u8; RUN]; 3];
    let (half, middle) = (0x7FFF, 128 << 16);
    for run in pixels.chunks(3 * RUN) {
        for (i, pixel) in run.chunks_exact(3).enumerate().take(RUN) {
            let [r, g, b] = [pixel[0], pixel[1], pixel[2]].map(i32::from);
            converted[0][i] = ((19_595 * r + 38_470 * g + 7_471 * b + half) >> 16) as u8;
            converted[1][i] = ((-11_059 * r - 21_709 * g + 32_768 * b + middle + half) >> 16) as u8;
            converted[2][i] = ((32_768 * r - 27_439 * g - 5_329 * b + middle + half) >> 16) as u8;
        }
        for (plane, converted) in planes.iter_mut().zip(&converted) {
            plane.extend_from_slice(&converted[..run.len() / 3]);
        }
    }
}

/// [`crate::write::jpeg`] of a picture in bands.
pub fn jpeg(
    bands: impl Iterator<Item = Vec<u8>>,
    [width, height]: [u32; 2],
    quality: u8,
    metadata: Option<&Metadata>,
    out: &mut impl Write,
) -> Result<(), FileError> {
    let (encoder, size) = jpeg_encoder(out, width, height, quality, metadata)?;
    let bands = RefCell::new(Bands { coming: bands, now: Vec::new(), top: 0 });
    encoder.encode_image(Rows { size, bands }).map_err(failed)
}

/// [`crate::write::tiff_16_bit`] of a picture in bands, each of which but the last has as many rows.
pub fn tiff_16_bit(
    bands: impl Iterator<Item = Vec<u16>>,
    [width, height]: [u32; 2],
    metadata: &Metadata,
    out: &mut (impl Write + Seek),
) -> Result<(), FileError> {
    let mut bands = bands.peekable();
    let rows = bands.peek().map_or(1, |band| band.len() / (3 * width as usize));
    tiff_encoder(out, width, height, metadata, |mut image| {
        image.rows_per_strip(rows.max(1) as u32)?;
        for band in bands {
            image.write_strip(&band)?;
        }
        image.finish()
    })
}

#[cfg(test)]
mod tests {
    use std::io::Cursor;

    use super::*;
    use crate::write;

    fn pixel(i: usize) -> u8 {
        (i.wrapping_mul(2_654_435_761) >> 7) as u8 ^ (i / 97) as u8
    }

    /// Every colour at the corners and in steps between.
    #[test]
    fn colours_are_converted_as_the_encoder_does() {
        let steps = || (0..=255u8).step_by(15);
        let all: Vec<[u8; 3]> =
            steps().flat_map(|r| steps().flat_map(move |g| steps().map(move |b| [r, g, b]))).collect();
        let mut planes = [Vec::new(), Vec::new(), Vec::new()];
        to_ycbcr(&all.concat(), planes.each_mut());
        for (i, [r, g, b]) in all.into_iter().enumerate() {
            assert_eq!((planes[0][i], planes[1][i], planes[2][i]), jpeg_encoder::rgb_to_ycbcr(r, g, b));
        }
    }

    #[test]
    fn bands_are_encoded_as_the_whole_is() {
        let (width, height) = (61usize, 45usize);
        let pixels: Vec<u8> = (0..3 * width * height).map(pixel).collect();
        let (metadata, size) = (Metadata::default(), [width as u32, height as u32]);
        for rows in [1, 7, 16, 45, 60] {
            let bands = || pixels.chunks(3 * width * rows).map(<[u8]>::to_vec);
            for quality in [80, 92] {
                let whole = write::jpeg(&pixels, width as u32, height as u32, quality, Some(&metadata)).unwrap();
                let mut banded = Vec::new();
                jpeg(bands(), size, quality, Some(&metadata), &mut banded).unwrap();
                assert!(whole == banded, "{rows} rows, quality {quality}");
            }
            let wide: Vec<u16> = pixels.iter().map(|v| u16::from(*v) * 211).collect();
            let bands = wide.chunks(3 * width * rows).map(<[u16]>::to_vec);
            let mut banded = Cursor::new(Vec::new());
            tiff_16_bit(bands, size, &metadata, &mut banded).unwrap();
            let read = image::load_from_memory(banded.get_ref()).unwrap().into_rgb16();
            assert!(read.into_raw() == wide, "{rows} rows");
        }
    }

    #[test]
    fn bands_that_were_given_up_end_it() {
        let given_up = || [vec![90u8; 3 * 61 * 16]].into_iter();
        assert!(jpeg(given_up(), [61, 45], 92, None, &mut Vec::new()).is_ok());
        assert!(jpeg(given_up(), [70_000, 45], 92, None, &mut Vec::new()).is_err());
    }
}
