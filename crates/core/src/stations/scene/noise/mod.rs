//! Smoothing of noise: sliding-window DCT shrinkage.
//!
//! Every 8 x 8 window, two pixels apart, is transformed; coefficients below about three deviations of the noise are
//! reduced, and the windows that cover a pixel are averaged (Yu, Sapiro 2011, "DCT image denoising"). The noise is that
//! measured on the picture, tone by tone. Works on encoded values, where noise is most even, in orthonormal opponent
//! axes; colour is also smoothed at half and a quarter of the size, because its noise is coarser. Acts on the full
//! picture before it is reduced, so that every view shows the same.

mod axes;
mod colour;
mod dct;
mod windows;

use rayon::prelude::*;

use crate::measure::noise::{NoiseLevels, TONES};
use crate::numeric::Sampled;
use crate::picture::{Region, Source};
use windows::{Shrink, Smoother};

/// Rows that are smoothed together.
const STRIP: u32 = 128;
/// Deviations of noise below which a coefficient counts as noise: at no strength and at full strength.
const THRESHOLD: [f64; 2] = [2.4, 3.8];

/// How much noise is taken, 0..1.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct NoiseSettings {
    /// Of luminance.
    pub luminance: f64,
    /// Of colour.
    pub colour: f64,
}

impl NoiseSettings {
    /// None is taken.
    pub const NONE: Self = Self { luminance: 0.0, colour: 0.0 };

    /// Whether none is taken.
    pub fn is_none(&self) -> bool {
        *self == Self::NONE
    }
}

/// What is done to coefficients at one strength, by the tone of their window.
fn shrink(strength: f64, deviation: &[f32; TONES], scale: f64) -> Option<Shrink> {
    if strength <= 0.0 {
        return None;
    }
    let factor = scale * (THRESHOLD[0] + (THRESHOLD[1] - THRESHOLD[0]) * strength);
    let half = 0.5 / TONES as f64;
    let values = deviation.map(|d| (factor * f64::from(d)) as f32).to_vec();
    Some(Shrink {
        threshold: Sampled::from_values(half, 1.0 - half, values),
        // noise that stays keeps a smoothed picture from looking like wax
        kept: (1.0 - strength).powf(1.8) as f32,
    })
}

/// The picture with its noise smoothed; `None` when it was abandoned.
///
/// `scale` is the share of the measured noise that this picture has: 1 at full size, less when it was reduced.
pub fn smoothed(
    source: &Source,
    levels: &NoiseLevels,
    settings: &NoiseSettings,
    scale: f64,
    abandoned: &(dyn Fn() -> bool + Sync),
) -> Option<Source> {
    let luminance = shrink(settings.luminance, &levels.luminance, scale);
    let colour = shrink(settings.colour, &levels.colour, scale);
    let (width, height) = (source.width(), source.height());
    let mut pixels = vec![0u16; 3 * width as usize * height as usize];
    let shrinks = [luminance.as_ref(), colour.as_ref(), colour.as_ref()];
    let strips = pixels.par_chunks_mut(3 * (width * STRIP) as usize).enumerate();
    strips.try_for_each_init(Smoother::new, |smoother, (i, out)| {
        if abandoned() {
            return None;
        }
        let rows = (out.len() / (3 * width as usize)) as u32;
        strip(source, Region::new(0, i as u32 * STRIP, width, rows), out, shrinks, smoother);
        Some(())
    })?;
    if colour.is_some() {
        colour::smooth_coarse(&mut pixels, [width as usize, height as usize], levels, settings, scale, abandoned)?;
    }
    Source::new(width, height, pixels)
}

/// Smooths a strip of rows into their codes.
fn strip(source: &Source, strip: Region, out: &mut [u16], shrinks: [Option<&Shrink>; 3], smoother: &mut Smoother<3>) {
    let mut row_of_axes = [(); 3].map(|()| vec![0.0f32; strip.width as usize]);
    for cell in windows::cells(strip) {
        smoother.smooth([source.width(), source.height()], cell, shrinks, |y, columns, axes| {
            axes::of_codes(&source.row(y, columns.start, columns.end - columns.start), axes);
        });
        for (row, line) in out.chunks_exact_mut(3 * strip.width as usize).enumerate() {
            let axes = row_of_axes.each_mut().map(|axis| &mut axis[..cell.width as usize]);
            for (plane, axis) in axes.into_iter().enumerate() {
                smoother.row(plane, row, axis);
            }
            let line = &mut line[3 * cell.x as usize..3 * cell.right() as usize];
            axes::to_codes(row_of_axes.each_ref().map(|axis| &axis[..cell.width as usize]), line);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_strength_is_no_shrinkage_and_more_takes_more() {
        assert!(shrink(0.0, &[0.02; TONES], 1.0).is_none());
        let (half, full) = (shrink(0.5, &[0.02; TONES], 1.0).unwrap(), shrink(1.0, &[0.02; TONES], 1.0).unwrap());
        assert!(full.kept == 0.0 && half.kept > 0.25);
        assert!(full.threshold.at(0.4) > half.threshold.at(0.4));
        assert!((half.threshold.at(0.4) - 0.062).abs() < 1e-3);
    }
}
