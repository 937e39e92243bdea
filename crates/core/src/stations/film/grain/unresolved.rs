//! The grain that a reduced render does not show.
//!
//! The print's curve is not straight, so the mean tone of a print depends on how much grain is resolved. A reduced
//! render prints through a table that is smoothed by what it does not resolve, and so keeps the tones of the full one.

use std::f64::consts::LN_10;

use super::covariance::Emulsion;
use super::stage::{layer_shape, zone_weight};
use crate::memory::Memory;
use crate::numeric::parallel::made_of;
use crate::prepare::Kept;
use crate::stations::film::FilmResponse;
use crate::stations::film::settings::FilmSettings;

const SAMPLES: usize = 33;
const HIGHEST_DENSITY: f64 = 4.4;

/// Standard deviation of layer density between the full size and a smaller scale, by layer and density.
#[derive(Debug, Clone)]
pub struct UnresolvedGrain {
    layers: Vec<Vec<f64>>,
}

impl Kept for Option<UnresolvedGrain> {
    /// About.
    fn bytes(&self) -> usize {
        2_000
    }

    fn share(memory: &Memory) -> usize {
        memory.missing_grains
    }
}

impl UnresolvedGrain {
    /// `shown_pitch_um` is the pitch at which grain is rendered, or `None` when it is left out altogether; roughly
    /// for a picture in motion.
    ///
    /// Returns `None` when nothing is missing.
    pub fn new(
        settings: &FilmSettings,
        film: &FilmResponse,
        full_pitch_um: f64,
        shown_pitch_um: Option<f64>,
        rough: bool,
    ) -> Option<Self> {
        let complete = shown_pitch_um.is_some_and(|p| p <= full_pitch_um * 1.001);
        if settings.granularity <= 0.0 || complete {
            return None;
        }
        let layers = made_of(film.layers(), &|index| {
            let shape = layer_shape(film, settings, index);
            let emulsion = if rough { Emulsion::roughly(shape) } else { Emulsion::new(shape) }.reading_as_stated();
            let full = emulsion.of_single_pixels(full_pitch_um);
            let shown = shown_pitch_um.map(|p| emulsion.of_single_pixels(p));
            let weights = &settings.zone_weights;
            let step = HIGHEST_DENSITY / (SAMPLES - 1) as f64;
            let sigma = |i: usize| {
                let d = step * i as f64;
                let w = zone_weight(weights, &film.curves[index], d).powi(2);
                let seen = shown.as_ref().map_or(0.0, |s| (s.relative_variance(d) * w).ln_1p());
                ((full.relative_variance(d) * w).ln_1p() - seen).max(0.0).sqrt() / LN_10
            };
            made_of(SAMPLES, &sigma)
        });
        Some(Self { layers })
    }

    /// Standard deviation of a layer's density at a density.
    pub fn sigma(&self, layer: usize, density: f64) -> f64 {
        let last = (SAMPLES - 1) as f64;
        let u = (density / HIGHEST_DENSITY * last).clamp(0.0, last);
        let i = (u as usize).min(SAMPLES - 2);
        let samples = &self.layers[layer];
        samples[i] + (samples[i + 1] - samples[i]) * (u - i as f64)
    }
}
