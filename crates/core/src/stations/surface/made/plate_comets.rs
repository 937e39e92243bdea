//! Comets: a grain of dust in the collodion, and the tail that it left as the plate ran off.

use super::{Ask, Made};
use crate::stations::surface::matter::Matter;
use crate::stations::surface::placing::Window;
use crate::stations::surface::shapes::{Knot, Line, Speck, cells};

const CELL_UM: f32 = 9_000.0;

#[derive(Default)]
struct Comets {
    heads: Vec<Speck>,
    tails: Vec<Line>,
    bare: Vec<Speck>,
}

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut out = Comets::default();
    let mut plate = ask.dice(2);
    // a larger plate was coated with a thicker film, and is looked at from further away
    let unit = ask.size * ((ask.half[0] + ask.half[1]) / 30_000.0).clamp(1.0, 5.0);
    let cell = CELL_UM * unit / ask.size;
    // all ran off about the same way
    let way = plate.angle();
    for (i, j) in cells(ask.within, cell, 9_000.0 * unit) {
        let mut dice = ask.dice_of_cell(1, (i, j));
        for _ in 0..dice.count(1.5 * ask.abundance(4.0)) {
            let at = [(i as f32 + dice.share()) * cell, (j as f32 + dice.share()) * cell];
            let radius = 0.5 * unit * dice.power_law(44.0, 200.0, 1.5);
            let tail = radius * dice.power_law(7.0, 46.0, 0.8);
            let angle = way + 0.16 * dice.normal();
            let waves = [[3.0, 0.2 * dice.share(), dice.angle()], [5.0, 0.1, dice.angle()]];
            let share = dice.between(0.5, 1.0);
            let is_bare = dice.share() < 0.4;
            if ask.is_kept_clear(at) {
                continue;
            }
            let head = Speck { at, radius_um: radius, share, waves, oval: [1.0, 0.0] };
            if is_bare {
                out.bare.push(head)
            } else {
                out.heads.push(head)
            }
            let bend = 0.12 * dice.normal();
            let knots = (0..=14).map(|k| {
                let t = k as f32 / 14.0;
                let turn = angle + bend * t;
                Knot {
                    at: [at[0] + tail * t * libm::cosf(turn), at[1] + tail * t * libm::sinf(turn)],
                    half_um: radius * (0.9 - 0.8 * t),
                    share: 0.62 * share * (1.0 - t) * (1.0 - 0.5 * t),
                }
            });
            out.tails.push(Line::new(knots.collect()));
        }
    }
    Box::new(out)
}

impl Made for Comets {
    fn over(&self, window: &Window) -> Matter {
        let plane = || vec![0.0; window.region.pixels()];
        let (mut heads, mut tails, mut bare) = (plane(), plane(), plane());
        self.tails.iter().for_each(|tail| tail.draw(window, 20.0, &mut tails));
        self.heads.iter().for_each(|head| head.draw(window, &mut heads));
        self.bare.iter().for_each(|head| head.draw(window, &mut bare));
        // a silvery clump, its tail thinner than itself
        heads.iter_mut().zip(tails).for_each(|(h, t)| *h = h.max(0.55 * t));
        Matter::thing(heads, [0.74, 0.72, 0.68]).bared(bare)
    }
}
