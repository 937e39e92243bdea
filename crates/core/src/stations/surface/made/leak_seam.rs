//! Light through the seam of a camera's back: it falls in at a short side of the frame, brightest where the seam gapes,
//! with the shadow of the light trap before it.

use multiversion::multiversion;

use super::{Ask, Made, Sides, brightness, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::runs::{Lane, RUN};
use crate::numeric::smooth_share;
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::{Points, Window};

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

/// Light of the gaps at a run of places, whose roughness `lane` holds.
#[multiversion(targets("x86_64+avx2"))]
fn shine_through(seam: &Seam, points: &Points, lane: &mut Lane) {
    let (mut depth, mut across) = ([0.0f32; RUN], [0.0f32; RUN]);
    for i in 0..RUN {
        let (along, aside) = seam.sides.turned(points.u[i], points.v[i]);
        depth[i] = (seam.sides.long - seam.end * along).max(0.0);
        across[i] = aside;
    }
    let mut sum = [0.0f32; RUN];
    for gap in &seam.gaps {
        for i in 0..RUN {
            let aside = (across[i] - gap.middle) / gap.width;
            let reach = gap.reach * (1.0 + 0.25 * lane[i]).max(0.3);
            let trap = 1.2 * smooth_share((0.9 - depth[i] / reach) / 0.7);
            sum[i] += gap.share * exp(-aside * aside) * (3.0 * exp(-depth[i] / reach) + trap);
        }
    }
    lane.iter_mut().zip(sum).for_each(|(light, sum)| *light = seam.shine * sum);
}

impl Made for Seam {
    fn over(&self, window: &Window) -> Matter {
        let light = window.smooth(80.0, |points, lane| {
            self.rough.add(1.0, &points.u, &points.v, lane);
            shine_through(self, points, lane);
        });
        Stuff::Light(light).into()
    }
}
