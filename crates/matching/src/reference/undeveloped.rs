//! What the camera's picture must have been, if a print was made on a stock.
//!
//! A stock and its tuning make one print colour of every colour of a camera's picture. That is turned round for all
//! colours of a reference: how far each lies from the nearest that can be printed, and what it was. The nearest node of
//! a lattice of colours is the start; steps of Gauss and Newton with the lattice's slopes follow, each printed anew,
//! and what is printed corrects the slopes.

use amber_core::Source;
use amber_core::colour::lab::Lab;
use amber_core::colour::transfer::decode_srgb;

use crate::colour::{Gathered, Palette, PointPrint};

/// Values of a channel in the lattice of colours; of greys alone.
const SIDE: usize = 9;
const GREYS: usize = 96;
/// Steps after the lattice, how far one goes in steps of it, and the distance in Lab that is near enough.
const STEPS: usize = 6;
const REACH: f64 = 0.8;
const NEAR_ENOUGH: f64 = 0.03;

/// A lattice of the camera's colours, encoded 0 to 1.
pub struct Lattice {
    source: Source,
    side: usize,
    /// 3 axes, or 1 of greys.
    axes: usize,
}

impl Lattice {
    /// Of all colours.
    pub fn of_colours() -> Self {
        let level = |i: usize| decode_srgb(i as f64 / (SIDE - 1) as f64);
        let source = Source::from_linear_srgb(SIDE as u32, (SIDE * SIDE) as u32, |x, y| {
            [x as usize, y as usize % SIDE, y as usize / SIDE].map(level)
        });
        Self { source, side: SIDE, axes: 3 }
    }

    /// Of greys.
    pub fn of_greys() -> Self {
        let level = |x: u32| decode_srgb(f64::from(x) / (GREYS - 1) as f64);
        Self { source: Source::from_linear_srgb(GREYS as u32, 1, |x, _| [level(x); 3]), side: GREYS, axes: 1 }
    }
}

/// One colour of the reference, undeveloped.
#[derive(Debug, Clone, Copy)]
pub struct Was {
    /// The camera's colour, encoded.
    pub encoded: [f64; 3],
    /// Distance of the print's colour from the nearest that can be printed, in Lab.
    pub off: f64,
    /// Share of the picture.
    pub share: f64,
    /// ln of the volume of print colours that a small volume of the camera's colours takes up here.
    pub spread: f64,
}

/// Slopes of the print below which a direction counts as lost, in Lab for the whole range of a channel.
const LOST: f64 = 4.0;
/// Such a slope of a common print.
const COMMON: f64 = 80.0;

/// A colour on its way back: the best place so far in the lattice, in steps of it, the slopes there, and how far from
/// it the next is looked for.
struct Walk {
    at: [f64; 3],
    slopes: Vec<Lab>,
    printed: Lab,
    spread: f64,
    reach: f64,
}

impl Walk {
    fn off(&self, colour: &Gathered) -> f64 {
        distance(self.printed, colour.lab).sqrt()
    }

    /// The place to be tried next.
    fn next(&self, colour: &Gathered, last: f64) -> [f64; 3] {
        let wanted: Lab = std::array::from_fn(|k| colour.lab[k] - self.printed[k]);
        let reach = |k: usize| [(-self.at[k]).max(-self.reach), (last - self.at[k]).min(self.reach)];
        let mut next = self.at;
        for (k, step) in nearest_within(&self.slopes, wanted, reach).into_iter().enumerate() {
            next[k] += step;
        }
        next
    }

    /// What was printed at a place: the slopes learn from it (Broyden 1965), and it is kept where it is nearer.
    fn learn(&mut self, at: [f64; 3], printed: Lab, colour: &Gathered) {
        let step: [f64; 3] = std::array::from_fn(|k| at[k] - self.at[k]);
        let length: f64 = step.iter().take(self.slopes.len()).map(|v| v * v).sum();
        if length < 1e-12 {
            self.reach = 0.0;
            return;
        }
        let told = |i: usize| self.slopes.iter().zip(&step).map(|(slope, by)| slope[i] * by).sum::<f64>();
        let missed: Lab = std::array::from_fn(|i| printed[i] - self.printed[i] - told(i));
        for (slope, by) in self.slopes.iter_mut().zip(&step) {
            (0..3).for_each(|i| slope[i] += missed[i] * by / length);
        }
        if distance(printed, colour.lab) < distance(self.printed, colour.lab) {
            (self.at, self.printed) = (at, printed);
        } else {
            self.reach *= 0.4;
        }
    }
}

