//! Halation: light that passes the emulsion and is thrown back by the base, before the curve.
//!
//! E_l += h_l max(0, K*src_l - src_l), src_l = E_l (1 + boost w), where w says how surely a pixel is a lamp that the
//! camera clipped (from the decoded source, so more exposure does not make lamps of walls) and K is a sum of three
//! Gaussians of 35, 120 and 300 um on the film. Uniform fields stay as they are and the inside of a lamp does not
//! darken. The red-sensitive layer lies nearest to the base: the fringe is red to orange. Kernel and boost are model
//! choices.

mod glow;
mod haloing;

pub use glow::Glow;
pub use haloing::Haloing;

use multiversion::multiversion;

use super::settings::HalationSettings;
use crate::numeric::runs::RUN;
use crate::numeric::smooth::smoothstep;
use crate::picture::buffer::LayerExposure;
use crate::picture::source::{code_range, linear_of_code};
use crate::picture::{Picture, Region, Source};
use crate::stock::Stock;

/// Standard deviations of the kernel's parts relative to the inner one: 35, 120, 300 um.
pub const SPREADS: [f64; 3] = [1.0, 120.0 / 35.0, 300.0 / 35.0];
/// Weights of the two inner parts relative to one another.
const INNER_WEIGHTS: [f64; 2] = [0.42, 0.36];
/// Width of the step in which a bright source becomes a lamp, relative to what is left above the threshold.
const LAMP_AT: f64 = 1.0;
/// Differences below this share are rounding.
const ROUNDING: f32 = 4e-6;

/// Halation of a film with its settings.
#[derive(Debug, Clone, PartialEq)]
pub struct Halation {
    /// By layer.
    strength: Vec<f32>,
    boost: f32,
    threshold: f64,
    guard: f32,
    /// Standard deviation in um and weight of the kernel's parts.
    pub kernel: [(f64, f64); 3],
    /// Lamp weight by source code.
    lamp: Vec<f32>,
}

impl Halation {
    /// `None` when no light comes back.
    pub fn new(stock: &Stock, settings: &HalationSettings) -> Option<Self> {
        if settings.strength <= 0.0 {
            return None;
        }
        let own = &stock.halation.strength;
        let ratio = |layer: usize| match (layer, settings.tint) {
            (0, _) => 1.0,
            (1, Some(tint)) => tint,
            _ if own[0] > 0.0 => own[layer] / own[0],
            _ => 0.0,
        };
        let inner: f64 = INNER_WEIGHTS.iter().sum();
        let near = |k: usize| (1.0 - settings.far_share) * INNER_WEIGHTS[k] / inner;
        let lamp = linear_of_code()
            .iter()
            .map(|v| smoothstep(f64::from(*v), settings.threshold, LAMP_AT.max(settings.threshold + 0.01)) as f32)
            .collect();
        Some(Self {
            strength: (0..own.len()).map(|l| (settings.strength * ratio(l)) as f32).collect(),
            boost: stock.halation.boost as f32,
            threshold: settings.threshold,
            guard: settings.guard as f32,
            kernel: [
                (settings.radius_um * SPREADS[0], near(0)),
                (settings.radius_um * SPREADS[1], near(1)),
                (settings.radius_um * SPREADS[2], settings.far_share),
            ],
            lamp,
        })
    }

    /// Everything that the glow depends on, for keys.
    pub fn key(&self) -> impl std::fmt::Debug {
        (self.strength.clone(), self.boost, self.threshold, self.kernel)
    }

    /// The layers that take up light from the base.
    pub fn layers(&self) -> impl Iterator<Item = usize> {
        self.strength.iter().enumerate().filter(|(_, s)| **s > 0.0).map(|(i, _)| i)
    }

    /// Factor by which each pixel's exposure counts as a source: 1, and more for lamps. `None` where all are 1.
    fn source_gain(&self, source: &Source, region: Region) -> Option<Vec<f32>> {
        // lamps are few: where nothing is bright enough, nothing is looked up
        let may_lamp = |highest: u16| self.lamp[usize::from(highest)] > 0.0;
        let is_lit = |y: &u32| may_lamp(source.highest_code(*y, region.x, region.width));
        let rows = region.y..region.bottom();
        if self.boost == 0.0 || !rows.clone().any(|y| is_lit(&y)) {
            return None;
        }
        let mut out = vec![1.0; region.pixels()];
        for (gains, y) in out.chunks_mut(region.width as usize).zip(rows).filter(|(_, y)| is_lit(y)) {
            let row = source.row(y, region.x, region.width);
            let is_lit = |codes: &[u16]| may_lamp(code_range(codes)[1]);
            for (gains, codes) in gains.chunks_mut(RUN).zip(row.chunks(3 * RUN)).filter(|(_, codes)| is_lit(codes)) {
                for (gain, p) in gains.iter_mut().zip(codes.chunks_exact(3)) {
                    *gain = 1.0 + self.boost * self.lamp[p[0].max(p[1]).max(p[2]) as usize];
                }
            }
        }
        Some(out)
    }

    /// Light that the layers get back, by layer (empty where a layer gets none).
    pub fn returned(&self, glow: &Glow, source: &Source, exposure: &Picture<LayerExposure>) -> Vec<Vec<f32>> {
        let region = exposure.region;
        let gain = self.source_gain(source, region);
        let guard = match exposure.planes() {
            [r, g, b] if self.guard > 0.0 => guarded(self.guard, [r, g, b]),
            _ => Vec::new(),
        };
        (0..exposure.plane_count())
            .map(|layer| {
                let strength = self.strength[layer];
                if strength <= 0.0 {
                    return Vec::new();
                }
                let mut light = glow.read(layer, region);
                let lamps = glow.lamps(layer, region);
                let plane = exposure.plane(layer);
                if gain.is_none() && lamps.is_empty() {
                    give_back(strength, plane, &mut light);
                } else {
                    let mut given = plane.to_vec();
                    given.iter_mut().zip(gain.iter().flatten()).for_each(|(e, gain)| *e *= gain);
                    lamps.into_iter().for_each(|(at, lamp)| given[at] = lamp);
                    give_back(strength, &given, &mut light);
                }
                light.iter_mut().zip(&guard).for_each(|(k, share)| *k *= share);
                light
            })
            .collect()
    }
}

/// What of the spread light comes back beyond what a pixel gave itself.
#[multiversion(targets("x86_64+avx2"))]
fn give_back(strength: f32, given: &[f32], light: &mut [f32]) {
    for (k, src) in light.iter_mut().zip(given) {
        *k = strength * (*k - src - ROUNDING * src).max(0.0);
    }
}

/// The share that blues keep of what comes back.
#[multiversion(targets("x86_64+avx2"))]
fn guarded(guard: f32, [red, green, blue]: [&[f32]; 3]) -> Vec<f32> {
    let share = |((r, g), b): ((&f32, &f32), &f32)| 1.0 - guard * ((b / (r + g + b) - 0.36) * 8.0).clamp(0.0, 1.0);
    red.iter().zip(green).zip(blue).map(share).collect()
}
