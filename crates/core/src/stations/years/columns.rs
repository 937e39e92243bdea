//! The columns of the bench in which the controls of Years stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Tool, lamp};

pub const AGE: Column =
    Column { lamps: &[lamp!("years.age", "Age", &["years.age", "years.storage"])], ..Column::new("years.age", "Age") };
pub const LOSSES_BY_HAND: Column = Column {
    lamps: &[lamp!("years.loss", "Losses by hand", &["years.loss", "years.stain"])],
    ..Column::new("years.losses-by-hand", "Losses by hand")
};
pub const SUN: Column = Column { lamps: &[lamp!("years.sun", "Sun")], ..Column::new("years.sun", "Sun") };
pub const MARKS: Column = Column {
    lamps: &[lamp!("years.mirroring", "Mirroring"), lamp!("years.foxing", "Foxing"), lamp!("years.water", "Water")],
    ..Column::new("years.marks", "Marks")
};
pub const WHERE: Column = Column { tools: &[Tool::Masks], ..Column::new("years.where", "Where") };

pub const COLUMNS: [Column; 5] = [AGE, LOSSES_BY_HAND, SUN, MARKS, WHERE];
