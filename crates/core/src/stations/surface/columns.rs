//! The columns of the bench in which the controls of Surface stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Face, Tool};

pub const SHEETS: Column = Column { wide: true, face: Face::Sheets, ..Column::new("surface.sheets", "Sheets") };
pub const CLEAR: Column = Column { tools: &[Tool::Masks], ..Column::second("surface.keep", "Keep clear") };

pub const COLUMNS: [Column; 2] = [SHEETS, CLEAR];
