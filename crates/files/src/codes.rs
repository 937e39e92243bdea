//! Samples of a file become a source's codes: bit depth, transparency, profile, in one pass.
//!
//! Pictures are converted by chunks and in parallel, so that beside the samples and the codes nothing of the picture's
//! size is ever held; samples that take as much room as codes are converted where they lie.

use std::sync::LazyLock;

use amber_core::picture::source::{code_of_8_bit, code_of_encoded};
use rayon::prelude::*;

use crate::error::FileError;
use crate::profile::ToWorking;

/// Pixels converted at a time.
const CHUNK: usize = 1 << 15;

/// A file's unsigned sample.
pub trait Sample: Copy + Send + Sync {
    /// 0..1.
    fn unit(self) -> f32;

    /// Its code, where a file's samples are those of sRGB.
    fn code(self) -> u16;
}

impl Sample for u8 {
    fn unit(self) -> f32 {
        f32::from(self) / 255.0
    }

    fn code(self) -> u16 {
        code_of_8_bit(self)
    }
}

impl Sample for u16 {
    fn unit(self) -> f32 {
        f32::from(self) / 65535.0
    }

    fn code(self) -> u16 {
        static CODES: LazyLock<Box<[u16]>> =
            LazyLock::new(|| (0..=u16::MAX).map(|v| code_of_encoded(f64::from(v.unit()))).collect());
        CODES[usize::from(self)]
    }
}

/// How a file's pixels are to be read.
pub struct Reading {
    /// 1 grey, 2 grey and alpha, 3 colour, 4 colour and alpha.
    pub channels: usize,
    pub working: ToWorking,
}

impl Reading {
    /// The codes of whole pixels. What is transparent lies on white.
    pub fn convert<S: Sample>(&self, samples: &[S], codes: &mut [u16]) -> Result<(), FileError> {
        if self.working.is_srgb() && !self.channels.is_multiple_of(2) {
            if self.channels == 1 {
                codes.chunks_exact_mut(3).zip(samples).for_each(|(codes, v)| codes.fill(v.code()));
            } else {
                codes.iter_mut().zip(samples).for_each(|(code, v)| *code = v.code());
            }
            return Ok(());
        }
        let (channels, colours) = (self.channels, self.channels - usize::from(self.channels.is_multiple_of(2)));
        let mut values = Vec::with_capacity(samples.len() / channels * colours);
        for pixel in samples.chunks_exact(channels) {
            let alpha = if channels > colours { pixel[colours].unit() } else { 1.0 };
            values.extend(
                pixel[..colours].iter().map(|v| if alpha < 1.0 { v.unit() * alpha + 1.0 - alpha } else { v.unit() }),
            );
        }
        self.working.codes(&values, codes)
    }

    /// The codes of a whole picture.
    pub fn all<S: Sample>(&self, samples: &[S]) -> Result<Vec<u16>, FileError> {
        let mut codes = vec![0u16; samples.len() / self.channels * 3];
        let chunks = samples.par_chunks(self.channels * CHUNK);
        codes.par_chunks_mut(3 * CHUNK).zip(chunks).try_for_each(|(out, given)| self.convert(given, out))?;
        Ok(codes)
    }

    /// Whether 8-bit samples are those of a picture as it is held: sRGB in colour, nothing transparent.
    pub fn is_held_in_8_bits(&self) -> bool {
        self.channels == 3 && self.working.is_srgb()
    }

    /// [`Reading::all`] for samples of 16 bits in colour: the codes take the samples' place.
    pub fn in_place(&self, mut samples: Vec<u16>) -> Result<Vec<u16>, FileError> {
        if self.channels < 3 {
            return self.all(&samples);
        }
        let pixels = samples.len() / self.channels;
        // as much at a time as keeps the threads busy; what is written never reaches what is still to be read
        let stride = CHUNK * 4 * rayon::current_num_threads().max(1);
        for from in (0..pixels).step_by(stride) {
            let count = stride.min(pixels - from);
            let codes = self.all(&samples[from * self.channels..(from + count) * self.channels])?;
            samples[3 * from..3 * (from + count)].copy_from_slice(&codes);
        }
        samples.truncate(3 * pixels);
        samples.shrink_to_fit();
        Ok(samples)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Against the way of all other files, for every sample there is.
    #[test]
    fn codes_are_what_would_be_computed() {
        let plain = ToWorking::new(false, None).unwrap();
        fn all<S: Sample>(plain: &ToWorking, samples: Vec<S>) {
            let units: Vec<f32> = samples.iter().map(|v| v.unit()).collect();
            let mut computed = vec![0; samples.len()];
            plain.codes(&units, &mut computed).unwrap();
            assert!(samples.iter().zip(&computed).all(|(v, code)| v.code() == *code));
        }
        all(&plain, (0..=255u8).collect());
        all(&plain, (0..=65535u16).collect());
    }

    #[test]
    fn transparent_pixels_lie_on_white_and_in_place_agrees() {
        let reading = Reading { channels: 4, working: ToWorking::new(false, None).unwrap() };
        let samples: Vec<u16> = (0..4 * 300_000u32).map(|i| (i.wrapping_mul(40_503) >> 4) as u16).collect();
        let codes = reading.all(&samples).unwrap();
        assert_eq!(codes, reading.in_place(samples).unwrap());
        let clear = reading.all(&[10u16, 20, 30, 0]).unwrap();
        let grey = Reading { channels: 1, working: ToWorking::new(true, None).unwrap() };
        assert_eq!(clear, grey.all(&[255u8]).unwrap());
    }
}
