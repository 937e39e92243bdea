//! Mottle: slow blotches in the density of an old film.
//!
//! Each layer has noise of its own and a part in common; thin parts show it most. A model choice.

use std::sync::Arc;

use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::numeric::NoiseLayer;
use crate::numeric::value_noise::ValueNoise;
use crate::picture::buffer::LayerDensity;
use crate::picture::{Picture, Region};
use crate::stations::film::FilmResponse;
use crate::stock::Mottle;

/// Weight of the second octave and how much finer it is.
const SECOND: (f32, f64) = (0.6, 3.7);
const FIRST_WEIGHT: f32 = 0.8;
/// Density above fog at which the mottle has fallen off, and how far it falls.
const FALL: (f32, f32) = (1.5, 0.6);

/// Noise of two octaves with unit variance: that of a film layer, or what they have in common.
fn octaves(seed: u64, layer: Option<u8>, pitch_um: f64) -> [(f32, ValueNoise); 2] {
    let of = |octave: u8| match layer {
        Some(layer) => NoiseLayer::Mottle { layer, octave },
        None => NoiseLayer::MottleInCommon { octave },
    };
    [
        (FIRST_WEIGHT, ValueNoise::new(seed, of(0), pitch_um)),
        (SECOND.0, ValueNoise::new(seed, of(1), pitch_um / SECOND.1)),
    ]
}

/// The mottle of one stock at one pitch.
#[derive(Debug, Clone)]
pub struct MottleStage {
    mottle: Mottle,
    film: Arc<FilmResponse>,
    seed: u64,
    /// Micrometres per pixel.
    pitch_um: f64,
}

impl MottleStage {
    /// `None` for films without.
    pub fn new(film: Arc<FilmResponse>, seed: u32, pitch_um: f64) -> Option<Self> {
        let mottle = film.stock.mottle.clone()?;
        Some(Self { mottle, film, seed: u64::from(seed), pitch_um })
    }
}

impl Effect<LayerDensity> for MottleStage {
    fn key(&self) -> Key {
        key(&[&"mottle", &self.mottle, &self.seed, &self.pitch_um])
    }

    fn apply(&self, _frame: &FilmFrame, mut density: Picture<LayerDensity>, region: Region) -> Picture<LayerDensity> {
        let width = region.width as usize;
        let common = octaves(self.seed, None, self.mottle.pitch_um);
        // the two weights' squares sum to one: unit variance
        let shared = self.mottle.common;
        let own = (1.0 - shared * shared).sqrt();
        let mut row = vec![0.0f32; width];
        for y in 0..region.height {
            let y_um = (f64::from(region.y + y) + 0.5) * self.pitch_um;
            let x_um = (f64::from(region.x) + 0.5) * self.pitch_um;
            for (index, curve) in self.film.curves.iter().enumerate() {
                row.fill(0.0);
                for (weight, noise) in &common {
                    noise.add_row(weight * shared as f32, x_um, y_um, self.pitch_um, &mut row);
                }
                for (weight, noise) in &octaves(self.seed, Some(index as u8), self.mottle.pitch_um) {
                    noise.add_row(weight * own as f32, x_um, y_um, self.pitch_um, &mut row);
                }
                let amp = self.mottle.amp[index.min(2)] as f32;
                let (dmin, dmax) = (curve.shape.dmin as f32, curve.shape.dmax as f32);
                let start = y as usize * width;
                for (d, n) in density.plane_mut(index)[start..start + width].iter_mut().zip(&row) {
                    let thin = 1.0 - FALL.1 * ((*d - dmin) / FALL.0).clamp(0.0, 1.0);
                    *d = (*d + amp * n * thin).clamp(dmin, dmax);
                }
            }
        }
        density
    }
}

/// The common and the own noise of a layer at a place, for checks.
pub fn noise_at(seed: u32, layer: Option<u8>, pitch_um: f64, x_um: f64, y_um: f64) -> f32 {
    octaves(u64::from(seed), layer, pitch_um).iter().map(|(w, n)| w * n.at(x_um, y_um)).sum()
}
