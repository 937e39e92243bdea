//! The spectrum of a square block of a picture.

use rustfft::algorithm::butterflies::Butterfly32;
use rustfft::num_complex::Complex;
use rustfft::{Fft, FftDirection};

/// Side of a block in pixels, that of the transform: one for any length would bring many with it.
pub const BLOCK: usize = 32;

/// Power spectra of blocks: what is slower than the block is taken off, the rest is seen through a Hann window
/// (Welch 1967: the mean of such spectra is that of the noise).
pub struct Spectrometer {
    fft: Butterfly32<f64>,
    window: [f64; BLOCK],
}

impl Default for Spectrometer {
    fn default() -> Self {
        let turn = std::f64::consts::TAU / BLOCK as f64;
        Self {
            fft: Butterfly32::new(FftDirection::Forward),
            window: std::array::from_fn(|i| 0.5 - 0.5 * (turn * (i as f64 + 0.5)).cos()),
        }
    }
}

impl Spectrometer {
    /// The transform of a block, scaled so that white noise of unit variance has mean power 1 at every frequency.
    pub fn transform(&self, block: &[f64]) -> Vec<Complex<f64>> {
        let flat = without_plane(block);
        let power: f64 = self.window.iter().map(|w| w * w).sum();
        let mut values: Vec<Complex<f64>> = (0..BLOCK * BLOCK)
            .map(|i| Complex::new(flat[i] * self.window[i / BLOCK] * self.window[i % BLOCK] / power, 0.0))
            .collect();
        for row in values.chunks_mut(BLOCK) {
            self.fft.process(row);
        }
        let mut column = [Complex::default(); BLOCK];
        for x in 0..BLOCK {
            (0..BLOCK).for_each(|y| column[y] = values[y * BLOCK + x]);
            self.fft.process(&mut column);
            (0..BLOCK).for_each(|y| values[y * BLOCK + x] = column[y]);
        }
        values
    }
}

/// A block less its least-squares plane.
fn without_plane(block: &[f64]) -> Vec<f64> {
    let middle = (BLOCK - 1) as f64 / 2.0;
    let along = |i: usize| [(i % BLOCK) as f64 - middle, (i / BLOCK) as f64 - middle];
    let count = (BLOCK * BLOCK) as f64;
    let mean = block.iter().sum::<f64>() / count;
    // the sum of squares of either axis over the block
    let squares = count * (BLOCK * BLOCK - 1) as f64 / 12.0;
    let slope = |k: usize| block.iter().enumerate().map(|(i, v)| along(i)[k] * v).sum::<f64>() / squares;
    let slopes = [slope(0), slope(1)];
    block.iter().enumerate().map(|(i, v)| v - mean - slopes[0] * along(i)[0] - slopes[1] * along(i)[1]).collect()
}

/// Distance from the origin of a transform's place, in cycles over the block.
pub fn cycles(index: usize) -> f64 {
    let signed = |i: usize| if i > BLOCK / 2 { i as f64 - BLOCK as f64 } else { i as f64 };
    signed(index % BLOCK).hypot(signed(index / BLOCK))
}

/// Sectors of orientation that are told apart.
pub const SECTORS: usize = 12;

/// The sector of a transform's place.
pub fn sector(index: usize) -> usize {
    let signed = |i: usize| if i > BLOCK / 2 { i as f64 - BLOCK as f64 } else { i as f64 };
    let turned = signed(index / BLOCK).atan2(signed(index % BLOCK)) / std::f64::consts::PI * SECTORS as f64;
    // a wave and its opposite are one
    (turned.round().rem_euclid(SECTORS as f64)) as usize
}

/// Covariance at whole lags along a row, from a spectrum that depends on the distance alone: `at` cycles over the
/// block.
pub fn covariance(lags: usize, at: impl Fn(f64) -> f64) -> Vec<f64> {
    let power: Vec<f64> = (0..BLOCK * BLOCK).map(|i| at(cycles(i))).collect();
    let count = (BLOCK * BLOCK) as f64;
    let turn = std::f64::consts::TAU / BLOCK as f64;
    (0..lags)
        .map(|lag| {
            let phase = |i: usize| (turn * ((i % BLOCK) * lag) as f64).cos();
            power.iter().enumerate().map(|(i, p)| p * phase(i)).sum::<f64>() / count
        })
        .collect()
}