/// Undevelops the colours of a reference.
pub fn undeveloped(reference: &Palette, print: &PointPrint, lattice: &Lattice) -> Vec<Was> {
    let nodes = print.lab(&lattice.source);
    let mut walks: Vec<Walk> = reference.colours.iter().map(|colour| lattice.begin(colour, &nodes)).collect();
    let last = (lattice.side - 1) as f64;
    let encoded = |at: [f64; 3]| match lattice.axes {
        3 => at.map(|v| v / last),
        _ => [at[0] / last; 3],
    };
    for _ in 0..STEPS {
        let coming = walks
            .iter_mut()
            .zip(&reference.colours)
            .filter(|(walk, colour)| walk.reach > 0.0 && walk.off(colour) > NEAR_ENOUGH);
        let mut coming: Vec<(&mut Walk, &Gathered, [f64; 3])> = coming
            .map(|(walk, colour)| {
                let next = walk.next(colour, last);
                (walk, colour, next)
            })
            .collect();
        if coming.is_empty() {
            break;
        }
        let colours =
            Source::from_linear_srgb(coming.len() as u32, 1, |x, _| encoded(coming[x as usize].2).map(decode_srgb));
        for ((walk, colour, at), printed) in coming.iter_mut().zip(print.lab(&colours)) {
            walk.learn(*at, printed, colour);
        }
    }
    let was = |(walk, colour): (&Walk, &Gathered)| Was {
        encoded: encoded(walk.at),
        off: walk.off(colour),
        share: colour.share,
        spread: walk.spread,
    };
    walks.iter().zip(&reference.colours).map(was).collect()
}

impl Lattice {
    fn begin(&self, colour: &Gathered, nodes: &[Lab]) -> Walk {
        let apart = |i: &usize| distance(nodes[*i], colour.lab);
        let node = (0..nodes.len()).min_by(|a, b| apart(a).total_cmp(&apart(b))).unwrap_or(0);
        let stride = [1, self.side, self.side * self.side];
        let at: [usize; 3] = std::array::from_fn(|k| if k < self.axes { node / stride[k] % self.side } else { 0 });
        let slope = |k: usize| {
            let (low, high) = (at[k].saturating_sub(1), (at[k] + 1).min(self.side - 1));
            let there = |v: usize| nodes[node + v * stride[k] - at[k] * stride[k]];
            let (a, b) = (there(low), there(high));
            std::array::from_fn(|i| (b[i] - a[i]) / (high - low) as f64)
        };
        let slopes: Vec<Lab> = (0..self.axes).map(slope).collect();
        let spread = spread(&slopes, (self.side - 1) as f64);
        Walk { at: at.map(|v| v as f64), slopes, printed: nodes[node], spread, reach: REACH }
    }
}

/// ln of the volume over some directions, each made upright to those before it and none flatter than what is lost. Of a
/// film that tells no colours the missing ones are taken as those of a common print: whether a reference has colours is
/// asked elsewhere.
fn spread(slopes: &[Lab], steps: f64) -> f64 {
    let dot = |a: &Lab, b: &Lab| (0..3).map(|i| a[i] * b[i]).sum::<f64>();
    let mut upright: Vec<Lab> = Vec::new();
    let mut sum = (3 - slopes.len()) as f64 * COMMON.ln();
    for slope in slopes {
        let mut left = *slope;
        for before in &upright {
            let along = dot(&left, before) / dot(before, before).max(1e-12);
            (0..3).for_each(|i| left[i] -= along * before[i]);
        }
        sum += (steps * dot(&left, &left).sqrt()).max(LOST).ln();
        upright.push(left);
    }
    sum
}

fn distance(a: Lab, b: Lab) -> f64 {
    (0..3).map(|k| (a[k] - b[k]).powi(2)).sum()
}

/// The steps along some directions, within bounds, that come nearest to a wanted one: axis by axis, several times.
fn nearest_within(slopes: &[Lab], wanted: Lab, bounds: impl Fn(usize) -> [f64; 2]) -> Vec<f64> {
    let dot = |a: Lab, b: Lab| (0..3).map(|i| a[i] * b[i]).sum::<f64>();
    let mut moved = vec![0.0; slopes.len()];
    let mut left = wanted;
    for _ in 0..12 {
        for (k, slope) in slopes.iter().enumerate() {
            let length = dot(*slope, *slope);
            if length < 1e-9 {
                continue;
            }
            let [low, high] = bounds(k);
            let to = (moved[k] + dot(left, *slope) / length).max(low).min(high);
            (0..3).for_each(|i| left[i] -= slope[i] * (to - moved[k]));
            moved[k] = to;
        }
    }
    moved
}
