//! Rollers of an instant camera: bands across at their circumference, dots where dirt sat on one, and developer that
//! did not reach the far end.

use super::{Ask, Made, Sides, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::Window;

/// Circumference of a roller.
const TURN_UM: f32 = 26_000.0;

struct Rollers {
    sides: Sides,
    end: f32,
    from: f32,
    bands: Vec<(f32, f32, f32)>,
    dots: Vec<([f32; 2], f32, f32)>,
    across: PlaneNoise,
    front: [PlaneNoise; 2],
    missing: f32,
    amount: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let (sides, mut dice) = (ask.sides(), ask.dice(1));
    let turn = TURN_UM * ask.size;
    let bands = (0..5).map(|_| (dice.share() * turn, dice.between(350.0, 1_900.0), 0.5 * dice.normal())).collect();
    let dots = (0..4)
        .map(|_| {
            let at = [dice.share() * turn, dice.between(-0.9, 0.9) * sides.short];
            (at, dice.between(180.0, 620.0), dice.between(0.4, 1.0))
        })
        .collect();
    Box::new(Rollers {
        sides,
        end: dice.side(),
        from: dice.share() * turn,
        bands,
        dots,
        across: PlaneNoise::oblong(dice.seed(), [60_000.0, 5_000.0]),
        front: [PlaneNoise::new(dice.seed(), 11_000.0), PlaneNoise::new(dice.seed(), 2_200.0)],
        missing: sides.long * (0.02 + 0.22 * ask.amount) * dice.between(0.3, 1.0),
        amount: 0.4 + 1.2 * ask.amount,
    })
}

impl Made for Rollers {
    fn over(&self, window: &Window) -> Matter {
        let missing = window.smooth(60.0, |points, lane| {
            for (i, out) in lane.iter_mut().enumerate() {
                let (along, across) = self.sides.turned(points.u[i], points.v[i]);
                let depth = self.sides.long - self.end * along;
                // the developer ran out in tongues: furthest in the middle
                let bulge = (across / self.sides.short).abs();
                let n = 0.55 * self.front[0].at(across, along * 0.3) + 0.2 * self.front[1].at(across, along);
                *out = self.missing * (0.25 + 1.6 * bulge * bulge + n) - depth;
            }
        });
        let density = window.smooth(60.0, |points, lane| {
            for (i, out) in lane.iter_mut().enumerate() {
                let (along, across) = self.sides.turned(points.u[i], points.v[i]);
                let turns = (along + self.from) / TURN_UM;
                let place = (turns - turns.floor()) * TURN_UM;
                let mut sum = 0.0;
                let uneven = 1.0 + 0.5 * self.across.at(along, across);
                for (at, half, weight) in &self.bands {
                    let d = (place - at).abs();
                    let d = d.min(TURN_UM - d) / half;
                    // further away nothing of a band is left
                    if d < 4.0 {
                        sum += 0.05 * weight * exp(-d * d) * uneven;
                    }
                }
                for (at, radius, weight) in &self.dots {
                    let (du, dv) = (place - at[0], across - at[1]);
                    let d = (du * du + dv * dv).sqrt() / radius;
                    if d > 4.0 {
                        continue;
                    }
                    sum += 0.16 * weight * (exp(-d * d) - 0.5 * exp(-(d - 1.4) * (d - 1.4) * 5.0));
                }
                *out = self.amount * sum;
            }
        });
        // next to what is missing the picture is thin and yellow-brown
        let mut density = density;
        for (d, m) in density.iter_mut().zip(&missing) {
            *d += 0.25 * smooth_share(1.0 + m / 1_500.0) * smooth_share(1.0 - m / 400.0);
        }
        let soft = window.pixel_um().max(90.0);
        let share = missing.iter().map(|m| 0.94 * smooth_share(m / (3.0 * soft) + 0.5)).collect();
        Matter::from(Stuff::Veil { density, tint: [0.7, 1.0, 1.35] }).bared(share)
    }
}
