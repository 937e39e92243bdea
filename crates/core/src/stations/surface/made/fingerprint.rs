//! A fingerprint: grease in ridges half a millimetre apart, broken, with pores, pressed unevenly.

use super::{Ask, Made};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::Window;

/// From ridge to ridge.
const RIDGE_UM: f32 = 480.0;
/// Half axes of the pad.
const PAD_UM: [f32; 2] = [8_000.0, 11_000.0];
/// Density of grease.
const DENSITY: f32 = 0.075;

struct Print {
    middle: [f32; 2],
    turn: (f32, f32),
    core: f32,
    size: f32,
    warp: [PlaneNoise; 2],
    breaks: PlaneNoise,
    press: PlaneNoise,
    pores: PlaneNoise,
    density: f32,
}

struct Prints(Vec<Print>);

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    let count = if ask.amount > 0.75 { 3 } else { 1 + usize::from(dice.share() < ask.amount * 0.6) };
    let mut one = || {
        // a hand takes hold near an edge; a face is kept clear where it was asked for
        let mut middle = [0.0; 2];
        for _ in 0..12 {
            middle = [0, 1].map(|k| ask.half[k] * dice.side() * dice.between(0.15, 0.8));
            if !ask.is_kept_clear(middle) {
                break;
            }
        }
        let angle = dice.between(-0.9, 0.9);
        let mut noise = |pitch: f32| PlaneNoise::new(dice.seed(), pitch * ask.size);
        Print {
            middle,
            turn: (libm::sinf(angle), libm::cosf(angle)),
            warp: [noise(6_000.0), noise(2_600.0)],
            breaks: noise(620.0),
            press: noise(5_200.0),
            pores: noise(150.0),
            core: dice.between(-1_500.0, 2_500.0) * ask.size,
            size: ask.size,
            density: DENSITY * (0.4 + 1.2 * ask.amount) * dice.between(0.75, 1.1),
        }
    };
    Box::new(Prints((0..count).map(|_| one()).collect()))
}

impl Print {
    fn at(&self, u: f32, v: f32, blur: f32) -> f32 {
        let (dx, dy) = (u - self.middle[0], v - self.middle[1]);
        let (x, y) = (self.turn.1 * dx + self.turn.0 * dy, self.turn.1 * dy - self.turn.0 * dx);
        let (px, py) = (x / (PAD_UM[0] * self.size), y / (PAD_UM[1] * self.size));
        let out = (px * px + py * py).sqrt();
        if out > 1.25 {
            return 0.0;
        }
        // ridges run round a core above and flatten into arches below it: the phase of a warped distance
        let below = (y - self.core).max(0.0);
        let (cx, cy) = (x * (1.0 + 0.00007 * below / self.size), (y - self.core) * 0.62);
        let round = (cx * cx + cy * cy).sqrt();
        let arch = 0.9 * (y - self.core) + 0.000_02 / self.size * x * x;
        let flat = smooth_share(0.5 + (y - self.core) / (9_000.0 * self.size));
        let warp = 420.0 * self.size * self.warp[0].at(x, y) + 130.0 * self.size * self.warp[1].at(x, y);
        let distance = round + flat * (arch - round) + warp;
        let turns = distance / (RIDGE_UM * self.size);
        let phase = turns - turns.floor();
        let wave = 0.5 + 0.5 * libm::cosf(std::f32::consts::TAU * phase);
        let ridge = smooth_share((wave - 0.38) / 0.34);
        let broken = smooth_share(1.1 + 0.9 * self.breaks.at(x, y));
        let pores = 1.0 - 0.45 * smooth_share((self.pores.at(x, y) - 0.9) * 1.4);
        let pressed = (0.62 + 0.42 * self.press.at(x, y)).clamp(0.05, 1.2);
        let pad = smooth_share((1.18 - out - 0.12 * self.warp[1].at(y, x)) / 0.45);
        // ridges finer than a pixel are their mean
        let seen = ridge * broken * pores + blur * (0.45 - ridge * broken * pores);
        pad * pressed * (0.16 + 0.84 * seen)
    }
}

impl Made for Prints {
    fn over(&self, window: &Window) -> Matter {
        let density = window.smooth(32.0 * self.0.first().map_or(1.0, |p| p.size), |points, lane| {
            for (i, out) in lane.iter_mut().enumerate() {
                for print in &self.0 {
                    let blur = smooth_share((window.pixel_um() / (RIDGE_UM * print.size) - 0.25) * 2.5);
                    *out += print.density * print.at(points.u[i], points.v[i], blur);
                }
            }
        });
        Stuff::Veil { density, tint: [0.9, 0.95, 1.0] }.into()
    }
}
