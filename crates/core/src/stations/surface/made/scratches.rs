//! Scratches: along the transport, where the film was drawn over a grain of sand; or in any direction, from handling.
//!
//! On the emulsion's side the layers are cut, the uppermost first, and what was scraped out lies beside the groove; on
//! the base's side the groove scatters light away.

use super::{Ask, Made};
use crate::stations::surface::dice::Dice;
use crate::stations::surface::matter::{Matter, Stuff};
use crate::stations::surface::placing::Window;
use crate::stations::surface::shapes::{Knot, Line, cells};

/// How deep a cut goes in the layers of red, green and blue, the uppermost being blue's.
const CUT: [f32; 3] = [0.45, 0.8, 1.0];
/// Density of what is scraped aside and of a groove in the base.
const ASIDE: f32 = 0.35;
const GROOVE: f32 = 0.55;

#[derive(Default)]
struct Scratches {
    cuts: Vec<Line>,
    flanks: Vec<Line>,
    grooves: Vec<Line>,
}

impl Scratches {
    /// A scratch through places, `half` wide; `pressed` says how hard, 0 for a gap.
    fn add(&mut self, dice: &mut Dice, ask: &Ask, places: &[[f32; 2]], half: f32, pressed: &[f32]) {
        let emulsion = dice.share() < 0.55;
        let clear = |at: &[f32; 2]| if ask.is_kept_clear(*at) { 0.0 } else { 1.0 };
        let line = |aside: f32, width: f32, share: f32| {
            let knots = places.iter().zip(pressed).enumerate().map(|(k, (at, press))| {
                let next = places[(k + 1).min(places.len() - 1)];
                let before = places[k.saturating_sub(1)];
                let along = [next[0] - before[0], next[1] - before[1]];
                let length = (along[0] * along[0] + along[1] * along[1]).sqrt().max(1e-3);
                let beside = [at[0] - along[1] / length * aside, at[1] + along[0] / length * aside];
                Knot { at: beside, half_um: width * (0.5 + 0.5 * press), share: share * press * clear(at) }
            });
            Line::new(knots.collect())
        };
        if emulsion {
            let depth = dice.between(0.45, 1.0);
            let side = dice.side();
            self.cuts.push(line(0.0, half, depth));
            self.flanks.push(line(side * 1.7 * half, 0.8 * half, depth));
        } else {
            self.grooves.push(line(0.0, 1.2 * half, dice.between(0.4, 1.0)));
        }
    }
}

/// Along the transport.
pub fn along(ask: &Ask) -> Box<dyn Made> {
    let sides = ask.sides();
    let mut out = Scratches::default();
    let mut dice = ask.dice(1);
    let count = (5.0 * ask.abundance(5.0)).round() as u32 + 1;
    let [low, high] =
        if sides.place(0.0, 1.0)[0] > 0.5 { [ask.within[1], ask.within[3]] } else { [ask.within[0], ask.within[2]] };
    let step = 260.0;
    // a scratch is the same whatever part of it is seen: its places are counted from the middle
    let (first, last) = ((low / step).floor() as i32 - 1, (high / step).ceil() as i32 + 1);
    for n in 0..count.min(60) {
        let across = dice.between(-1.05, 1.05) * sides.short;
        let half = 0.5 * ask.size * dice.power_law(9.0, 44.0, 1.3);
        let slope = 0.004 * dice.normal();
        let (seed, gaps) = (dice.seed(), dice.between(-0.6, 1.6));
        let wander = crate::numeric::plane_noise::PlaneNoise::oblong(seed, [7_000.0, 1e9]);
        let press = crate::numeric::plane_noise::PlaneNoise::oblong(seed ^ 0x5bd1, [2_900.0, 1e9]);
        let fine = crate::numeric::plane_noise::PlaneNoise::oblong(seed ^ 0x91c3, [420.0, 1e9]);
        let mut places = Vec::new();
        let mut pressed = Vec::new();
        for k in first..=last {
            let at = k as f32 * step;
            places.push(sides.place(at, across + slope * at + 60.0 * wander.at(at, 0.0)));
            let p = gaps + press.at(at, 0.0) + 0.5 * fine.at(at, 0.0);
            pressed.push((0.7 * p).clamp(0.0, 1.0));
        }
        let mut own = Dice::new(seed, n);
        out.add(&mut own, ask, &places, half, &pressed);
    }
    Box::new(out)
}

/// In any direction, in small families that run the same way.
pub fn any_way(ask: &Ask) -> Box<dyn Made> {
    const CELL_UM: f32 = 12_000.0;
    let mut out = Scratches::default();
    for (i, j) in cells(ask.within, CELL_UM, 26_000.0 * ask.size) {
        let mut dice = ask.dice_of_cell(1, (i, j));
        for _ in 0..dice.count(1.1 * ask.abundance(5.0)) {
            let centre = [(i as f32 + dice.share()) * CELL_UM, (j as f32 + dice.share()) * CELL_UM];
            let angle = dice.half_turn();
            for _ in 0..1 + dice.count(1.6) {
                let length = ask.size * dice.power_law(1_200.0, 24_000.0, 1.1);
                let half = 0.5 * ask.size * dice.power_law(6.0, 24.0, 1.2);
                let turn = angle + 0.09 * dice.normal();
                let bend = 0.16 * dice.normal() / 20_000.0;
                let aside = [700.0 * dice.normal(), 700.0 * dice.normal()];
                let count = ((length / 300.0) as usize).clamp(5, 90);
                let mut places = Vec::with_capacity(count);
                let mut pressed = Vec::with_capacity(count);
                let (skips, hard) = (dice.between(0.0, 0.25), dice.between(0.35, 1.0));
                for k in 0..count {
                    let t = length * (k as f32 / (count - 1) as f32 - 0.5);
                    let way = turn + bend * t;
                    places
                        .push([centre[0] + aside[0] + t * libm::cosf(way), centre[1] + aside[1] + t * libm::sinf(way)]);
                    let end = (k.min(count - 1 - k) as f32 / 3.0).min(1.0);
                    let skipped = if dice.share() < skips { 0.25 } else { 1.0 };
                    pressed.push(hard * end * skipped * dice.between(0.75, 1.0));
                }
                out.add(&mut dice, ask, &places, half, &pressed);
            }
        }
    }
    Box::new(out)
}

impl Made for Scratches {
    fn over(&self, window: &Window) -> Matter {
        let drawn = |lines: &[Line], soft: f32| {
            let mut out = vec![0.0; window.region.pixels()];
            lines.iter().for_each(|line| line.draw(window, soft, &mut out));
            out
        };
        let cut = drawn(&self.cuts, 1.0);
        let mut density = drawn(&self.grooves, 6.0);
        density.iter_mut().for_each(|d| *d *= GROOVE);
        for ((d, flank), cut) in density.iter_mut().zip(drawn(&self.flanks, 3.0)).zip(&cut) {
            *d += ASIDE * flank * (1.0 - cut);
        }
        let untouched = |plane: &[f32]| plane.iter().all(|v| *v == 0.0);
        if untouched(&density) && untouched(&cut) {
            return Stuff::Nothing.into();
        }
        Matter::from(Stuff::Veil { density, tint: [0.75, 0.9, 1.0] }).cut(cut, CUT)
    }
}
