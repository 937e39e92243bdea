//! Light round a corner of the film gate: a fan of streaks that dies away from the corner.

use multiversion::multiversion;

use super::{Ask, Made, brightness, exp};
use crate::numeric::runs::{Lane, RUN};
use crate::numeric::{exp2, log2};
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::{Points, Window};

/// Steps of the streaks' profile over a quarter turn, as they are thrown and as they are read.
const THROWN: usize = 180;
const STEPS: usize = 360;

struct Corner {
    at: [f32; 2],
    inward: [f32; 2],
    reach: f32,
    streaks: [f32; STEPS + 1],
    shine: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    let inward = [dice.side(), dice.side()];
    let reach = ask.size * dice.between(5_000.0, 10_000.0);
    // broad shafts, and fine ones within them
    let mut thrown = [0.0f32; THROWN];
    for (width, weight) in [(16.0f32, 0.8f32), (6.0, 0.55), (2.0, 0.22)] {
        let knots: Vec<f32> = (0..THROWN + 2).map(|_| dice.normal()).collect();
        for (k, v) in thrown.iter_mut().enumerate() {
            let at = k as f32 / width;
            let (left, share) = (at as usize, at.fract());
            let share = share * share * (3.0 - 2.0 * share);
            *v += weight * (knots[left] + share * (knots[left + 1] - knots[left]));
        }
    }
    let at = [-inward[0] * ask.half[0], -inward[1] * ask.half[1]];
    let bright = thrown.map(|s| libm::expf(0.75 * s));
    // read by the share of the way down in down and along, which needs no arc tangent
    let streaks = std::array::from_fn(|k| {
        let way = k as f32 / STEPS as f32;
        let at = libm::atan2f(way, 1.0 - way) * ((THROWN - 1) as f32 / std::f32::consts::FRAC_PI_2);
        let left = (at as usize).min(THROWN - 2);
        bright[left] + (at - left as f32) * (bright[left + 1] - bright[left])
    });
    Box::new(Corner { at, inward, reach, streaks, shine: brightness(ask) })
}

/// How far the places of a run are from the corner, which way (0 along the one side, 1 along the other), and how bright
/// it is there.
struct Fan {
    far: Lane,
    way: Lane,
    glow: Lane,
}

#[multiversion(targets("x86_64+avx2"))]
fn fan(corner: &Corner, points: &Points, out: &mut Fan) {
    for i in 0..RUN {
        let along = (corner.inward[0] * (points.u[i] - corner.at[0])).max(0.0);
        let down = (corner.inward[1] * (points.v[i] - corner.at[1])).max(0.0);
        let r = (along * along + down * down).sqrt() / corner.reach;
        out.far[i] = r;
        out.way[i] = down / (down + along.max(1.0));
        // 5 exp(-r^1.15) / (1 + 0.15 r)
        out.glow[i] = 5.0 * exp(-exp2(1.15 * log2(r.max(1e-6)))) / (1.0 + 0.15 * r);
    }
}

impl Corner {
    /// The streaks of a way.
    fn streak(&self, way: f32) -> f32 {
        let at = (way * STEPS as f32).clamp(0.0, STEPS as f32);
        let left = (at as usize).min(STEPS - 1);
        self.streaks[left] + (at - left as f32) * (self.streaks[left + 1] - self.streaks[left])
    }
}

impl Made for Corner {
    fn over(&self, window: &Window) -> Matter {
        let mut at = Fan { far: [0.0; RUN], way: [0.0; RUN], glow: [0.0; RUN] };
        let light = window.smooth(60.0, |points, lane| {
            fan(self, points, &mut at);
            for (i, light) in lane.iter_mut().enumerate() {
                // the streaks grow out of an even glow
                let drawn = (1.6 * at.far[i]).min(1.0);
                *light = self.shine * 0.5 * at.glow[i] * (1.0 + drawn * (self.streak(at.way[i]) - 1.0));
            }
        });
        Stuff::Light(light).into()
    }
}
