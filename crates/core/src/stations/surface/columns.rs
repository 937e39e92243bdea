//! The columns of the bench in which the controls of Surface stand, in order: the sheets, the one that is chosen, and
//! the mount.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Face, lamp};

/// One that shows members of the chosen sheet.
const fn of_sheet(id: &'static str, label: &'static str) -> Column {
    Column { face: Face::Sheet, ..Column::new(id, label) }
}

pub const SHEETS: Column = Column { face: Face::Sheets, ..Column::new("surface.sheets", "Sheets") };
pub const SHEET: Column = of_sheet("surface.sheet", "Sheet");
pub const LIES: Column = of_sheet("surface.lies", "Lies");
pub const COLOURS: Column = of_sheet("surface.colours", "Its colours");
pub const WHERE: Column = of_sheet("surface.where", "Where");

pub const MOUNT: Column =
    Column { lamps: &[lamp!("surface.mount", "Mount")], ..Column::second("surface.mount", "Mount") };

pub const MOUNT_SIZE: Column = Column::second("surface.mount-size", "Film and size");

pub const COLUMNS: [Column; 7] = [SHEETS, SHEET, LIES, COLOURS, WHERE, MOUNT, MOUNT_SIZE];
