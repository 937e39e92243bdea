//! Looking at dyes: from spectral density under a viewing light to linear sRGB.

use multiversion::multiversion;

use crate::colour::Spectrum;
use crate::colour::adaptation::adapt;
use crate::colour::illuminant::white_point;
use crate::colour::space::XYZ_TO_SRGB;
use crate::colour::spectrum::{SAMPLES, TABLES};
use crate::numeric::exp2;
use crate::numeric::log_exp::LOG2_OF_10;

/// The eye under a light: weights from spectral transmittance to linear sRGB, clear = (1, 1, 1).
#[derive(Debug, Clone)]
pub struct Viewer {
    weights: [Spectrum; 3],
}

impl Viewer {
    /// CIE 1931 observer under `light`, adapted to the tabulated D65 by Bradford, columns normalised.
    pub fn under(light: &Spectrum) -> Self {
        let to_rgb = XYZ_TO_SRGB.after(&adapt(white_point(light), white_point(&TABLES.d65)));
        let seen = TABLES.observer.each_ref().map(|bar| light.times(bar));
        let weights = to_rgb.0.map(|row| {
            let mix = seen[0] * row[0] + seen[1] * row[1] + seen[2] * row[2];
            mix * (1.0 / mix.sum())
        });
        Self { weights }
    }

    /// Linear sRGB (unbounded) of a spectral transmittance or reflectance.
    pub fn see(&self, transmittance: &Spectrum) -> [f64; 3] {
        self.weights.each_ref().map(|w| w.dot(transmittance))
    }
}

/// Colours that are looked at together: a row of nodes of the print's table, filled up to whole vectors.
pub const ROW: usize = 40;

/// One value for each colour of a row.
pub type Row = [f32; ROW];

/// A spectral density that is a base plus dye amounts, and weights to integrate its transmittance with; single
/// precision, for table building.
///
/// The samples are slices, not arrays: loops of unknown length become short vector loops, where loops of 36 would be
/// unrolled into thousands of instructions.
#[derive(Debug, Clone)]
pub struct DyeStack {
    samples: Vec<Sample>,
}

/// One wavelength: exponents of two (-log2(10) x spectral density) and weights.
#[derive(Debug, Clone, Copy)]
struct Sample {
    base: f32,
    dyes: [f32; 3],
    weights: [f32; 3],
}

impl DyeStack {
    /// Dyes on a base as weighted by three sensitivities.
    pub fn new(base: &Spectrum, dyes: &[Spectrum; 3], weights: &[Spectrum; 3]) -> Self {
        let exponent = |d: f64| (-d) as f32 * LOG2_OF_10;
        let sample = |i: usize| Sample {
            base: exponent(base.0[i]),
            dyes: [0, 1, 2].map(|k| exponent(dyes[k].0[i])),
            weights: [0, 1, 2].map(|k| weights[k].0[i] as f32),
        };
        Self { samples: (0..SAMPLES).map(sample).collect() }
    }

    /// Dyes on a base as a viewer sees them.
    pub fn viewed(base: &Spectrum, dyes: &[Spectrum; 3], viewer: &Viewer) -> Self {
        Self::new(base, dyes, &viewer.weights)
    }

    /// The three weighted integrals of the transmittance for amounts of cyan, magenta, yellow.
    #[inline(never)]
    pub fn integrate(&self, amounts: [f32; 3]) -> [f32; 3] {
        let mut sum = [0.0f32; 3];
        for s in &self.samples {
            let exponent = s.base + (amounts[0] * s.dyes[0] + amounts[1] * s.dyes[1] + amounts[2] * s.dyes[2]);
            let transmittance = exp2(exponent);
            for (total, weight) in sum.iter_mut().zip(s.weights) {
                *total += transmittance * weight;
            }
        }
        sum
    }

    /// [`DyeStack::integrate`] of a row of amounts, which become the integrals.
    pub fn integrate_row(&self, row: &mut [Row; 3]) {
        integrate_row(&self.samples, row);
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn integrate_row(samples: &[Sample], row: &mut [Row; 3]) {
    let mut sums = [[0.0f32; ROW]; 3];
    for s in samples {
        for i in 0..ROW {
            let exponent = s.base + (row[0][i] * s.dyes[0] + row[1][i] * s.dyes[1] + row[2][i] * s.dyes[2]);
            let transmittance = exp2(exponent);
            sums[0][i] += transmittance * s.weights[0];
            sums[1][i] += transmittance * s.weights[1];
            sums[2][i] += transmittance * s.weights[2];
        }
    }
    *row = sums;
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn clear_is_white_and_single_precision_agrees() {
        let viewer = Viewer::under(&TABLES.d50);
        for v in viewer.see(&Spectrum::ONE) {
            assert!((v - 1.0).abs() < 1e-12);
        }
        let dye = Spectrum::gaussian(545.0, 38.0);
        let dyes = [Spectrum::gaussian(660.0, 50.0), dye, Spectrum::gaussian(446.0, 38.0)];
        let stack = DyeStack::viewed(&(Spectrum::ONE * 0.05), &dyes, &viewer);
        let density = Spectrum::ONE * 0.05 + dyes[0] * 0.3 + dyes[1] * 1.7 + dyes[2] * 0.9;
        let exact = viewer.see(&density.transmittance());
        for (a, b) in stack.integrate([0.3, 1.7, 0.9]).iter().zip(exact) {
            assert!((*a as f64 - b).abs() < 1e-6, "{a} {b}");
        }
        // a row has the bits of its colours
        let amounts: [Row; 3] = std::array::from_fn(|k| std::array::from_fn(|i| 0.05 * (i * (k + 1) % 37) as f32));
        let mut row = amounts;
        stack.integrate_row(&mut row);
        for i in 0..ROW {
            assert_eq!(stack.integrate([0, 1, 2].map(|k| amounts[k][i])), [0, 1, 2].map(|k| row[k][i]));
        }
    }
}
