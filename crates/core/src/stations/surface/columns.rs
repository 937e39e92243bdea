//! The columns of the bench in which the controls of Surface stand, in order: the sheets, the one that is chosen, and
//! the mount.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Face, lamp};

/// One that shows members of the chosen sheet.
const fn of_sheet(id: &'static str, label: &'static str, darkroom: &'static str) -> Column {
    Column { face: Face::Sheet, ..Column::new(id, label, darkroom) }
}

pub const SHEETS: Column = Column {
    face: Face::Sheets,
    ..Column::new(
        "surface.sheets",
        "Sheets",
        "What lies on the film, the print or the glass: dust, leaks, textures, other pictures.",
    )
};
pub const SHEET: Column =
    of_sheet("surface.sheet", "Sheet", "One of them: what it is, when it came there and how strong it is.");
pub const LIES: Column = of_sheet("surface.lies", "Lies", "How it lies: where, how large, which way round.");
pub const COLOURS: Column = of_sheet("surface.colours", "Its colours", "Its own colours, and what of it is left out.");
pub const WHERE: Column = of_sheet(
    "surface.where",
    "Where",
    "Which part of the picture it leaves free, and which accident of its kind it is.",
);

pub const MOUNT: Column = Column {
    lamps: &[lamp!("surface.mount", "Mount")],
    ..Column::second(
        "surface.mount",
        "Mount",
        "What the print is shown in: a border, a card with a window, an instant frame, the film's own rebate.",
    )
};

pub const MOUNT_SIZE: Column = Column::second(
    "surface.mount-size",
    "Film and size",
    "The film round the frame, and whether the print grows by its mount.",
);

pub const COLUMNS: [Column; 7] = [SHEETS, SHEET, LIES, COLOURS, WHERE, MOUNT, MOUNT_SIZE];
