//! Uneven development: the bath worked more here, less there.
//!
//! Development multiplies the density above fog (on a slide, what development took away from the greatest density) by
//! 1 + u n(x, y): n is slow noise of two octaves, the longer a third of the frame, plus streaks along the short side
//! and an edge term that dies away within a few millimetres. A model choice.

use std::sync::Arc;

use super::settings::UnevenSettings;
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::numeric::NoiseLayer;
use crate::numeric::value_noise::ValueNoise;
use crate::picture::buffer::LayerDensity;
use crate::picture::{FilmGeometry, Picture, Region};
use crate::stations::film::FilmResponse;

/// Change of density for an amount of 1 and one standard deviation of noise.
const FULL_AMOUNT: f32 = 0.22;
const FULL_STREAKS: f32 = 0.18;
const FULL_EDGES: f32 = 0.45;
/// Length over which the edge term falls to 1/e, relative to the short side.
const EDGE_REACH: f64 = 0.06;
/// Width and length of streaks relative to the short side.
const STREAK: [f64; 2] = [0.045, 1.6];
/// Density cannot be multiplied by less or more than this.
const LIMITS: (f32, f32) = (0.2, 1.8);

/// Prepared for one frame at one pitch.
#[derive(Debug, Clone)]
pub struct UnevenStage {
    settings: UnevenSettings,
    film: Arc<FilmResponse>,
    geometry: FilmGeometry,
    seed: u64,
}

impl UnevenStage {
    /// `None` when development is even.
    pub fn new(
        settings: &UnevenSettings,
        film: Arc<FilmResponse>,
        frame_seed: u32,
        geometry: FilmGeometry,
    ) -> Option<Self> {
        let even = settings.amount == 0.0 && settings.streaks == 0.0 && settings.edges == 0.0;
        let seed = u64::from(frame_seed) ^ (u64::from(settings.seed) << 32);
        (!even).then(|| Self { settings: settings.clone(), film, geometry, seed })
    }
}

impl Effect<LayerDensity> for UnevenStage {
    fn key(&self) -> Key {
        key(&[&"uneven", &self.settings, &self.seed, &self.geometry])
    }

    fn apply(&self, _frame: &FilmFrame, mut density: Picture<LayerDensity>, region: Region) -> Picture<LayerDensity> {
        let width = region.width as usize;
        let pitch = self.geometry.pitch_um;
        let (wide, high) = (f64::from(self.geometry.width) * pitch, f64::from(self.geometry.height) * pitch);
        let (long, short) = (wide.max(high), wide.min(high));
        let slow = ValueNoise::new(self.seed, NoiseLayer::Uneven(0), long / 3.0);
        let faster = ValueNoise::new(self.seed, NoiseLayer::Uneven(1), long / 7.5);
        let along_y = wide >= high;
        let streak = if along_y { STREAK } else { [STREAK[1], STREAK[0]] };
        let streaks = ValueNoise { seed: self.seed, layer: NoiseLayer::Uneven(2), pitch_um: streak.map(|s| s * short) };
        let reach = EDGE_REACH * short;
        let s = &self.settings;
        let near = |from: f64| (-from / reach).exp();
        let x_of = |k: usize| (f64::from(region.x) + 0.5 + k as f64) * pitch;
        let sides: Vec<f64> = (0..width).map(|k| near(x_of(k).min(wide - x_of(k)))).collect();
        let mut row = vec![0.0f32; width];
        for y in 0..region.height {
            let y_um = (f64::from(region.y + y) + 0.5) * pitch;
            let x_um = (f64::from(region.x) + 0.5) * pitch;
            row.fill(0.0);
            slow.add_row(s.amount as f32 * FULL_AMOUNT * 0.8, x_um, y_um, pitch, &mut row);
            faster.add_row(s.amount as f32 * FULL_AMOUNT * 0.6, x_um, y_um, pitch, &mut row);
            if s.streaks > 0.0 {
                streaks.add_row(s.streaks as f32 * FULL_STREAKS, x_um, y_um, pitch, &mut row);
            }
            if s.edges != 0.0 {
                let here = near(y_um.min(high - y_um));
                for (n, side) in row.iter_mut().zip(&sides) {
                    *n += s.edges as f32 * FULL_EDGES * (side + here).min(1.0) as f32;
                }
            }
            let start = y as usize * width;
            for (index, curve) in self.film.curves.iter().enumerate() {
                let (dmin, dmax) = (curve.shape.dmin as f32, curve.shape.dmax as f32);
                for (d, n) in density.plane_mut(index)[start..start + width].iter_mut().zip(&row) {
                    let factor = (1.0 + n).clamp(LIMITS.0, LIMITS.1);
                    let changed =
                        if curve.reversal { dmax - (dmax - *d) * factor } else { dmin + (*d - dmin) * factor };
                    *d = changed.clamp(dmin, dmax);
                }
            }
        }
        density
    }
}
