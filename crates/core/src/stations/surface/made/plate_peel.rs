//! A plate whose picture came off at the corners, with the bare corner by which it was held.

use super::{Ask, Made};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::Window;

struct Corner {
    at: [f32; 2],
    reach: f32,
}

struct Peel {
    half: [f32; 2],
    corners: [Corner; 4],
    held: ([f32; 2], f32),
    outline: [PlaneNoise; 4],
    specks: [PlaneNoise; 2],
    diagonal: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    let half = ask.half;
    let diagonal = (half[0] * half[0] + half[1] * half[1]).sqrt();
    let corners = [[-1.0, -1.0], [1.0, -1.0], [-1.0, 1.0], [1.0, 1.0]].map(|[a, b]: [f32; 2]| Corner {
        at: [a * half[0], b * half[1]],
        // one or two are worse than the others
        reach: diagonal * ask.size * (0.07 + 0.6 * ask.amount * dice.share() * dice.share()),
    });
    let held = [dice.side() * half[0], dice.side() * half[1]];
    let outline = [0.17, 0.055, 0.016, 0.0052].map(|share: f32| PlaneNoise::new(dice.seed(), share * diagonal));
    let specks = [0.0085, 0.0031].map(|share: f32| PlaneNoise::new(dice.seed(), share * diagonal));
    Box::new(Peel { half, corners, held: (held, 0.1 * diagonal * ask.size), outline, specks, diagonal })
}

impl Peel {
    /// Above 0 where it is gone, in shares of the diagonal.
    fn gone(&self, u: f32, v: f32) -> f32 {
        // far from corners and edges nothing can be gone, whatever the noise
        let border = (self.half[0] - u.abs()).min(self.half[1] - v.abs());
        let reaches = |corner: &Corner| {
            let (du, dv) = (u - corner.at[0], v - corner.at[1]);
            (du * du + dv * dv).sqrt() < 3.6 * corner.reach + 0.02 * self.diagonal
        };
        let (hu, hv) = (u - self.held.0[0], v - self.held.0[1]);
        let by_hand = (hu.abs() + hv.abs()) / 1.3 < 1.3 * self.held.1 + 0.02 * self.diagonal;
        if border > 0.05 * self.diagonal && !by_hand && !self.corners.iter().any(reaches) {
            return -1.0;
        }
        let weights = [0.55f32, 0.30, 0.13, 0.055];
        let noise: f32 = (0..4).map(|k| weights[k] * self.outline[k].at(u, v)).sum();
        let mut most = -1.0f32;
        for corner in &self.corners {
            let (du, dv) = (u - corner.at[0], v - corner.at[1]);
            let from = (du * du + dv * dv).sqrt();
            most = most.max((corner.reach * (1.0 + 0.9 * noise) - from) / self.diagonal);
        }
        let edge = (self.half[0] - u.abs()).min(self.half[1] - v.abs());
        most = most.max((0.008 * self.diagonal * (0.2 + noise) - edge) / self.diagonal);
        let (du, dv) = (u - self.held.0[0], v - self.held.0[1]);
        let held = (du.abs() + dv.abs()) / 1.3;
        most.max((self.held.1 * (1.0 + 0.06 * noise) - held) / self.diagonal)
    }
}

impl Made for Peel {
    fn over(&self, window: &Window) -> Matter {
        let soft = (0.7 * window.pixel_um() / self.diagonal).max(0.0009);
        let step = 0.0007 * self.diagonal;
        let gone = window.smooth(step, |points, lane| {
            for (i, out) in lane.iter_mut().enumerate() {
                *out = self.gone(points.u[i], points.v[i]);
            }
        });
        // a thin bright rim where the film of collodion curls, dark under it, specks of it left behind
        let rim = gone
            .iter()
            .map(|g| {
                let curl = smooth_share(1.0 + g / 0.0045) * smooth_share(-g / 0.0009);
                let under = smooth_share(1.0 - g / 0.006) * smooth_share(g / 0.001);
                0.5 * under - 0.26 * curl
            })
            .collect();
        let left = window.smooth(step, |points, lane| {
            self.specks[0].add(0.8, &points.u, &points.v, lane);
            self.specks[1].add(0.6, &points.u, &points.v, lane);
        });
        let share = gone
            .iter()
            .zip(left)
            .map(|(g, n)| {
                let gap = (g / soft + 0.5).clamp(0.0, 1.0);
                let loose = smooth_share((g + 0.016) / 0.016) * smooth_share((n - 1.3) * 3.0);
                let stays = 1.0 - 0.85 * smooth_share((n - 1.55) * 4.0) * smooth_share(1.0 - g / 0.05);
                (gap * stays).max(loose)
            })
            .collect();
        Matter::from(Stuff::Veil { density: rim, tint: [1.0; 3] }).bared(share)
    }
}
