//! JPEG: by bands, or as good as a number of bytes allows.

use std::borrow::Cow;
use std::cell::RefCell;
use std::io::Write;

use jpeg_encoder::{Encoder, ImageBuffer, JpegColorType, PixelDensity, SamplingFactor};
use multiversion::multiversion;

use super::{Out, Sampling, Size, written};
use crate::attached::Attached;
use crate::error::{FileError, failed};

const LARGEST_SIDE: u32 = 65_535;

/// An encoder with all but the pixels, and the size as it takes it.
fn encoder<'a, 'o>(
    out: &'a mut Out<'o>,
    [width, height]: Size,
    (quality, sampling): (u8, Sampling),
    attached: Option<&Attached>,
) -> Result<(Encoder<&'a mut Out<'o>>, [u16; 2]), FileError> {
    let side =
        |v: u32| u16::try_from(v).map_err(|_| failed(format!("a JPEG has at most {LARGEST_SIDE} pixels a side")));
    let size = [side(width)?, side(height)?];
    let mut encoder = Encoder::new(out, quality.clamp(1, 100));
    let whole = sampling == Sampling::Full || sampling == Sampling::Auto && quality >= 90;
    encoder.set_sampling_factor(if whole { SamplingFactor::R_4_4_4 } else { SamplingFactor::R_4_2_0 });
    let Some(attached) = attached else { return Ok((encoder, size)) };
    if let Some(ppi) = attached.pixels_per_inch {
        let ppi = ppi.round().clamp(1.0, 65_535.0) as u16;
        encoder.set_density(PixelDensity { density: (ppi, ppi), unit: jpeg_encoder::PixelDensityUnit::Inches });
    }
    encoder.add_icc_profile(&attached.profile()?).map_err(failed)?;
    if let Some(block) = attached.exif_block()? {
        // an EXIF block too large for a JPEG is left out rather than losing the picture
        let _ = encoder.add_exif_metadata(&block);
    }
    for (number, segment) in attached.jpeg_segments() {
        encoder.add_app_segment(number, segment).map_err(failed)?;
    }
    Ok((encoder, size))
}

/// Rows of 8-bit RGB as an encoder asks for them: from the top, the last one again and again.
struct Rows<'a> {
    size: [u16; 2],
    bands: RefCell<Bands<'a>>,
}

struct Bands<'a> {
    coming: &'a mut dyn Iterator<Item = Vec<u8>>,
    now: Cow<'a, [u8]>,
    /// First row of the band in hand.
    top: usize,
}

impl ImageBuffer for Rows<'_> {
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
            bands.now = next.into();
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
#[multiversion(targets("x86_64+avx2"))]
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

/// A picture in bands.
pub fn banded(
    bands: &mut dyn Iterator<Item = Vec<u8>>,
    size: Size,
    settings: (u8, Sampling),
    attached: Option<&Attached>,
    out: &mut Out,
) -> Result<(), FileError> {
    let (encoder, size) = encoder(out, size, settings, attached)?;
    let bands = RefCell::new(Bands { coming: bands, now: Cow::default(), top: 0 });
    encoder.encode_image(Rows { size, bands }).map_err(failed)
}

/// A picture in 8-bit RGB that is there as a whole. As one band: the encoder's own way for any order of colours would
/// be built for each of twelve.
pub fn whole(
    pixels: &[u8],
    size: Size,
    settings: (u8, Sampling),
    attached: Option<&Attached>,
    out: &mut Out,
) -> Result<(), FileError> {
    if pixels.len() < 3 * size[0] as usize * size[1] as usize {
        return Err(failed("there are fewer pixels than its size asks for"));
    }
    let (encoder, size) = encoder(out, size, settings, attached)?;
    let mut none = std::iter::empty();
    let bands = RefCell::new(Bands { coming: &mut none, now: pixels.into(), top: 0 });
    encoder.encode_image(Rows { size, bands }).map_err(failed)
}

/// A whole picture as good as so many kB allow, at most of the quality.
pub fn within(
    pixels: &[u8],
    size: Size,
    (best, sampling): (u8, Sampling),
    most_kb: u32,
    attached: &Attached,
    out: &mut Out,
) -> Result<(), FileError> {
    let most = most_kb as usize * 1000;
    let encoded = |quality: u8| -> Result<Vec<u8>, FileError> {
        written(pixels.len() / 6, |out| whole(pixels, size, (quality, sampling), Some(attached), out))
    };
    // `fits` is the best known to fit, `over` the worst known not to
    let (mut fits, mut over) = (None, best.clamp(1, 100) + 1);
    let mut low = 1;
    let mut tried = over - 1;
    while tried >= low && tried < over {
        let bytes = encoded(tried)?;
        if bytes.len() <= most {
            (fits, low) = (Some(bytes), tried + 1);
        } else {
            over = tried;
        }
        tried = low + (over - low) / 2;
    }
    let bytes = fits.ok_or(FileError::TooLargeFor { kb: most_kb })?;
    out.write_all(&bytes).map_err(failed)
}

#[cfg(test)]
mod tests {
    use jpeg_encoder::ColorType;

    use super::*;

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
        let (attached, size) = (Attached::default(), [width as u32, height as u32]);
        for rows in [1, 7, 16, 45, 60] {
            let bands = || pixels.chunks(3 * width * rows).map(<[u8]>::to_vec);
            for quality in [80, 92] {
                let settings = (quality, Sampling::Auto);
                let theirs = written(0, |out| {
                    let (encoder, _) = encoder(out, size, settings, Some(&attached))?;
                    encoder.encode(&pixels, width as u16, height as u16, ColorType::Rgb).map_err(failed)
                });
                let bytes = written(0, |out| banded(&mut bands(), size, settings, Some(&attached), out));
                let whole = written(0, |out| super::whole(&pixels, size, settings, Some(&attached), out));
                let [theirs, whole, bytes] = [theirs, whole, bytes].map(Result::unwrap);
                assert!(theirs == bytes && theirs == whole, "{rows} rows, quality {quality}");
            }
        }
    }

    #[test]
    fn bands_that_were_given_up_end_it() {
        let given_up = || [vec![90u8; 3 * 61 * 16]].into_iter();
        let settings = (92, Sampling::Auto);
        let made = |width: u32| written(0, |out| banded(&mut given_up(), [width, 45], settings, None, out));
        assert!(made(61).is_ok());
        assert!(made(70_000).is_err());
    }

    #[test]
    fn a_file_is_as_good_as_its_bytes_allow() {
        let size = [160, 120];
        let pixels: Vec<u8> = (0..3 * 160 * 120).map(pixel).collect();
        let made = |most: u32, best: u8| {
            written(0, |out| within(&pixels, size, (best, Sampling::Full), most, &Attached::default(), out))
                .map(|bytes| bytes.len())
        };
        let free = made(10_000, 90).unwrap();
        for most in [30, 25, 20] {
            let length = made(most, 90).unwrap();
            assert!(length <= most as usize * 1000 && length < free, "{length}");
            // one step better would not have fitted
            assert!(length > most as usize * 700, "{length} of {most} kB");
        }
        assert!(matches!(made(2, 90), Err(FileError::TooLargeFor { kb: 2 })));
    }
}
