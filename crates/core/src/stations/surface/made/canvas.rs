//! Canvas: two sets of threads, over and under one another, none quite as thick as the next.

use multiversion::multiversion;

use super::relief::{seen, shaded};
use super::{Ask, Made};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::runs::{Lane, RUN};
use crate::numeric::turns::{cosine_of_turns, whole_below};
use crate::stations::surface::matter::Matter;
use crate::stations::surface::placing::{Points, Window};

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

impl Canvas {
    /// Height of the weave: the higher of the two threads that cross at a place, each round across itself and bowed
    /// over and under the others along itself.
    #[inline(always)]
    fn height(&self, u: f32, v: f32, [thick_warp, thick_weft]: [f32; 2]) -> f32 {
        let (x, y) = (u / self.thread, v / self.thread);
        let (i, j) = (whole_below(x), whole_below(y));
        let (fx, fy) = (x - i as f32 - 0.5, y - j as f32 - 0.5);
        // which thread lies above changes from crossing to crossing
        let above = if (i + j) & 1 == 0 { 1.0f32 } else { -1.0 };
        let round = |t: f32, thick: f32| (1.0 - (t / (0.47 * thick)) * (t / (0.47 * thick))).max(0.0).sqrt();
        let bow = |t: f32| cosine_of_turns(0.5 * t);
        let warp = 0.46 * round(fx, thick_warp) + 0.34 * above * bow(fy);
        let weft = 0.46 * round(fy, thick_weft) - 0.34 * above * bow(fx);
        warp.max(weft).max(-0.1)
    }
}

impl Made for Canvas {
    fn over(&self, window: &Window) -> Matter {
        let shown = seen(window, 0.5 * self.thread);
        let fine = seen(window, 0.2 * self.thread);
        shaded(window.smooth(0.11 * self.thread, |points, lane| weave(self, points, [shown, fine], lane)))
    }
}

/// Density of the relief at a run of places, as much of threads and fuzz as is seen.
#[multiversion(targets("x86_64+avx2"))]
fn weave(canvas: &Canvas, points: &Points, [shown, fine]: [f32; 2], lane: &mut Lane) {
    let thread = canvas.thread;
    let step = 0.07 * thread;
    for i in 0..RUN {
        let (u, v) = (points.u[i], points.v[i]);
        // no thread is straight, and none as thick as the next
        let x = u + 0.13 * thread * canvas.waver[0].at(u, v);
        let y = v + 0.13 * thread * canvas.waver[1].at(u, v);
        let thick = [1.0 + 0.09 * canvas.thick[0].at(u, v), 1.0 + 0.09 * canvas.thick[1].at(u, v)];
        // light from the upper left: what falls away from it is darker, and so are the holes between threads
        let here = canvas.height(x, y, thick);
        let slope = here - canvas.height(x - step, y - 0.8 * step, thick);
        let relief = 2.6 * -slope + 0.55 * (0.35 - here);
        lane[i] = canvas.strength * (shown * relief + 0.2 * fine * canvas.fuzz.at(u, v));
    }
}
