//! Encoding a picture that comes in bands of whole rows, while the next ones are made.

use std::cell::RefCell;
use std::io::Cursor;

use jpeg_encoder::{ImageBuffer, JpegColorType, rgb_to_ycbcr};

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
        for pixel in row.chunks_exact(3) {
            let (y, cb, cr) = rgb_to_ycbcr(pixel[0], pixel[1], pixel[2]);
            luma.push(y);
            blue.push(cb);
            red.push(cr);
        }
        // a missing row is black
        let missing = usize::from(self.size[0]) - row.len() / 3;
        luma.resize(luma.len() + missing, 0);
        blue.resize(blue.len() + missing, 128);
        red.resize(red.len() + missing, 128);
    }
}

/// [`crate::write::jpeg`] of a picture in bands.
pub fn jpeg(
    bands: impl Iterator<Item = Vec<u8>>,
    width: u32,
    height: u32,
    quality: u8,
    metadata: Option<&Metadata>,
) -> Result<Vec<u8>, FileError> {
    let mut out = Vec::with_capacity(width as usize * height as usize / 2);
    let (encoder, size) = jpeg_encoder(&mut out, width, height, quality, metadata)?;
    let bands = RefCell::new(Bands { coming: bands, now: Vec::new(), top: 0 });
    encoder.encode_image(Rows { size, bands }).map_err(failed)?;
    Ok(out)
}

/// [`crate::write::tiff_16_bit`] of a picture in bands, each of which but the last has as many rows.
pub fn tiff_16_bit(
    bands: impl Iterator<Item = Vec<u16>>,
    width: u32,
    height: u32,
    metadata: &Metadata,
) -> Result<Vec<u8>, FileError> {
    let mut bands = bands.peekable();
    let rows = bands.peek().map_or(1, |band| band.len() / (3 * width as usize));
    let mut out = Cursor::new(Vec::with_capacity(width as usize * height as usize * 6 + 65_536));
    tiff_encoder(&mut out, width, height, metadata, |mut image| {
        image.rows_per_strip(rows.max(1) as u32)?;
        for band in bands {
            image.write_strip(&band)?;
        }
        image.finish()
    })?;
    Ok(out.into_inner())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::write;

    fn pixel(i: usize) -> u8 {
        (i.wrapping_mul(2_654_435_761) >> 7) as u8 ^ (i / 97) as u8
    }

    #[test]
    fn bands_are_encoded_as_the_whole_is() {
        let (width, height) = (61usize, 45usize);
        let pixels: Vec<u8> = (0..3 * width * height).map(pixel).collect();
        let metadata = Metadata::default();
        for rows in [1, 7, 16, 45, 60] {
            let bands = || pixels.chunks(3 * width * rows).map(<[u8]>::to_vec);
            for quality in [80, 92] {
                let whole = write::jpeg(&pixels, width as u32, height as u32, quality, Some(&metadata)).unwrap();
                let banded = jpeg(bands(), width as u32, height as u32, quality, Some(&metadata)).unwrap();
                assert!(whole == banded, "{rows} rows, quality {quality}");
            }
            let wide: Vec<u16> = pixels.iter().map(|v| u16::from(*v) * 211).collect();
            let bands = wide.chunks(3 * width * rows).map(<[u16]>::to_vec);
            let banded = tiff_16_bit(bands, width as u32, height as u32, &metadata).unwrap();
            let read = image::load_from_memory(&banded).unwrap().into_rgb16();
            assert!(read.into_raw() == wide, "{rows} rows");
        }
    }

    #[test]
    fn bands_that_were_given_up_end_it() {
        let given_up = || [vec![90u8; 3 * 61 * 16]].into_iter();
        assert!(jpeg(given_up(), 61, 45, 92, None).is_ok());
        assert!(jpeg(given_up(), 70_000, 45, 92, None).is_err());
    }
}
