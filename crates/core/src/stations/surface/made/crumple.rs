//! A print that was crumpled and smoothed again: folds that end, each with a slope on either side, and along some of
//! their ridges the emulsion broken to the bare paper.

use super::relief::shaded;
use super::{Ask, Made, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;
use crate::stations::surface::dice::Dice;
use crate::stations::surface::matter::Matter;
use crate::stations::surface::placing::Window;

/// A fold: a line from a place, bent by noise, that ends.
pub(super) struct Fold {
    pub at: [f32; 2],
    pub along: [f32; 2],
    pub half_length: f32,
    /// How far its slopes reach on either side.
    pub reach: f32,
    pub height: f32,
    /// How much of its ridge is broken, 0 to 1.
    pub broken: f32,
    pub bend: PlaneNoise,
    pub breaks: [PlaneNoise; 2],
    pub waver_um: f32,
}

/// Density and bare paper of a fold at a place.
pub(super) struct Folded {
    pub density: f32,
    pub bare: f32,
}

impl Fold {
    pub fn at(&self, u: f32, v: f32, pixel_um: f32) -> Option<Folded> {
        let (du, dv) = (u - self.at[0], v - self.at[1]);
        let along = du * self.along[0] + dv * self.along[1];
        let far = along.abs() / self.half_length;
        if far > 1.0 {
            return None;
        }
        let straight = dv * self.along[0] - du * self.along[1];
        if straight.abs() > 4.5 * self.reach + 2.5 * self.waver_um {
            return None;
        }
        let across = straight + self.waver_um * self.bend.at(along, 0.0);
        let end = smooth_share((1.0 - far) / 0.35);
        // the sheet rises to the ridge on one side and falls on the other: which faces the light is by its direction
        let t = across / self.reach;
        let light = 0.8 * -self.along[1] - 0.6 * self.along[0];
        let slope = t / (1.0 + t.abs()) * exp(-t.abs());
        let ridge = exp(-(across / 130.0) * (across / 130.0));
        let density = self.height * end * (1.9 * light * slope - 0.28 * ridge * light.abs());
        let cracked = self.breaks[0].at(along, 0.0) + 0.55 * self.breaks[1].at(along, 0.0);
        let share = smooth_share((cracked - 1.0 + 2.2 * self.broken) * 1.1) * end;
        let half = 70.0 * share * (0.5 + self.broken);
        let drawn = half.max(0.5 * pixel_um);
        let bare = ((drawn - across.abs()) / pixel_um.max(14.0) + 0.5).clamp(0.0, 1.0) * (half / drawn);
        Some(Folded { density, bare })
    }
}

struct Crumple {
    folds: Vec<Fold>,
    waves: PlaneNoise,
    strength: f32,
}

pub(super) fn fold(dice: &mut Dice, at: [f32; 2], angle: f32, half_length: f32, reach: f32) -> Fold {
    Fold {
        at,
        along: [libm::cosf(angle), libm::sinf(angle)],
        half_length,
        reach,
        height: 0.0,
        broken: 0.0,
        bend: PlaneNoise::oblong(dice.seed(), [11_000.0, 1e9]),
        breaks: [PlaneNoise::oblong(dice.seed(), [6_000.0, 1e9]), PlaneNoise::oblong(dice.seed(), [700.0, 1e9])],
        waver_um: 900.0,
    }
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    let diagonal = (ask.half[0] * ask.half[0] + ask.half[1] * ask.half[1]).sqrt();
    let count = 8 + (34.0 * ask.amount) as usize;
    let folds = (0..count)
        .map(|_| {
            let at = [0, 1].map(|k| ask.half[k] * dice.between(-1.05, 1.05));
            let angle = dice.between(0.0, std::f32::consts::PI);
            let length = diagonal * ask.size * dice.power_law(0.12, 0.75, 0.9);
            let reach = ask.size * dice.power_law(1_500.0, 9_000.0, 0.8);
            let made = fold(&mut dice, at, angle, length, reach);
            let height = dice.power_law(0.3, 1.6, 1.0) * dice.side();
            Fold { height, broken: 0.6 * dice.share() * dice.share(), ..made }
        })
        .collect();
    let waves = PlaneNoise::new(dice.seed(), 21_000.0 * ask.size);
    Box::new(Crumple { folds, waves, strength: 0.17 * (0.35 + 1.3 * ask.amount) })
}

impl Made for Crumple {
    fn over(&self, window: &Window) -> Matter {
        let pixel = window.pixel_um();
        let [density, bare] = window.two_planes(|points, density, bare| {
            for i in 0..density.len() {
                let (u, v) = (points.u[i], points.v[i]);
                let (mut sum, mut open) = (0.25 * self.waves.at(u, v), 0.0f32);
                for fold in &self.folds {
                    if let Some(folded) = fold.at(u, v, pixel) {
                        sum += folded.density;
                        open = open.max(folded.bare);
                    }
                }
                density[i] = self.strength * sum;
                bare[i] = open;
            }
        });
        shaded(density).bared(bare)
    }
}
