//! Collodion poured over a plate and let off at a corner: thick and dark there, with a scalloped front, and swirls
//! where it set while it still ran.

use multiversion::multiversion;

use super::{Ask, Made, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::runs::{Lane, RUN};
use crate::numeric::smooth_share;
use crate::numeric::turns::cosine_of_turns;
use crate::stations::surface::matter::{Colours, Matter, Neutral, Stuff};
use crate::stations::surface::placing::{Points, Window};

struct Pour {
    half: [f32; 2],
    corner: [f32; 2],
    reach: f32,
    scallops: [PlaneNoise; 2],
    runs: PlaneNoise,
    height: [PlaneNoise; 2],
    strength: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    let corner = [dice.side(), dice.side()];
    let diagonal = (ask.half[0] * ask.half[0] + ask.half[1] * ask.half[1]).sqrt();
    let mut noise = |share: f32| PlaneNoise::new(dice.seed(), share * diagonal * ask.size);
    let (scallops, height, runs) = ([noise(0.2), noise(0.05)], [noise(0.42), noise(0.16)], noise(0.03));
    let reach = diagonal * ask.size * dice.between(0.35, 0.6);
    Box::new(Pour { half: ask.half, corner, reach, scallops, runs, height, strength: 0.35 + 1.3 * ask.amount })
}

/// Collodion at a place.
struct Film {
    thick: f32,
    bead: f32,
    swirl: f32,
}

impl Pour {
    #[inline(always)]
    fn film(&self, u: f32, v: f32) -> Film {
        let (du, dv) = (self.half[0] - self.corner[0] * u, self.half[1] - self.corner[1] * v);
        let from = (du * du + dv * dv).sqrt();
        let wavy = 0.13 * self.scallops[0].at(u, v) + 0.035 * self.scallops[1].at(u, v);
        let behind = 1.0 - from / self.reach + wavy;
        // the front is a bead: milky on its border, thinner behind it, thick again in the corner
        let front = smooth_share(behind / 0.022 + 0.5);
        let bead = front * exp(-behind.max(0.0) / 0.035);
        let thick = front * (0.16 + 0.5 * smooth_share((behind - 0.35) / 0.6)) + 0.75 * bead;
        // bands of one thickness, drawn out the way it ran
        let along = (self.corner[0] * u + self.corner[1] * v) / self.reach;
        let level = 1.5 * along + 0.9 * self.height[0].at(u, v) + 0.3 * self.height[1].at(u, v);
        let swirl =
            0.5 + 0.5 * cosine_of_turns((4.4 * level + 0.5 * self.runs.at(0.25 * u, v)) / std::f32::consts::TAU);
        Film { thick, bead, swirl }
    }
}

/// What is made of the collodion at a run of places.
#[multiversion(targets("x86_64+avx2"))]
fn poured(pour: &Pour, points: &Points, lane: &mut Lane, of: impl Fn(Film) -> f32) {
    for i in 0..RUN {
        lane[i] = of(pour.film(points.u[i], points.v[i]));
    }
}

impl Made for Pour {
    fn over(&self, window: &Window) -> Matter {
        let step = 0.0024 * self.reach;
        let cover = window.smooth(step, |points, lane| {
            let strength = self.strength;
            poured(self, points, lane, |film| {
                (strength * (0.46 * film.thick + 0.055 * film.swirl * film.swirl)).clamp(0.0, 0.85)
            });
        });
        let tone = window.smooth(step, |points, lane| {
            poured(self, points, lane, |film| 0.2 + 0.24 * film.bead + 0.1 * film.swirl);
        });
        // collodion is a little brown where it is thick
        let rgb = [1.0f32, 0.94, 0.82].map(|hue| tone.iter().map(|t| (hue * t).min(1.0)).collect());
        Stuff::Paint { rgb: Colours::Rgb(rgb), cover, neutral: Neutral::White }.into()
    }
}
