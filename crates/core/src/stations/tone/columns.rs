//! The columns of the bench in which the controls of Tone stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Face, Tool, lamp};
use crate::stock::Stock;

pub const BATHS: Column = Column {
    lamps: &[lamp!("tone.bath", "Baths")],
    wide: true,
    face: Face::Baths,
    applies: Stock::has_silver,
    ..Column::new("tone.baths", "Baths")
};
pub const COATING: Column =
    Column { lamps: &[lamp!("tone.coating", "Coating")], ..Column::new("tone.coating", "Coating") };
pub const WASH: Column =
    Column { lamps: &[lamp!("tone.wash", "Wash"), lamp!("tone.grey", "Grey")], ..Column::new("tone.wash", "Wash") };
pub const WHERE: Column = Column { tools: &[Tool::Masks], ..Column::new("tone.where", "Where") };
pub const TONE_RAMP: Column = Column { wide: true, face: Face::Ramp, ..Column::second("tone.tone-ramp", "Tone ramp") };
pub const TWO_TONES: Column =
    Column { lamps: &[lamp!("tone.two", "Two tones")], ..Column::second("tone.two-tones", "Two tones") };
pub const FOUR_TONES: Column =
    Column { lamps: &[lamp!("tone.four", "Four tones")], ..Column::second("tone.four-tones", "Four tones") };
pub const HOW_MUCH: Column = Column::second("tone.how-much", "How much");

pub const COLUMNS: [Column; 8] = [BATHS, COATING, WASH, WHERE, TONE_RAMP, TWO_TONES, FOUR_TONES, HOW_MUCH];
