//! Papers: grain of fibres that lie every way; and laid paper, with the lines of the wires of its mould.

use multiversion::multiversion;

use super::relief::{seen, shaded};
use super::{Ask, Made, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::runs::{Lane, RUN};
use crate::numeric::turns::{cosine_of_turns, whole_below};
use crate::stations::surface::matter::Matter;
use crate::stations::surface::placing::{Points, Window};

/// Fibres: length and breadth, and how strong.
const FIBRE_UM: [f32; 2] = [1_500.0, 190.0];
/// Lines of the wires, and the chains that hold them.
const WIRE_UM: f32 = 1_100.0;
const CHAIN_UM: f32 = 25_000.0;
const TURNS: usize = 5;

/// Fibres in several directions, none of them the grid's.
struct Fibres {
    ways: Vec<(f32, f32, PlaneNoise)>,
    clouds: PlaneNoise,
    tooth: PlaneNoise,
    size: f32,
}

impl Fibres {
    fn new(ask: &Ask) -> Self {
        let mut dice = ask.dice(7);
        let from = dice.share();
        let ways = (0..TURNS).map(|k| {
            let angle = std::f32::consts::PI * (k as f32 + from + 0.3 * dice.share()) / TURNS as f32;
            let noise = PlaneNoise::oblong(dice.seed(), FIBRE_UM.map(|um| um * ask.size));
            (libm::sinf(angle), libm::cosf(angle), noise)
        });
        Self {
            ways: ways.collect(),
            clouds: PlaneNoise::new(dice.seed(), 14_000.0 * ask.size),
            tooth: PlaneNoise::new(dice.seed(), 260.0 * ask.size),
            size: ask.size,
        }
    }

    /// Adds the density of their relief, of a deviation of about 1 at 1:1.
    fn add(&self, window: &Window, points: &Points, out: &mut Lane) {
        let shown = seen(window, FIBRE_UM[1] * self.size);
        let mut turned = Points { u: [0.0; RUN], v: [0.0; RUN] };
        let mut fibre: Lane = [0.0; RUN];
        for (sine, cosine, noise) in &self.ways {
            for i in 0..RUN {
                turned.u[i] = cosine * points.u[i] + sine * points.v[i];
                turned.v[i] = cosine * points.v[i] - sine * points.u[i];
            }
            fibre.fill(0.0);
            noise.add(1.0, &turned.u, &turned.v, &mut fibre);
            // a fibre lies where the noise passes 0: a thin, winding line, lit along one side
            for (v, n) in out.iter_mut().zip(fibre) {
                let line = (1.0 - 3.4 * n.abs()).max(0.0);
                *v += 0.95 * shown * (line * (n * 6.0) - 0.35 * (line - 0.23)) + 0.16 * n;
            }
        }
        self.tooth.add(0.38 * seen(window, 260.0 * self.size), &points.u, &points.v, out);
        self.clouds.add(0.25, &points.u, &points.v, out);
    }
}

struct Paper {
    fibres: Fibres,
    strength: f32,
    laid: Option<Laid>,
}

struct Laid {
    turn: (f32, f32),
    waver: PlaneNoise,
    chain: f32,
    size: f32,
}

/// Fibres only.
pub fn grain(ask: &Ask) -> Box<dyn Made> {
    Box::new(Paper { fibres: Fibres::new(ask), strength: 0.03 * (0.3 + 1.4 * ask.amount), laid: None })
}

/// With the lines of the mould.
pub fn laid(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    let angle = 0.012 * dice.normal();
    let smaller = ask.half[0].min(ask.half[1]) / 85_000.0;
    let laid = Laid {
        turn: (libm::sinf(angle), libm::cosf(angle)),
        waver: PlaneNoise::oblong(dice.seed(), [21_000.0, 2_600.0]),
        chain: (CHAIN_UM * smaller.clamp(0.36, 1.0)) * ask.size,
        size: ask.size,
    };
    Box::new(Paper { fibres: Fibres::new(ask), strength: 0.03 * (0.3 + 1.4 * ask.amount), laid: Some(laid) })
}

impl Laid {
    #[inline(always)]
    fn at(&self, u: f32, v: f32, shown: f32) -> f32 {
        let (x, y) = (self.turn.1 * u + self.turn.0 * v, self.turn.1 * v - self.turn.0 * u);
        let wavering = self.waver.at(x, y);
        let wire = cosine_of_turns(y / (WIRE_UM * self.size) + 0.07 * wavering);
        let chains = x / self.chain + 0.01 * wavering;
        let from = (chains - whole_below(chains) as f32 - 0.5) * self.chain / (260.0 * self.size);
        // pulp is thinner over a wire and gathers beside a chain
        let chain = exp(-from * from) - 0.4 * exp(-(from * from) / 9.0);
        shown * wire * (0.92 + 0.12 * wavering) - 1.2 * chain
    }
}

/// Lays the lines over fibres.
#[multiversion(targets("x86_64+avx2"))]
fn lay(laid: &Laid, points: &Points, shown: f32, lane: &mut Lane) {
    for i in 0..RUN {
        lane[i] = 0.42 * lane[i] + 0.95 * laid.at(points.u[i], points.v[i], shown);
    }
}

impl Made for Paper {
    fn over(&self, window: &Window) -> Matter {
        shaded(window.smooth(125.0 * self.fibres.size, |points, lane| {
            self.fibres.add(window, points, lane);
            if let Some(laid) = &self.laid {
                let shown = seen(window, 0.5 * WIRE_UM * laid.size);
                lay(laid, points, shown, lane);
            }
            lane.iter_mut().for_each(|v| *v *= self.strength);
        }))
    }
}
