//! A print that was crumpled and smoothed again: folds that end, each with a slope on either side, and along some of
//! their ridges the emulsion broken to the bare paper.

use multiversion::multiversion;

use super::relief::shaded;
use super::{Ask, Made, exp};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::runs::{Lane, RUN};
use crate::numeric::smooth_share;
use crate::stations::surface::dice::Dice;
use crate::stations::surface::matter::Matter;
use crate::stations::surface::placing::{Points, Window};

/// A fold: a line from a place, bent by noise, that ends.
pub(super) struct Fold {
    pub at: [f32; 2],
    pub along: [f32; 2],
    pub half_length: f32,
    /// How far its slopes reach on either side.
    pub reach: f32,
    pub height: f32,
    /// How much of its ridge is broken, 0 to 1.
    pub broken: f32,
    pub bend: PlaneNoise,
    pub breaks: [PlaneNoise; 2],
    pub waver_um: f32,
}

/// Half breadth of a ridge, and how far beyond it nothing of it is left.
const RIDGE_UM: f32 = 130.0;
const NARROW_UM: f32 = 420.0;

/// Where a place lies on a fold: along it in half lengths, how far it has not ended yet, and across it.
struct OnFold {
    along: f32,
    end: f32,
    across: f32,
}

impl Fold {
    /// Whether anything of it within `reach` of its line lies in a window.
    fn reaches(&self, window: &Window, reach: f32) -> bool {
        let [left, top, right, bottom] = window.holding();
        let (middle, half) =
            ([0.5 * (left + right), 0.5 * (top + bottom)], [0.5 * (right - left), 0.5 * (bottom - top)]);
        let (du, dv) = (middle[0] - self.at[0], middle[1] - self.at[1]);
        let along = (du * self.along[0] + dv * self.along[1]).abs();
        let across = (dv * self.along[0] - du * self.along[1]).abs();
        // the window's half breadth the one way and the other, and room for the lattice of what is smooth
        let (a, c) = (self.along[0].abs(), self.along[1].abs());
        let room = 2.5 * self.waver_um + 17.0 * window.pixel_um();
        along <= self.half_length + a * half[0] + c * half[1] + room
            && across <= reach + room + c * half[0] + a * half[1]
    }

    /// Whether nothing of it within `reach` of its line lies on a run of places, which is straight.
    fn misses(&self, points: &Points, reach: f32) -> bool {
        let ends = [0, RUN - 1].map(|i| {
            let (du, dv) = (points.u[i] - self.at[0], points.v[i] - self.at[1]);
            [du * self.along[0] + dv * self.along[1], dv * self.along[0] - du * self.along[1]]
        });
        let beyond = |k: usize, limit: f32| ends.iter().all(|e| e[k] > limit) || ends.iter().all(|e| e[k] < -limit);
        // a little more, for what rounding does between the ends
        beyond(0, 1.001 * self.half_length + 1.0) || beyond(1, 1.001 * (reach + 2.5 * self.waver_um) + 1.0)
    }

    fn on(&self, u: f32, v: f32, reach: f32) -> Option<OnFold> {
        let (du, dv) = (u - self.at[0], v - self.at[1]);
        let along = du * self.along[0] + dv * self.along[1];
        let far = along.abs() / self.half_length;
        let straight = dv * self.along[0] - du * self.along[1];
        if far > 1.0 || straight.abs() > reach + 2.5 * self.waver_um {
            return None;
        }
        let across = straight + self.waver_um * self.bend.along(along);
        Some(OnFold { along, end: smooth_share((1.0 - far) / 0.35), across })
    }

    /// How far the slopes reach.
    fn wide(&self) -> f32 {
        4.5 * self.reach
    }

    /// Which of its sides faces the light from the upper left.
    fn facing(&self) -> f32 {
        0.8 * -self.along[1] - 0.6 * self.along[0]
    }

    /// Density of its slopes at a place: the sheet rises to the ridge on one side and falls on the other. Without a
    /// branch, for runs of places.
    #[inline(always)]
    fn slope(&self, u: f32, v: f32) -> f32 {
        let (du, dv) = (u - self.at[0], v - self.at[1]);
        let along = du * self.along[0] + dv * self.along[1];
        let far = along.abs() / self.half_length;
        let straight = dv * self.along[0] - du * self.along[1];
        let t = (straight + self.waver_um * self.bend.along(along)) / self.reach;
        let end = smooth_share((1.0 - far) / 0.35);
        let slope = 1.9 * self.height * end * self.facing() * t / (1.0 + t.abs()) * exp(-t.abs());
        if straight.abs() > self.wide() + 2.5 * self.waver_um { 0.0 } else { slope }
    }

