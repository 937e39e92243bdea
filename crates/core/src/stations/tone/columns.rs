//! The columns of the bench in which the controls of Tone stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Face, Tool, lamp};
use crate::stock::Stock;

pub const BATHS: Column = Column {
    lamps: &[lamp!("tone.bath", "Baths")],
    wide: true,
    face: Face::Baths,
    applies: Stock::has_silver,
    ..Column::new(
        "tone.baths",
        "Baths",
        "Toners, one after the other: each takes the silver that it reaches first and turns its colour.",
    )
};
pub const COATING: Column = Column {
    lamps: &[lamp!("tone.coating", "Coating")],
    ..Column::new(
        "tone.coating",
        "Coating",
        "The sensitiser brushed onto the sheet by hand: its edge, its strokes, the pigment in it.",
    )
};
pub const WASH: Column = Column {
    lamps: &[lamp!("tone.wash", "Wash"), lamp!("tone.grey", "Grey")],
    ..Column::new("tone.wash", "Wash", "A thin colour over the dry print, and colour taken away.")
};
pub const WHERE: Column = Column {
    tools: &[Tool::Masks],
    ..Column::new("tone.where", "Where", "Toning with a brush and a resist: where each effect reaches.")
};
pub const TONE_RAMP: Column = Column {
    wide: true,
    face: Face::Ramp,
    ..Column::second(
        "tone.tone-ramp",
        "Tone ramp",
        "The test strip of the toned print: which colour stands at which density.",
    )
};
pub const TWO_TONES: Column = Column {
    lamps: &[lamp!("tone.two", "Two tones")],
    ..Column::second("tone.two-tones", "Two tones", "Split toning: one colour in the darks, another in the lights.")
};
pub const FOUR_TONES: Column = Column {
    lamps: &[lamp!("tone.four", "Four tones")],
    ..Column::second("tone.four-tones", "Four tones", "Printing in four inks, each at its place of the tone scale.")
};
pub const HOW_MUCH: Column =
    Column::second("tone.how-much", "How much", "How far the inks and tints reach, and how softly they meet.");

pub const COLUMNS: [Column; 8] = [BATHS, COATING, WASH, WHERE, TONE_RAMP, TWO_TONES, FOUR_TONES, HOW_MUCH];
