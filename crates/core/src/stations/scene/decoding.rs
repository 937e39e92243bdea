//! Decoding: from what a camera has rendered back to light.
//!
//! A camera picture has a shoulder and a display contrast. Near-white values regain `headroom` stops (on luminance,
//! so hue is kept), the exact inverse of a rational shoulder with slope 1 at v0; then an exponent per channel takes
//! the camera's contrast back. Model choices, stated in linear sRGB. Colours outside sRGB are split into a colour on
//! the gamut's edge and a grey, both decoded, and the split undone, so wide-gamut colours survive.

use multiversion::multiversion;

use crate::colour::space::SRGB_LUMINANCE;
use crate::numeric::runs::{Lane, each, each_pixel};
use crate::numeric::{exp2, log2};
use crate::picture::source::{CODES, linear_of_code};

/// Luminance from which the highlights are expanded.
pub(super) const EXPANSION_FROM: f64 = 0.50;
/// Light of mid grey, kept by the exponent.
const MID_GREY: f64 = 0.18;
/// Below this linear value a channel counts as 0 in the exponent.
const SMALLEST: f32 = 1e-9;

/// Decoding prepared for pixel loops.
#[derive(Debug, Clone, Copy)]
pub struct Decoding {
    kappa: f32,
    exponent: f32,
    log2_grey: f32,
}

impl Decoding {
    /// `headroom_stops` that encoded white regains (0..2); `rendering_exponent` q, 1 leaves the contrast.
    pub fn new(headroom_stops: f64, rendering_exponent: f64) -> Self {
        let white = 2f64.powf(headroom_stops);
        Self {
            kappa: (1.0 - (1.0 - EXPANSION_FROM) / (white - EXPANSION_FROM)) as f32,
            exponent: rendering_exponent as f32,
            log2_grey: MID_GREY.log2() as f32,
        }
    }

    #[inline(always)]
    fn power(&self, v: f32) -> f32 {
        let lifted = exp2(self.log2_grey + self.exponent * (log2(v.max(SMALLEST)) - self.log2_grey));
        if v > SMALLEST { lifted } else { 0.0 }
    }

    /// Scene light of one pixel of linear sRGB, unbounded.
    #[inline(always)]
    pub fn apply(&self, rgb: [f32; 3]) -> [f32; 3] {
        let [r, g, b] = rgb;
        let w = SRGB_LUMINANCE.map(|v| v as f32);
        let y = w[0] * r + w[1] * g + w[2] * b;
        let from = EXPANSION_FROM as f32;
        let u = (y - from) * (1.0 / (1.0 - EXPANSION_FROM)) as f32;
        // the pole lies at u = 1/kappa >= 1; luminance above 1 comes only from wide-gamut rounding
        let expanded = from + (y - from) / (1.0 - self.kappa * u.min(1.0));
        let gain = if y > from { expanded / y } else { 1.0 };
        let (r, g, b, y) = (r * gain, g * gain, b * gain, y * gain);
        let lowest = r.min(g).min(b);
        // inside the gamut share = 1 and the split is the identity
        let share = if lowest < 0.0 { y.max(0.0) / (y.max(0.0) - lowest) } else { 1.0 };
        let grey = self.power(y);
        let per_share = 1.0 / share.max(1e-3);
        let channel = |v: f32| {
            let inside = self.power(y + share * (v - y));
            if lowest < 0.0 { grey + (inside - grey) * per_share } else { inside }
        };
        [channel(r), channel(g), channel(b)]
    }
}

impl Decoding {
    /// Decoded light of a channel that is not expanded, by source code.
    pub fn powers(&self) -> Box<[f32; CODES]> {
        let mut table = Box::new([0.0; CODES]);
        powers_of(self, linear_of_code().as_slice(), table.as_mut_slice());
        table
    }

    /// Factor of a pixel's powers by which its expansion counts: a power of a product is the product of powers.
    #[inline(always)]
    pub fn power_of_gain(&self, y: f32) -> f32 {
        let from = EXPANSION_FROM as f32;
        let u = (y - from) * (1.0 / (1.0 - EXPANSION_FROM)) as f32;
        let expanded = from + (y - from) / (1.0 - self.kappa * u.min(1.0));
        let gain = exp2(self.exponent * log2(expanded / y.max(from)));
        if y > from { gain } else { 1.0 }
    }

