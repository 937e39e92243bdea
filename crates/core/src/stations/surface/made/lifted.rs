//! Emulsion that came loose at the edges: flakes are gone, and where one begins it curls, bright on its rim and dark in
//! its shadow.

use super::{Ask, Made};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::Window;

/// Lattices of the flakes' outline.
const OUTLINE_UM: [f32; 3] = [6_500.0, 2_400.0, 500.0];
const WEIGHTS: [f32; 3] = [1.0, 0.62, 0.12];
/// How wide a curled rim and its shadow are.
const RIM_UM: f32 = 110.0;

struct Lifted {
    half: [f32; 2],
    depth: f32,
    outline: [PlaneNoise; 3],
    cracks: PlaneNoise,
    size: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    Box::new(Lifted {
        half: ask.half,
        depth: 1_500.0 * ask.size * (0.25 + 1.5 * ask.amount),
        outline: OUTLINE_UM.map(|pitch| PlaneNoise::new(dice.seed(), pitch * ask.size)),
        cracks: PlaneNoise::oblong(dice.seed(), [900.0 * ask.size, 240.0 * ask.size]),
        size: ask.size,
    })
}

impl Lifted {
    /// Above 0 where the emulsion is gone: how far within the gap, roughly in micrometres.
    fn gone(&self, u: f32, v: f32) -> f32 {
        let from = (self.half[0] - u.abs()).min(self.half[1] - v.abs());
        if from > 3.4 * self.depth + 8.0 * RIM_UM * self.size {
            return -from;
        }
        let noise: f32 = (0..3).map(|k| WEIGHTS[k] * self.outline[k].at(u, v)).sum();
        (self.depth * (noise - 0.25) - from) * 0.45
    }

    /// Density of the curl and its shadow: the light comes from the upper left, and the border faces it or not.
    fn shade(&self, u: f32, v: f32) -> f32 {
        let rim = RIM_UM * self.size;
        let here = self.gone(u, v);
        if here < -8.0 * rim || here > 6.0 * rim {
            return 0.0;
        }
        let slope = self.gone(u + 40.0, v + 30.0) - self.gone(u - 40.0, v - 30.0);
        let facing = (slope / 60.0).clamp(-1.0, 1.0);
        let curl = if here < 0.0 { smooth_share(1.0 + here / rim) } else { 0.0 };
        let shadow = if here > 0.0 { smooth_share(1.0 - here / (1.6 * rim)) } else { 0.0 };
        let brittle = smooth_share(self.cracks.at(u, v) - 0.6) * smooth_share(1.0 + here / (6.0 * rim));
        curl * (0.18 - 0.30 * facing) + 0.24 * shadow * (0.6 + 0.4 * facing) + 0.05 * brittle
    }
}

impl Made for Lifted {
    fn over(&self, window: &Window) -> Matter {
        let soft = window.pixel_um().max(12.0);
        let step = 24.0 * self.size;
        let gone = window.smooth(step, |points, lane| {
            for (i, out) in lane.iter_mut().enumerate() {
                *out = self.gone(points.u[i], points.v[i]);
            }
        });
        let shade = window.smooth(step, |points, lane| {
            for (i, out) in lane.iter_mut().enumerate() {
                *out = self.shade(points.u[i], points.v[i]);
            }
        });
        let share = gone.into_iter().map(|g| (g / soft + 0.5).clamp(0.0, 1.0)).collect();
        Matter::from(Stuff::Veil { density: shade, tint: [1.0; 3] }).bared(share)
    }
}