    /// Density of its ridge at a place, and how much bare paper there is.
    fn ridge(&self, u: f32, v: f32, pixel_um: f32) -> Option<[f32; 2]> {
        let OnFold { along, end, across } = self.on(u, v, NARROW_UM.max(2.0 * pixel_um))?;
        let lit = exp(-(across / RIDGE_UM) * (across / RIDGE_UM));
        let cracked = self.breaks[0].along(along) + 0.55 * self.breaks[1].along(along);
        let share = smooth_share((cracked - 1.0 + 2.2 * self.broken) * 1.1) * end;
        let half = 70.0 * share * (0.5 + self.broken);
        let drawn = half.max(0.5 * pixel_um);
        let bare = ((drawn - across.abs()) / pixel_um.max(14.0) + 0.5).clamp(0.0, 1.0) * (half / drawn);
        Some([-0.28 * self.height * end * lit * self.facing().abs(), bare])
    }
}

/// What folds do over a window: the density of their slopes and ridges, and bare paper.
pub(super) fn folded(folds: &[Fold], window: &Window) -> [Vec<f32>; 2] {
    let near = |reach: fn(&Fold) -> f32| -> Vec<&Fold> {
        folds.iter().filter(|fold| fold.reaches(window, reach(fold))).collect()
    };
    let wide = near(Fold::wide);
    let slopes = window.smooth(SLOPE_STEP_UM, |points, lane| {
        for fold in &wide {
            if !fold.misses(points, fold.wide()) {
                add_slopes(fold, points, lane);
            }
        }
    });
    let narrow = near(|_| NARROW_UM);
    if narrow.is_empty() {
        let bare = vec![0.0; slopes.len()];
        return [slopes, bare];
    }
    let pixel = window.pixel_um();
    let [mut density, bare] = window.two_planes(|points, density, bare| {
        for fold in narrow.iter().filter(|fold| !fold.misses(points, NARROW_UM.max(2.0 * pixel))) {
            for i in 0..density.len() {
                if let Some([ridge, open]) = fold.ridge(points.u[i], points.v[i], pixel) {
                    density[i] += ridge;
                    bare[i] = bare[i].max(open);
                }
            }
        }
    });
    density.iter_mut().zip(slopes).for_each(|(d, slope)| *d += slope);
    [density, bare]
}

/// Adds the slopes of a fold at a run of places.
#[multiversion(targets("x86_64+avx2"))]
fn add_slopes(fold: &Fold, points: &Points, lane: &mut Lane) {
    for i in 0..RUN {
        lane[i] += fold.slope(points.u[i], points.v[i]);
    }
}

/// Places at which slopes are made, apart.
const SLOPE_STEP_UM: f32 = 260.0;

struct Crumple {
    folds: Vec<Fold>,
    waves: PlaneNoise,
    strength: f32,
}

pub(super) fn fold(dice: &mut Dice, at: [f32; 2], angle: f32, half_length: f32, reach: f32) -> Fold {
    Fold {
        at,
        along: [libm::cosf(angle), libm::sinf(angle)],
        half_length,
        reach,
        height: 0.0,
        broken: 0.0,
        bend: PlaneNoise::oblong(dice.seed(), [11_000.0, 1e9]),
        breaks: [PlaneNoise::oblong(dice.seed(), [6_000.0, 1e9]), PlaneNoise::oblong(dice.seed(), [700.0, 1e9])],
        waver_um: 900.0,
    }
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut dice = ask.dice(1);
    let diagonal = (ask.half[0] * ask.half[0] + ask.half[1] * ask.half[1]).sqrt();
    let count = 8 + (34.0 * ask.amount) as usize;
    let folds = (0..count)
        .map(|_| {
            let at = [0, 1].map(|k| ask.half[k] * dice.between(-1.05, 1.05));
            let angle = dice.between(0.0, std::f32::consts::PI);
            let length = diagonal * ask.size * dice.power_law(0.12, 0.75, 0.9);
            let reach = ask.size * dice.power_law(1_500.0, 9_000.0, 0.8);
            let made = fold(&mut dice, at, angle, length, reach);
            let height = dice.power_law(0.3, 1.6, 1.0) * dice.side();
            Fold { height, broken: 0.6 * dice.share() * dice.share(), ..made }
        })
        .collect();
    let waves = PlaneNoise::new(dice.seed(), 21_000.0 * ask.size);
    Box::new(Crumple { folds, waves, strength: 0.17 * (0.35 + 1.3 * ask.amount) })
}

impl Made for Crumple {
    fn over(&self, window: &Window) -> Matter {
        let [mut density, bare] = folded(&self.folds, window);
        let waves = window.smooth(SLOPE_STEP_UM, |points, lane| self.waves.add(0.25, &points.u, &points.v, lane));
        density.iter_mut().zip(waves).for_each(|(d, wave)| *d = self.strength * (*d + wave));
        shaded(density).bared(bare)
    }
}
