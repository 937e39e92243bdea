//! The columns of the bench in which the controls of Bath stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, lamp};

pub const CHEMISTRY: Column = Column::new(
    "bath.chemistry",
    "Chemistry",
    "What the film is developed in: its own bath, the other process's, or without the bleach that takes silver away.",
);
pub const DEVELOPMENT: Column = Column::new(
    "bath.development",
    "Development",
    "Time in the developer: longer is denser and harder, with fog at the end.",
);
pub const EVENNESS: Column = Column {
    lamps: &[lamp!("bath.uneven", "Unevenness")],
    ..Column::new(
        "bath.evenness",
        "Evenness",
        "How the tank was moved: streaks along the perforation, clouds, dense edges.",
    )
};

pub const COLUMNS: [Column; 3] = [CHEMISTRY, DEVELOPMENT, EVENNESS];