    /// The way back: the plain picture (linear sRGB) of scene light in linear sRGB. Light outside sRGB is clipped.
    #[inline(always)]
    pub fn render(&self, light: [f32; 3]) -> [f32; 3] {
        self.bent([self.contrast_back(light[0]), self.contrast_back(light[1]), self.contrast_back(light[2])])
    }

    /// [`Decoding::render`] of a run of pixels.
    #[inline(always)]
    pub fn render_run(&self, run: &mut [Lane; 3]) {
        run.iter_mut().for_each(|lane| each(lane, |v| self.contrast_back(v)));
        each_pixel(run, |rgb| self.bent(rgb));
    }

    #[inline(always)]
    fn contrast_back(&self, v: f32) -> f32 {
        let contrast = 1.0 / self.exponent;
        let raised = exp2(self.log2_grey + contrast * (log2(v.max(SMALLEST)) - self.log2_grey));
        if v > SMALLEST { raised } else { 0.0 }
    }

    /// The shoulder on luminance.
    #[inline(always)]
    fn bent(&self, [r, g, b]: [f32; 3]) -> [f32; 3] {
        let w = SRGB_LUMINANCE.map(|v| v as f32);
        let y = w[0] * r + w[1] * g + w[2] * b;
        let from = EXPANSION_FROM as f32;
        let above = (y - from).max(0.0);
        let bent = from + above / (1.0 + self.kappa * above * (1.0 / (1.0 - EXPANSION_FROM)) as f32);
        let gain = if y > from { bent / y } else { 1.0 };
        [r * gain, g * gain, b * gain]
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn powers_of(decoding: &Decoding, linear: &[f32], powers: &mut [f32]) {
    powers.iter_mut().zip(linear).for_each(|(out, v)| *out = decoding.power(*v));
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn grey_stays_and_white_gains_its_headroom() {
        let plain = Decoding::new(1.0, 1.0);
        for v in plain.apply([1.0; 3]) {
            assert!((v - 2.0).abs() < 1e-5);
        }
        for v in Decoding::new(1.0, 0.85).apply([0.18; 3]) {
            assert!((v - 0.18).abs() < 1e-6);
        }
        let neutral = Decoding::new(0.0, 1.0).apply([0.9, 0.2, 0.05]);
        for (a, b) in neutral.iter().zip([0.9, 0.2, 0.05]) {
            assert!((a - b).abs() < 1e-6);
        }
    }

    #[test]
    fn colours_beyond_srgb_stay_beyond_it() {
        let decoded = Decoding::new(1.0, 0.85).apply([0.6, -0.03, 0.02]);
        assert!(decoded[1] < 0.0 && decoded[0] > 0.4, "{decoded:?}");
        assert!(decoded.iter().all(|v| v.is_finite()));
    }

    #[test]
    fn expansion_is_continuous() {
        let decoding = Decoding::new(1.5, 1.0);
        let (below, above) = (decoding.apply([0.4999; 3])[0], decoding.apply([0.5001; 3])[0]);
        assert!((above - below - 0.0002).abs() < 1e-5);
    }

    #[test]
    fn rendering_is_the_way_back() {
        let decoding = Decoding::new(1.0, 0.85);
        for rgb in [[0.18, 0.18, 0.18], [0.9, 0.7, 0.6], [0.02, 0.3, 0.1], [1.0, 1.0, 1.0]] {
            for (a, b) in decoding.render(decoding.apply(rgb)).iter().zip(rgb) {
                assert!((a - b).abs() < 1e-5, "{rgb:?}");
            }
        }
    }

    /// The plain picture of a run has the bits of its pixels, below black and above white too.
    #[test]
    fn runs_are_rendered_as_their_pixels() {
        let decoding = Decoding::new(1.0, 0.85);
        let light: [Lane; 3] = std::array::from_fn(|k| std::array::from_fn(|i| (i * (k + 1)) as f32 / 70.0 - 0.05));
        let mut run = light;
        decoding.render_run(&mut run);
        for i in 0..run[0].len() {
            assert_eq!(decoding.render([0, 1, 2].map(|k| light[k][i])), [0, 1, 2].map(|k| run[k][i]), "{i}");
        }
    }
}
