//! Light through the perforations of film that was loaded in the open: a row of soft fans along one edge, one to a
//! hole, of unequal strength.

use super::{Ask, Made, Sides, brightness, exp};
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::Window;

/// Pitch of the perforations of 35 mm film (ISO 1007).
const PITCH_UM: f32 = 4_750.0;

struct Fan {
    at: f32,
    share: f32,
    lean: f32,
    reach: f32,
}

struct Holes {
    sides: Sides,
    edge: f32,
    fans: Vec<Fan>,
    shine: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let (sides, mut dice) = (ask.sides(), ask.dice(1));
    let edge = dice.side();
    let from = dice.between(-0.5, 0.5) * PITCH_UM;
    let count = (sides.long / PITCH_UM) as i32 + 2;
    let (swell, turn) = (dice.between(2.0, 5.0), dice.between(0.0, 6.0));
    let lean = 0.12 * dice.normal();
    let fan = |k: i32| {
        // neighbours are alike, the row as a whole is not
        let slow = 0.5 + 0.5 * libm::sinf(k as f32 / swell + turn);
        Fan {
            at: from + PITCH_UM * k as f32,
            share: (slow * slow + 0.15) * dice.between(0.55, 1.2),
            lean: lean + 0.05 * dice.normal(),
            reach: ask.size * dice.between(2_000.0, 3_500.0),
        }
    };
    let fans = (-count..=count).map(fan).collect();
    Box::new(Holes { sides, edge, fans, shine: 3.2 * brightness(ask) })
}

impl Made for Holes {
    fn over(&self, window: &Window) -> Matter {
        let light = window.smooth(80.0, |points, lane| {
            for (i, light) in lane.iter_mut().enumerate() {
                let (along, across) = self.sides.turned(points.u[i], points.v[i]);
                let depth = (self.sides.short - self.edge * across).max(0.0);
                let half = 900.0 + 0.35 * depth;
                let mut sum = 0.0;
                for fan in &self.fans {
                    let aside = (along - fan.at - fan.lean * depth) / half;
                    if aside.abs() < 3.5 {
                        sum += fan.share * exp(-aside * aside) * exp(-depth / fan.reach);
                    }
                }
                *light = self.shine * sum;
            }
        });
        Stuff::Light(light).into()
    }
}
