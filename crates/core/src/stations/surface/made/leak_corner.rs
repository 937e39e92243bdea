//! Light round a corner of the film gate: a fan of streaks that dies away from the corner.

use super::{Ask, Made, brightness, exp};
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::Window;

/// Steps of the streaks' profile over a quarter turn.
const STEPS: usize = 180;

struct Corner {
    at: [f32; 2],
    inward: [f32; 2],
    reach: f32,
    streaks: [f32; STEPS],
    shine: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    let inward = [dice.side(), dice.side()];
    let reach = ask.size * dice.between(5_000.0, 10_000.0);
    // broad shafts, and fine ones within them
    let mut streaks = [0.0f32; STEPS];
    for (width, weight) in [(16.0f32, 0.8f32), (6.0, 0.55), (2.0, 0.22)] {
        let knots: Vec<f32> = (0..STEPS + 2).map(|_| dice.normal()).collect();
        for (k, v) in streaks.iter_mut().enumerate() {
            let at = k as f32 / width;
            let (left, share) = (at as usize, at.fract());
            let share = share * share * (3.0 - 2.0 * share);
            *v += weight * (knots[left] + share * (knots[left + 1] - knots[left]));
        }
    }
    let at = [-inward[0] * ask.half[0], -inward[1] * ask.half[1]];
    Box::new(Corner { at, inward, reach, streaks: streaks.map(|s| libm::expf(0.75 * s)), shine: brightness(ask) })
}

impl Corner {
    fn streak(&self, angle: f32) -> f32 {
        let at = (angle * (STEPS as f32 / std::f32::consts::FRAC_PI_2)).clamp(0.0, (STEPS - 1) as f32);
        let left = at as usize;
        let right = (left + 1).min(STEPS - 1);
        self.streaks[left] + (at - left as f32) * (self.streaks[right] - self.streaks[left])
    }
}

impl Made for Corner {
    fn over(&self, window: &Window) -> Matter {
        let light = window.smooth(60.0, |points, lane| {
            for (i, light) in lane.iter_mut().enumerate() {
                let along = (self.inward[0] * (points.u[i] - self.at[0])).max(0.0);
                let down = (self.inward[1] * (points.v[i] - self.at[1])).max(0.0);
                let r = (along * along + down * down).sqrt() / self.reach;
                // 5 exp(-r^1.15) / (1 + 0.15 r), the streaks growing out of an even glow
                let glow = 5.0 * exp(-libm::powf(r, 1.15)) / (1.0 + 0.15 * r);
                let streak = self.streak(libm::atan2f(down, along.max(1.0)));
                let drawn = (1.6 * r).min(1.0);
                *light = self.shine * 0.5 * glow * (1.0 + drawn * (streak - 1.0));
            }
        });
        Stuff::Light(light).into()
    }
}
