//! The end of a roll, burnt in the open: behind a soft, slightly bent front all is light.

use super::{Ask, Made, Sides, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::Window;

/// Exposure well behind the front, in mid greys, and how far before it light still reaches.
const BURNT: f32 = 30.0;
const FULL_UM: f32 = 5_000.0;
const BEFORE_UM: f32 = 2_600.0;

struct Burn {
    sides: Sides,
    end: f32,
    front: f32,
    bend: f32,
    ragged: [PlaneNoise; 2],
    size: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let (sides, mut dice) = (ask.sides(), ask.dice(1));
    let end = dice.side();
    let front = sides.long * (0.1 + 0.9 * ask.amount) * dice.between(0.35, 0.75);
    let ragged = [9_000.0, 2_200.0].map(|pitch: f32| PlaneNoise::oblong(dice.seed(), [pitch * 3.0, pitch]));
    Box::new(Burn { sides, end, front, bend: dice.between(-0.12, 0.12), ragged, size: ask.size })
}

impl Made for Burn {
    fn over(&self, window: &Window) -> Matter {
        let light = window.smooth(60.0, |points, lane| {
            for (i, light) in lane.iter_mut().enumerate() {
                let (along, across) = self.sides.turned(points.u[i], points.v[i]);
                let aside = across / self.sides.short;
                let rough = 700.0 * self.ragged[0].at(along, across) + 160.0 * self.ragged[1].at(along, across);
                let front = self.front + self.bend * self.sides.short * aside * aside + rough;
                let behind = (front - (self.sides.long - self.end * along)) / self.size;
                let lit = BURNT * smooth_share(0.25 + 0.75 * behind / FULL_UM);
                let before = 0.1557 * BURNT * exp(behind.min(0.0) / BEFORE_UM);
                *light = if behind > 0.0 { lit.max(before) } else { before };
            }
        });
        Stuff::Light(light).into()
    }
}
