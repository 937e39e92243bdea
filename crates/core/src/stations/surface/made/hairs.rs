//! Hairs and fibres: few, long, curled.

use super::{Ask, Made};
use crate::stations::surface::matter::Matter;
use crate::stations::surface::placing::Window;
use crate::stations::surface::shapes::{Knot, Line, cells};

const CELL_UM: f32 = 14_000.0;
/// Some five to a frame of 36 x 24 mm.
const PER_CELL: f32 = 1.1;
const STEP_UM: f32 = 60.0;
/// Widths with their shadow.
const WIDTHS_UM: (f32, f32) = (13.0, 26.0);
const COLOUR: [f32; 3] = [0.23, 0.20, 0.17];

struct Hairs(Vec<Line>);

/// Made from what was asked.
pub fn make(ask: &Ask) -> Box<dyn Made> {
    let mut lines = Vec::new();
    for (i, j) in cells(ask.within, CELL_UM, 9_000.0 * ask.size) {
        let mut dice = ask.dice_of_cell(1, (i, j));
        for _ in 0..dice.count(PER_CELL * ask.abundance(5.0)) {
            let mut at = [(i as f32 + dice.share()) * CELL_UM, (j as f32 + dice.share()) * CELL_UM];
            let start = at;
            // short fibres are common, long hairs are not
            let length = ask.size * dice.power_law(900.0, 8_000.0, 0.9);
            let count = ((length / (STEP_UM * ask.size)) as usize).clamp(4, 200);
            let half = 0.5 * ask.size * dice.between(WIDTHS_UM.0, WIDTHS_UM.1);
            let share = dice.between(0.55, 0.95);
            let mut angle = dice.angle();
            // the curvature wanders about a mean of the hair's own
            let mean = 0.03 * dice.normal();
            let mut bend = mean;
            let mut knots = Vec::with_capacity(count + 1);
            for k in 0..=count {
                let end = (k.min(count - k) as f32 / 5.0 + 0.25).min(1.0);
                knots.push(Knot { at, half_um: half * end, share: share * (0.6 + 0.4 * end) });
                bend += 0.05 * (mean - bend) + 0.012 * dice.normal();
                angle += bend;
                at[0] += STEP_UM * ask.size * libm::cosf(angle);
                at[1] += STEP_UM * ask.size * libm::sinf(angle);
            }
            let crosses = knots.iter().any(|k| ask.is_kept_clear(k.at));
            if !crosses && !ask.is_kept_clear(start) {
                lines.push(Line::new(knots));
            }
        }
    }
    Box::new(Hairs(lines))
}

impl Made for Hairs {
    fn over(&self, window: &Window) -> Matter {
        let mut share = vec![0.0; window.region.pixels()];
        self.0.iter().for_each(|hair| hair.draw(window, 4.0, &mut share));
        Matter::thing(share, COLOUR)
    }
}
