//! The stain of a cup: a ring whose outer rim dried darkest, doubled, broken, with splashes.

use super::{Ask, Made, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::Window;
use crate::stations::surface::shapes::Speck;

struct Cup {
    rings: Vec<([f32; 2], f32, f32)>,
    splashes: Vec<Speck>,
    wobble: [PlaneNoise; 2],
    wet: [PlaneNoise; 2],
    strength: f32,
    width: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    let radius = 0.5 * ask.size * dice.between(62_000.0, 84_000.0);
    let mut middle = [0.0; 2];
    for _ in 0..12 {
        middle = [0, 1].map(|k| ask.half[k] * dice.side() * dice.between(0.1, 0.6));
        if !ask.is_kept_clear(middle) {
            break;
        }
    }
    let again = |dice: &mut super::Dice, far: f32| [0, 1].map(|k| middle[k] + far * radius * dice.normal());
    let mut rings = vec![(middle, radius, 1.0), (again(&mut dice, 0.05), radius, 0.6)];
    if ask.amount > 0.6 {
        rings.push((again(&mut dice, 0.5), radius * 0.99, 0.5));
    }
    let splashes = (0..3 + dice.count(9.0 * ask.abundance(3.0))).map(|_| {
        let (angle, far) = (dice.angle(), radius * (1.05 + 0.6 * dice.share() * dice.share()));
        Speck {
            at: [middle[0] + far * libm::cosf(angle), middle[1] + far * libm::sinf(angle)],
            radius_um: ask.size * dice.power_law(250.0, 2_600.0, 1.4),
            share: dice.between(0.3, 0.9),
            waves: [[2.0, 0.1, dice.angle()], [3.0, 0.06, dice.angle()]],
            oval: [1.0 + 0.5 * dice.share(), angle],
        }
    });
    let splashes = splashes.collect();
    Box::new(Cup {
        rings,
        splashes,
        wobble: [PlaneNoise::new(dice.seed(), 0.5 * radius), PlaneNoise::new(dice.seed(), 0.07 * radius)],
        wet: [PlaneNoise::new(dice.seed(), 0.8 * radius), PlaneNoise::new(dice.seed(), 0.16 * radius)],
        strength: 0.9 + 1.2 * ask.amount,
        width: 0.075 * radius,
    })
}

impl Made for Cup {
    fn over(&self, window: &Window) -> Matter {
        let mut density = window.smooth(85.0, |points, lane| {
            for (i, out) in lane.iter_mut().enumerate() {
                let (u, v) = (points.u[i], points.v[i]);
                let near = self.rings.iter().any(|(middle, radius, _)| {
                    let (du, dv) = (u - middle[0], v - middle[1]);
                    ((du * du + dv * dv).sqrt() - radius) < 2.2 * self.width
                });
                if !near {
                    continue;
                }
                let wobble = 0.16 * self.wobble[0].at(u, v) + 0.05 * self.wobble[1].at(u, v);
                let (mut sum, mut within) = (0.0f32, 0.0f32);
                for (k, (middle, radius, weight)) in self.rings.iter().enumerate() {
                    let (du, dv) = (u - middle[0], v - middle[1]);
                    let d = ((du * du + dv * dv).sqrt() - radius) / self.width + wobble;
                    // where the cup stood wet: in arcs, the two rings in different ones
                    let turn = 3_000.0 * k as f32;
                    let wet = 0.85 + 0.7 * self.wet[0].at(u + turn, v - turn) + 0.3 * self.wet[1].at(u, v + turn);
                    let wet = weight * smooth_share(wet);
                    let rim = exp(-(d / 0.13) * (d / 0.13)) + 0.5 * exp(-((d + 0.72) / 0.2) * ((d + 0.72) / 0.2));
                    let pool = if d < 0.0 { smooth_share(1.0 + 0.8 * d) } else { exp(-d * d * 60.0) };
                    sum = sum.max(wet * (0.26 * rim + 0.11 * pool));
                    within = within.max(0.012 * weight * smooth_share(-d * 0.5));
                }
                *out = sum + within;
            }
        });
        let mut drops = vec![0.0; window.region.pixels()];
        self.splashes.iter().for_each(|drop| drop.draw(window, &mut drops));
        density.iter_mut().zip(drops).for_each(|(d, drop)| *d = self.strength * d.max(0.15 * drop));
        Stuff::Veil { density, tint: [0.55, 0.95, 1.5] }.into()
    }
}
