//! Light along a long edge of the film: tongues of unequal length where the roll was not wound tight.

use super::{Ask, Made, Sides, brightness, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::Window;

struct Edge {
    sides: Sides,
    edge: f32,
    middle: f32,
    width: f32,
    reach: f32,
    tongues: [PlaneNoise; 2],
    shine: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let (sides, mut dice) = (ask.sides(), ask.dice(1));
    let tongue = |dice: &mut super::Dice, pitch: f32| PlaneNoise::oblong(dice.seed(), [pitch * ask.size, 1e9]);
    Box::new(Edge {
        sides,
        edge: dice.side(),
        middle: dice.between(-0.6, 0.6) * sides.long,
        width: dice.between(0.35, 0.9) * sides.long,
        reach: ask.size * dice.between(1_600.0, 4_200.0),
        tongues: [tongue(&mut dice, 9_000.0), tongue(&mut dice, 2_600.0)],
        shine: brightness(ask),
    })
}

impl Made for Edge {
    fn over(&self, window: &Window) -> Matter {
        let light = window.smooth(80.0, |points, lane| {
            for (i, light) in lane.iter_mut().enumerate() {
                let (along, across) = self.sides.turned(points.u[i], points.v[i]);
                let depth = (self.sides.short - self.edge * across).max(0.0);
                let aside = (along - self.middle) / self.width;
                // tongues lean a little with depth, and blur into one another
                let n = 0.6 * self.tongues[0].at(along + 0.2 * depth, 0.0) + 0.35 * self.tongues[1].at(along, 0.0);
                let reach = self.reach * exp(0.75 * n);
                let d = depth / reach;
                *light = self.shine * exp(-aside * aside) * (3.2 * exp(-1.3 * d * d) + 1.1 * exp(-d));
            }
        });
        Stuff::Light(light).into()
    }
}
