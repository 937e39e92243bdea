//! The columns of the bench in which the controls of Print stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, lamp};

pub const PAPER: Column = Column::new("print.paper", "Paper");
pub const ENLARGER: Column = Column::new("print.enlarger", "Enlarger");
pub const WHITE_AND_BLACK: Column = Column::new("print.white-and-black", "White and black");
pub const ACUTANCE: Column =
    Column { lamps: &[lamp!("print.acutance", "Acutance")], ..Column::second("print.acutance", "Acutance") };
pub const PRINT_CURVE: Column = Column {
    lamps: &[lamp!("print.curve", "Print curve")],
    wide: true,
    ..Column::second("print.print-curve", "Print curve")
};
pub const HUES_OF_THE_PRINT: Column = Column {
    lamps: &[lamp!("print.band", "Hues of the print")],
    wide: true,
    ..Column::second("print.hues-of-the-print", "Hues of the print")
};

pub const COLUMNS: [Column; 6] = [PAPER, ENLARGER, WHITE_AND_BLACK, ACUTANCE, PRINT_CURVE, HUES_OF_THE_PRINT];
