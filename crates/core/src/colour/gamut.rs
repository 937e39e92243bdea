//! Fitting print colours into the display's gamut.
//!
//! A saturated dye reaches beyond sRGB. One common factor draws the three channels towards the largest, so hue is
//! kept where channel-by-channel compression would turn orange-red into crimson. The knee starts at 86 % of the
//! gamut's depth and maps 125 % onto its edge.

use crate::numeric::runs::{Lane, RUN, each_pixel};
use crate::numeric::{exp2, log2};

const THRESHOLD: f64 = 0.86;
const LIMIT: f64 = 1.25;
const POWER: f64 = 1.4;

fn knee() -> f64 {
    let span = LIMIT - THRESHOLD;
    span / ((((1.0 - THRESHOLD) / span).powf(-POWER) - 1.0).powf(1.0 / POWER))
}

/// Compresses one linear sRGB colour, double precision.
pub fn compress(rgb: [f64; 3]) -> [f64; 3] {
    let largest = rgb[0].max(rgb[1]).max(rgb[2]);
    if largest <= 0.0 {
        return [0.0; 3];
    }
    let depth = rgb.map(|v| (largest - v) / largest);
    let deepest = depth[0].max(depth[1]).max(depth[2]);
    let mut factor = 1.0;
    if deepest > THRESHOLD {
        let t = deepest - THRESHOLD;
        let bent = THRESHOLD + t / (1.0 + (t / knee()).powf(POWER)).powf(1.0 / POWER);
        factor = bent.min(1.0) / deepest;
    }
    depth.map(|d| largest.min(1.0) * (1.0 - d * factor))
}

/// [`compress`] prepared for pixel loops.
#[derive(Debug, Clone, Copy)]
pub struct Compressor {
    per_knee: f32,
}

impl Default for Compressor {
    fn default() -> Self {
        Self { per_knee: (1.0 / knee()) as f32 }
    }
}

impl Compressor {
    /// Linear sRGB within the gamut, white at most 1.
    #[inline(always)]
    pub fn apply(&self, r: f32, g: f32, b: f32) -> [f32; 3] {
        down_to_white(self.unbounded(r, g, b))
    }

    /// The same without bringing what is brighter than white down to it.
    #[inline(always)]
    pub fn unbounded(&self, r: f32, g: f32, b: f32) -> [f32; 3] {
        let (largest, deepest) = depth([r, g, b]);
        drawn([r, g, b], largest, self.factor(deepest))
    }

    /// What the distances from the largest channel are multiplied by.
    #[inline(always)]
    fn factor(&self, deepest: f32) -> f32 {
        let t = (deepest - THRESHOLD as f32).max(1e-6);
        let power = exp2(POWER as f32 * log2(t * self.per_knee));
        let bent = THRESHOLD as f32 + t * exp2((-1.0 / POWER) as f32 * log2(1.0 + power));
        if deepest > THRESHOLD as f32 { bent.min(1.0) / deepest } else { 1.0 }
    }

    /// [`Compressor::unbounded`] of a run of pixels. The knee is computed only where a pixel of the run lies beyond it.
    #[inline(always)]
    pub fn unbounded_run(&self, run: &mut [Lane; 3]) {
        let (mut largest, mut factors) = ([0.0f32; RUN], [0.0f32; RUN]);
        let mut beyond = 0u32;
        for i in 0..RUN {
            (largest[i], factors[i]) = depth([run[0][i], run[1][i], run[2][i]]);
            beyond |= u32::from(factors[i] > THRESHOLD as f32);
        }
        if beyond == 0 {
            factors = [1.0; RUN];
        } else {
            factors.iter_mut().for_each(|v| *v = self.factor(*v));
        }
        for i in 0..RUN {
            [run[0][i], run[1][i], run[2][i]] = drawn([run[0][i], run[1][i], run[2][i]], largest[i], factors[i]);
        }
    }

    /// [`Compressor::apply`] of a run of pixels.
    #[inline(always)]
    pub fn apply_run(&self, run: &mut [Lane; 3]) {
        self.unbounded_run(run);
        each_pixel(run, down_to_white);
    }
}

/// The largest channel, and how far below it the smallest lies, as a share of it.
#[inline(always)]
fn depth([r, g, b]: [f32; 3]) -> (f32, f32) {
    let largest = r.max(g).max(b).max(1e-9);
    (largest, (largest - r.min(g).min(b)) / largest)
}

/// Channels drawn towards the largest.
#[inline(always)]
fn drawn([r, g, b]: [f32; 3], largest: f32, factor: f32) -> [f32; 3] {
    [largest - (largest - r) * factor, largest - (largest - g) * factor, largest - (largest - b) * factor]
}

/// What is brighter than white brought down to it.
#[inline(always)]
fn down_to_white([r, g, b]: [f32; 3]) -> [f32; 3] {
    let largest = r.max(g).max(b).max(1e-9);
    let down = largest.min(1.0) / largest;
    [r * down, g * down, b * down]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn leaves_moderate_colours_alone_and_contains_the_rest() {
        let skin = [0.54, 0.30, 0.22];
        assert_eq!(compress(skin).map(|v| (v * 1e12).round()), skin.map(|v| (v * 1e12).round()));
        for rgb in [[1.4, -0.2, 0.1], [0.2, 0.9, -0.3], [0.05, -0.02, 0.4]] {
            for v in compress(rgb) {
                assert!((0.0..=1.0).contains(&v), "{rgb:?} -> {v}");
            }
        }
    }

    /// A run of pixels has the bits of one after the other, with and without one beyond the knee.
    #[test]
    fn runs_are_their_pixels() {
        let fast = Compressor::default();
        for depth in [0.5, 1.3] {
            let value = |k: usize, i: usize| match i {
                7 => f32::NAN,
                _ => 1.4 - depth * (k * i) as f32 / 126.0,
            };
            let run: [Lane; 3] = std::array::from_fn(|k| std::array::from_fn(|i| value(k, i)));
            let (mut free, mut bound) = (run, run);
            fast.unbounded_run(&mut free);
            fast.apply_run(&mut bound);
            for i in 0..RUN {
                let one = fast.unbounded(run[0][i], run[1][i], run[2][i]);
                let within = fast.apply(run[0][i], run[1][i], run[2][i]);
                for k in 0..3 {
                    assert_eq!(free[k][i].to_bits(), one[k].to_bits(), "{depth} {i}");
                    assert_eq!(bound[k][i].to_bits(), within[k].to_bits(), "{depth} {i}");
                }
            }
        }
    }

    #[test]
    fn single_precision_agrees() {
        let fast = Compressor::default();
        for i in 0..2000 {
            let t = i as f64 / 2000.0;
            let rgb = [1.2 * t, 0.4 - 0.5 * t, 0.3 * (1.0 - t)];
            let exact = compress(rgb);
            let ours = fast.apply(rgb[0] as f32, rgb[1] as f32, rgb[2] as f32);
            for (a, b) in ours.iter().zip(exact) {
                assert!((*a as f64 - b).abs() < 2e-6, "{rgb:?}: {a} {b}");
            }
        }
    }
}
