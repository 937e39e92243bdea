//! Canvas: two sets of threads, over and under one another, none quite as thick as the next.

use super::relief::{seen, shaded};
use super::{Ask, Made};
use crate::numeric::plane_noise::PlaneNoise;
use crate::stations::surface::matter::Matter;
use crate::stations::surface::placing::Window;

/// From thread to thread.
const THREAD_UM: f32 = 780.0;

struct Canvas {
    thread: f32,
    waver: [PlaneNoise; 2],
    thick: [PlaneNoise; 2],
    fuzz: PlaneNoise,
    strength: f32,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    let thread = THREAD_UM * ask.size;
    let mut noise = |pitch: [f32; 2]| PlaneNoise::oblong(dice.seed(), pitch.map(|p| p * thread));
    Box::new(Canvas {
        thread,
        waver: [noise([3.0, 26.0]), noise([26.0, 3.0])],
        thick: [noise([1.0, 40.0]), noise([40.0, 1.0])],
        fuzz: noise([0.28, 0.28]),
        strength: 0.075 * (0.3 + 1.4 * ask.amount),
    })
}

/// Height of a round thread across itself, and its slope, for a place from -0.5 to 0.5.
#[inline(always)]
fn round(t: f32) -> f32 {
    (1.0 - 3.4 * t * t).max(0.0)
}

impl Made for Canvas {
    fn over(&self, window: &Window) -> Matter {
        let shown = seen(window, 0.5 * self.thread);
        let fine = seen(window, 0.2 * self.thread);
        shaded(window.smooth(0.11 * self.thread, |points, lane| {
            for (i, out) in lane.iter_mut().enumerate() {
                let (u, v) = (points.u[i], points.v[i]);
                let x = u / self.thread + 0.10 * self.waver[0].at(u, v);
                let y = v / self.thread + 0.10 * self.waver[1].at(u, v);
                let (i, j) = (x.floor(), y.floor());
                let (fx, fy) = (x - i - 0.5, y - j - 0.5);
                // which thread lies above changes from crossing to crossing
                let above = if (i as i32 + j as i32) & 1 == 0 { 1.0f32 } else { -1.0 };
                let bow = |t: f32| 1.0 - 3.0 * t * t;
                let warp = round(fx / (0.94 + 0.08 * self.thick[0].at(u, v))) + 0.75 * above * bow(fy);
                let weft = round(fy / (0.94 + 0.08 * self.thick[1].at(u, v))) - 0.75 * above * bow(fx);
                let (height, across) = if warp > weft { (warp, fx) } else { (weft, fy) };
                // light from the upper left, and the holes between threads in shadow
                let relief = 1.2 * across - 0.5 * (height - 1.0);
                *out = self.strength * (shown * relief + 0.18 * fine * self.fuzz.at(u, v));
            }
        }))
    }
}
