//! The columns of the bench in which the controls of Years stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Tool, lamp};

pub const AGE: Column = Column {
    lamps: &[lamp!("years.age", "Age", &["years.age", "years.storage"])],
    ..Column::new(
        "years.age",
        "Age",
        "Time in a drawer, on a wall or in an attic: dyes, silver and paper each age in their way.",
    )
};
pub const LOSSES_BY_HAND: Column = Column {
    lamps: &[lamp!("years.loss", "Losses by hand", &["years.loss", "years.stain"])],
    ..Column::new("years.losses-by-hand", "Losses by hand", "What time took, set layer by layer instead of by years.")
};
pub const SUN: Column = Column {
    lamps: &[lamp!("years.sun", "Sun")],
    ..Column::new("years.sun", "Sun", "A window beside the print: what lay nearest to it is bleached most.")
};
pub const MARKS: Column = Column {
    lamps: &[lamp!("years.mirroring", "Mirroring"), lamp!("years.foxing", "Foxing"), lamp!("years.water", "Water")],
    ..Column::new("years.marks", "Marks", "What damp leaves: brown spots, tide lines, a silver sheen in the darks.")
};
pub const WHERE: Column = Column {
    tools: &[Tool::Masks],
    ..Column::new("years.where", "Where", "Where the years reached, and what was covered.")
};

pub const COLUMNS: [Column; 5] = [AGE, LOSSES_BY_HAND, SUN, MARKS, WHERE];
