//! The columns of the bench in which the controls of Film stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Tool, lamp};

pub const RATING: Column = Column::new("film.rating", "Rating");
pub const CURVE: Column = Column { lamps: &[lamp!("film.curve", "Curve")], ..Column::new("film.curve", "Curve") };
pub const SENSITIVITY_WARM_HUES: Column = Column {
    lamps: &[lamp!("film.hue", "Sensitivity")],
    ..Column::new("film.sensitivity-warm-hues", "Sensitivity, warm hues")
};
pub const SENSITIVITY_COLD_HUES: Column =
    Column { tools: &[Tool::PickHue], ..Column::new("film.sensitivity-cold-hues", "Sensitivity, cold hues") };
pub const HALATION: Column =
    Column { lamps: &[lamp!("film.halation", "Halation")], ..Column::second("film.halation", "Halation") };
pub const COLOUR_OF_HALATION: Column =
    Column { tools: &[Tool::HalationAlone], ..Column::second("film.colour-of-halation", "Colour of halation") };
pub const GRAIN: Column = Column { lamps: &[lamp!("film.grain", "Grain")], ..Column::second("film.grain", "Grain") };
pub const GRAIN_BY_TONE: Column =
    Column { tools: &[Tool::GrainAlone], ..Column::second("film.grain-by-tone", "Grain by tone") };

pub const COLUMNS: [Column; 8] =
    [RATING, CURVE, SENSITIVITY_WARM_HUES, SENSITIVITY_COLD_HUES, HALATION, COLOUR_OF_HALATION, GRAIN, GRAIN_BY_TONE];
