//! The columns of the bench in which the controls of Print stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, lamp};

pub const PAPER: Column =
    Column::new("print.paper", "Paper", "The sheet in the enlarger: its grade, its surface, the tone of its emulsion.");
pub const ENLARGER: Column = Column::new(
    "print.enlarger",
    "Enlarger",
    "The lamp: how long, and through which yellow, magenta and cyan filters.",
);
pub const WHITE_AND_BLACK: Column = Column::new(
    "print.white-and-black",
    "White and black",
    "The whitest and the blackest that the sheet can be, and how much of film and paper is seen at all.",
);
pub const ACUTANCE: Column = Column {
    lamps: &[lamp!("print.acutance", "Acutance")],
    ..Column::second(
        "print.acutance",
        "Acutance",
        "Edges: developers that work on them, and the unsharp mask laid on the negative.",
    )
};
pub const PRINT_CURVE: Column = Column {
    lamps: &[lamp!("print.curve", "Print curve")],
    wide: true,
    ..Column::second(
        "print.print-curve",
        "Print curve",
        "Printing through masks and with several grades: the tone scale bent by hand.",
    )
};
pub const HUES_OF_THE_PRINT: Column = Column {
    lamps: &[lamp!("print.band", "Hues of the print")],
    wide: true,
    ..Column::second(
        "print.hues-of-the-print",
        "Hues of the print",
        "Retouching with dyes: each hue of the print by itself.",
    )
};

pub const COLUMNS: [Column; 6] = [PAPER, ENLARGER, WHITE_AND_BLACK, ACUTANCE, PRINT_CURVE, HUES_OF_THE_PRINT];
