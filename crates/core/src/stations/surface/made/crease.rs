//! One fold right across a print: straight, broken for most of its length, with dirt in it.

use super::crumple::{Fold, fold, folded};
use super::relief::shaded;
use super::{Ask, Made, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;
use crate::stations::surface::matter::Matter;
use crate::stations::surface::placing::Window;

struct Crease {
    fold: Fold,
    dirt: PlaneNoise,
    strength: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    let (sides, diagonal) = (ask.sides(), ask.half[0] + ask.half[1]);
    // across the short way, near the middle; now and then a corner is folded
    let corner = dice.share() < 0.3;
    let made = if corner {
        // straight across a corner
        let at = [0, 1].map(|k| ask.half[k] * dice.side() * dice.between(0.55, 0.85));
        let angle = libm::atan2f(-at[0] * ask.half[1], at[1] * ask.half[0]) + 0.25 * dice.normal();
        fold(&mut dice, at, angle, 2.0 * diagonal, 3_800.0 * ask.size)
    } else {
        let at = sides.place(sides.long * 0.5 * dice.normal().clamp(-1.0, 1.0), 0.0);
        let way = sides.place(0.03 * dice.normal(), 1.0);
        fold(&mut dice, at, libm::atan2f(way[1], way[0]), 2.5 * diagonal, 5_200.0 * ask.size)
    };
    let broken = 0.35 + 0.6 * ask.amount;
    let dirt = PlaneNoise::new(dice.seed(), 420.0);
    let fold = Fold { height: 1.5 * dice.side(), broken, waver_um: 190.0 * ask.size, ..made };
    Box::new(Crease { fold, dirt, strength: 0.2 * (0.5 + ask.amount) })
}

impl Made for Crease {
    fn over(&self, window: &Window) -> Matter {
        let [mut density, bare] = folded(std::slice::from_ref(&self.fold), window);
        let dirt = window.smooth(85.0, |points, lane| {
            for (i, out) in lane.iter_mut().enumerate() {
                let (u, v) = (points.u[i], points.v[i]);
                let (du, dv) = (u - self.fold.at[0], v - self.fold.at[1]);
                let across = (dv * self.fold.along[0] - du * self.fold.along[1]) / 420.0;
                if across.abs() < 3.0 {
                    *out = 0.16 * exp(-across * across) * smooth_share(0.4 + 0.6 * self.dirt.at(u, v));
                }
            }
        });
        density.iter_mut().zip(dirt).for_each(|(d, dirt)| *d = self.strength * *d + dirt);
        shaded(density).bared(bare)
    }
}
