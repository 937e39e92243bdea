//! Dust: many specks too small to be seen, a few that are, a little in clusters.

use super::{Ask, Made};
use crate::stations::surface::matter::Matter;
use crate::stations::surface::placing::Window;
use crate::stations::surface::shapes::{Speck, cells};

/// Diameters, and how their number falls.
const DIAMETERS_UM: (f32, f32) = (8.0, 180.0);
const FALLS: f32 = 2.2;
/// Specks to a square millimetre: some 200 to a frame of 36 x 24 mm.
const PER_MM2: f32 = 0.23;
const CELL_UM: f32 = 3_000.0;
/// Grey dust on a print.
const COLOUR: [f32; 3] = [0.86, 0.85, 0.82];

struct Dust(Vec<Speck>);

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut specks = Vec::new();
    let mean = PER_MM2 * (CELL_UM / 1000.0) * (CELL_UM / 1000.0) * ask.abundance(6.0);
    for (i, j) in cells(ask.within, CELL_UM, 500.0) {
        let mut dice = ask.dice_of_cell(1, (i, j));
        // some cells hold much more than others
        let uneven = libm::expf(0.7 * dice.normal() - 0.25);
        for _ in 0..dice.count(mean * uneven) {
            let at = [(i as f32 + dice.share()) * CELL_UM, (j as f32 + dice.share()) * CELL_UM];
            let radius = 0.5 * ask.size * dice.power_law(DIAMETERS_UM.0, DIAMETERS_UM.1, FALLS);
            let count = (3.0 + 4.0 * dice.share()).floor();
            let waves = [[count, 0.35 * dice.share(), dice.angle()], [count + 2.0, 0.2 * dice.share(), dice.angle()]];
            let oval = [1.0 + 1.1 * dice.share() * dice.share(), dice.half_turn()];
            let share = dice.between(0.35, 1.0);
            if !ask.is_kept_clear(at) {
                specks.push(Speck { at, radius_um: radius, share, waves, oval });
            }
        }
    }
    Box::new(Dust(specks))
}

impl Made for Dust {
    fn over(&self, window: &Window) -> Matter {
        let mut share = vec![0.0; window.region.pixels()];
        self.0.iter().for_each(|speck| speck.draw(window, &mut share));
        Matter::thing(share, COLOUR)
    }
}
