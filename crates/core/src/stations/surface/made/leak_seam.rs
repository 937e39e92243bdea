//! Light through the seam of a camera's back: it falls in at a short side of the frame, brightest where the seam gapes,
//! with the shadow of the light trap before it.

use super::{Ask, Made, Sides, brightness, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::Window;

/// Unevenness of the seam.
const ROUGH_UM: f32 = 6_000.0;

/// One gap of the seam.
struct Gap {
    middle: f32,
    width: f32,
    reach: f32,
    share: f32,
}

struct Seam {
    sides: Sides,
    end: f32,
    gaps: Vec<Gap>,
    rough: PlaneNoise,
    shine: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let (sides, mut dice) = (ask.sides(), ask.dice(1));
    let end = dice.side();
    let widest = 0.9 * sides.short;
    let mut gap = |share: f32| Gap {
        middle: dice.between(-0.7, 0.7) * sides.short,
        width: (ask.size * dice.between(5_000.0, 14_000.0)).min(widest.max(2_000.0)),
        reach: ask.size * dice.between(3_000.0, 9_000.0),
        share,
    };
    let gaps = vec![gap(1.0), gap(0.35)];
    let rough = PlaneNoise::oblong(dice.seed(), [ROUGH_UM * ask.size; 2]);
    Box::new(Seam { sides, end, gaps, rough, shine: brightness(ask) })
}

impl Made for Seam {
    fn over(&self, window: &Window) -> Matter {
        let light = window.smooth(80.0, |points, lane| {
            self.rough.add(1.0, &points.u, &points.v, lane);
            for (i, light) in lane.iter_mut().enumerate() {
                let (along, across) = self.sides.turned(points.u[i], points.v[i]);
                let depth = (self.sides.long - self.end * along).max(0.0);
                let uneven = (1.0 + 0.25 * *light).max(0.3);
                let mut sum = 0.0;
                for gap in &self.gaps {
                    let aside = (across - gap.middle) / gap.width;
                    let reach = gap.reach * uneven;
                    let trap = 1.2 * smooth_share((0.9 - depth / reach) / 0.7);
                    sum += gap.share * exp(-aside * aside) * (3.0 * exp(-depth / reach) + trap);
                }
                *light = self.shine * sum;
            }
        });
        Stuff::Light(light).into()
    }
}
