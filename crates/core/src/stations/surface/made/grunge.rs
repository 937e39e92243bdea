//! A worn, dirty plate, as a picture on dark ground: stains of several sizes, scuffs in families, spots; what is light
//! in it lightens.

use multiversion::multiversion;

use super::{Ask, Made, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::runs::{Lane, RUN};
use crate::numeric::smooth_share;
use crate::stations::surface::matter::{Colours, Matter, Neutral, Stuff};
use crate::stations::surface::placing::{Points, Window};
use crate::stations::surface::shapes::{Knot, Line, Speck, cells};

/// Warm grey of the plate's dirt.
const HUE: [f32; 3] = [1.0, 0.965, 0.90];

struct Grunge {
    half: [f32; 2],
    stains: [PlaneNoise; 4],
    fine: [PlaneNoise; 2],
    scuffs: Vec<Line>,
    spots: Vec<Speck>,
    diagonal: f32,
    amount: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let diagonal = (ask.half[0] * ask.half[0] + ask.half[1] * ask.half[1]).sqrt();
    let mut dice = ask.dice(3);
    let unit = 0.02 * diagonal * ask.size;
    let (mut scuffs, mut spots) = (Vec::new(), Vec::new());
    let cell = 12.0 * unit;
    for (i, j) in cells(ask.within, cell, 8.0 * unit) {
        let mut dice = ask.dice_of_cell(1, (i, j));
        let place = |dice: &mut super::Dice| [(i as f32 + dice.share()) * cell, (j as f32 + dice.share()) * cell];
        if dice.share() < 0.3 + 0.6 * ask.amount {
            let (at, angle) = (place(&mut dice), dice.half_turn());
            for _ in 0..3 + dice.count(9.0 * ask.abundance(2.0)) {
                let length = unit * dice.power_law(0.5, 9.0, 1.1);
                let turn = angle + 0.12 * dice.normal();
                let start = [at[0] + 1.8 * unit * dice.normal(), at[1] + 1.8 * unit * dice.normal()];
                let half = unit * dice.power_law(0.008, 0.04, 1.5);
                let share = dice.between(0.12, 0.6);
                let knots = (0..8).map(|k| {
                    let t = k as f32 / 7.0;
                    let skip = if dice.share() < 0.25 { 0.2 } else { 1.0 };
                    Knot {
                        at: [start[0] + length * t * libm::cosf(turn), start[1] + length * t * libm::sinf(turn)],
                        half_um: half,
                        share: share * skip * (4.0 * t * (1.0 - t)).min(1.0),
                    }
                });
                scuffs.push(Line::new(knots.collect()));
            }
        }
        for _ in 0..dice.count(7.0 * ask.abundance(3.0)) {
            let at = place(&mut dice);
            let radius_um = unit * dice.power_law(0.02, 0.35, 1.7);
            let waves = [[3.0, 0.3 * dice.share(), dice.angle()], [5.0, 0.15, dice.angle()]];
            spots.push(Speck { at, radius_um, share: dice.between(0.2, 0.85), waves, oval: [1.0, 0.0] });
        }
    }
    Box::new(Grunge {
        half: ask.half,
        stains: [0.55, 0.21, 0.08, 0.03].map(|share: f32| PlaneNoise::new(dice.seed(), share * diagonal * ask.size)),
        fine: [0.009, 0.003].map(|share: f32| PlaneNoise::new(dice.seed(), share * diagonal * ask.size)),
        scuffs,
        spots,
        diagonal,
        amount: 0.35 + 1.3 * ask.amount,
    })
}

/// Stains, patches and wear at a run of places.
#[multiversion(targets("x86_64+avx2"))]
fn hazed(grunge: &Grunge, points: &Points, lane: &mut Lane) {
    let [large, middle, small, least] = &grunge.stains;
    for i in 0..RUN {
        let (u, v) = (points.u[i], points.v[i]);
        let (a, b, c, d) = (large.at(u, v), middle.at(u, v), small.at(u, v), least.at(u, v));
        let grit = 0.6 * grunge.fine[0].at(u, v) + 0.4 * grunge.fine[1].at(u, v);
        // pools with a border, patches, and a veil that is thickest where hands and frames rubbed
        let shore = a + 0.55 * b + 0.22 * c + 0.07 * d;
        let tide = exp(-((shore - 0.62) * 9.0) * ((shore - 0.62) * 9.0)) + 0.35 * smooth_share(shore - 0.55);
        let patch = smooth_share((0.55 * b + 0.75 * c + 0.28 * d - 0.85) * 1.3);
        let edge = (grunge.half[0] - u.abs()).min(grunge.half[1] - v.abs()) / grunge.diagonal;
        let rubbed = smooth_share((0.07 - edge + 0.045 * b + 0.03 * c + 0.01 * d) / 0.12);
        let worn = (0.8 + 0.16 * d + 0.22 * grit).clamp(0.2, 1.5);
        lane[i] = grunge.amount * worn * (0.15 * tide + 0.1 * patch + 0.26 * rubbed + 0.025);
    }
}

impl Made for Grunge {
    fn over(&self, window: &Window) -> Matter {
        let haze = window.smooth(0.0011 * self.diagonal, |points, lane| hazed(self, points, lane));
        let mut marks = vec![0.0; window.region.pixels()];
        self.scuffs.iter().for_each(|scuff| scuff.draw(window, 0.0, &mut marks));
        self.spots.iter().for_each(|spot| spot.draw(window, &mut marks));
        let rgb = HUE.map(|hue| {
            let of = |(haze, mark): (&f32, &f32)| (hue * (0.05 + haze + 0.6 * mark * (1.0 - haze))).clamp(0.0, 1.0);
            haze.iter().zip(&marks).map(of).collect()
        });
        let cover = vec![1.0; marks.len()];
        Stuff::Paint { rgb: Colours::Rgb(rgb), cover, neutral: Neutral::White }.into()
    }
}
