//! The columns of the bench in which the controls of Film stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Tool, lamp};

pub const RATING: Column = Column::new(
    "film.rating",
    "Rating",
    "The speed at which the film is exposed, its size, and how its layers act on one another in the bath.",
);
pub const CURVE: Column = Column {
    lamps: &[lamp!("film.curve", "Curve")],
    ..Column::new(
        "film.curve",
        "Curve",
        "The characteristic curve: density for each exposure, with its toe, its straight line and its shoulder.",
    )
};
pub const SENSITIVITY_WARM_HUES: Column = Column {
    lamps: &[lamp!("film.hue", "Sensitivity")],
    ..Column::new(
        "film.sensitivity-warm-hues",
        "Sensitivity, warm hues",
        "Which colours the emulsion sees, as sensitising dyes and the maker's recipe decide.",
    )
};
pub const SENSITIVITY_COLD_HUES: Column = Column {
    tools: &[Tool::PickHue],
    ..Column::new(
        "film.sensitivity-cold-hues",
        "Sensitivity, cold hues",
        "Which colours the emulsion sees, as sensitising dyes and the maker's recipe decide.",
    )
};
pub const HALATION: Column = Column {
    lamps: &[lamp!("film.halation", "Halation")],
    ..Column::second(
        "film.halation",
        "Halation",
        "Light that goes through the emulsion, is thrown back by the base and exposes it again from behind.",
    )
};
pub const COLOUR_OF_HALATION: Column = Column {
    tools: &[Tool::HalationAlone],
    ..Column::second(
        "film.colour-of-halation",
        "Colour of halation",
        "The light that comes back meets the red-sensitive layer first: that is why it is red or orange.",
    )
};
pub const GRAIN: Column = Column {
    lamps: &[lamp!("film.grain", "Grain")],
    ..Column::second(
        "film.grain",
        "Grain",
        "Developed silver, or the clouds of dye that take its place: their number, their size, how they lie together.",
    )
};
pub const GRAIN_BY_TONE: Column = Column {
    tools: &[Tool::GrainAlone],
    ..Column::second(
        "film.grain-by-tone",
        "Grain by tone",
        "Where on the tone scale the grain shows: thin densities and dense ones have other numbers of grains.",
    )
};

pub const COLUMNS: [Column; 8] =
    [RATING, CURVE, SENSITIVITY_WARM_HUES, SENSITIVITY_COLD_HUES, HALATION, COLOUR_OF_HALATION, GRAIN, GRAIN_BY_TONE];
