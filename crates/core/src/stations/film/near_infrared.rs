//! Exposure by near infrared, which a camera picture does not hold: an estimate from its colours.
//!
//! The slope of the spectrum from blue to red is carried on past red (skies and water go dark, skin pale), and leaves,
//! found by their excess green (Woebbecke 1995), shine. Neutrals keep their light exactly. RGB cannot tell green paint
//! from leaves. Constants are model choices.

use crate::numeric::{exp2, log2};
use crate::stock::NearInfrared;

/// Excess of green over blue at which leaves begin and are certain.
const GREEN_OVER_BLUE: (f32, f32) = (0.65, 1.30);
/// Luminance at which the colour of a leaf is half believed: near black it is noise.
const BELIEVED_FROM: f32 = 0.012;
const FLOOR: f32 = 1e-6;

/// The estimate, prepared for pixel loops.
#[derive(Debug, Clone, Copy)]
pub struct InfraredEstimate {
    share: f32,
    slope: f32,
    limits: (f32, f32),
    leaf: (f32, f32),
    leaf_gain: f32,
}

#[inline(always)]
fn step(value: f32, from: f32, to: f32) -> f32 {
    let t = ((value - from) / (to - from)).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

impl InfraredEstimate {
    /// For a film that sees beyond red.
    pub fn new(nir: &NearInfrared) -> Self {
        Self {
            share: nir.share as f32,
            slope: nir.slope as f32,
            limits: (nir.min as f32, nir.max as f32),
            leaf: (nir.leaf[0] as f32, nir.leaf[1] as f32),
            leaf_gain: nir.leaf_gain as f32,
        }
    }

    /// Near infrared of linear sRGB scene light before exposure.
    #[inline(always)]
    pub fn near_infrared(&self, rgb: [f32; 3]) -> f32 {
        let [r, g, b] = rgb.map(|v| v.max(FLOOR));
        let y = 0.2126 * r + 0.7152 * g + 0.0722 * b;
        let slope = exp2(self.slope * log2(r / b)).clamp(self.limits.0, self.limits.1);
        let excess_green = (2.0 * g - r - b) / (r + g + b);
        let leaf = step(excess_green, self.leaf.0, self.leaf.1)
            * step(g / b, GREEN_OVER_BLUE.0, GREEN_OVER_BLUE.1)
            * (y / (y + BELIEVED_FROM));
        r * slope * (1.0 - leaf) + self.leaf_gain * y * leaf
    }

    /// Layer exposure: visible and infrared light in their shares.
    #[inline(always)]
    pub fn mix(&self, visible: f32, infrared: f32) -> f32 {
        (1.0 - self.share) * visible + self.share * infrared
    }
}
