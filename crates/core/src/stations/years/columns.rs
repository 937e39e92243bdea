//! The columns of the bench in which the controls of Years stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Tool};

pub const AGE: Column = Column::new("years.age", "Age");
pub const LOSSES_BY_HAND: Column = Column::new("years.losses-by-hand", "Losses by hand");
pub const SUN: Column = Column::new("years.sun", "Sun");
pub const MARKS: Column = Column::new("years.marks", "Marks");
pub const WHERE: Column = Column { tools: &[Tool::Masks], ..Column::new("years.where", "Where") };

pub const COLUMNS: [Column; 5] = [AGE, LOSSES_BY_HAND, SUN, MARKS, WHERE];
