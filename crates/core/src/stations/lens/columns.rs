//! The columns of the bench in which the controls of Lens stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Tool};

pub const FORMAT: Column = Column::new("lens.format", "Format");
pub const CROP: Column = Column { tools: &[Tool::Level, Tool::Crop], ..Column::new("lens.crop", "Crop") };
pub const FILTER_AND_SHAKE: Column = Column::new("lens.filter-and-shake", "Filter and shake");
pub const FRINGES: Column = Column::new("lens.fringes", "Fringes");
pub const SOFTNESS: Column = Column::second("lens.softness", "Softness");
pub const FALLOFF: Column = Column::second("lens.falloff", "Falloff");
pub const MIDDLE: Column = Column { tools: &[Tool::Place], ..Column::second("lens.middle", "Middle") };
pub const BLOOM: Column = Column { tools: &[Tool::BloomAlone], ..Column::second("lens.bloom", "Bloom") };
pub const ADDED_LIGHT: Column = Column::second("lens.added-light", "Added light");
pub const WHERE: Column = Column { tools: &[Tool::Masks], ..Column::new("lens.where", "Where") };

pub const COLUMNS: [Column; 10] =
    [FORMAT, CROP, FILTER_AND_SHAKE, FRINGES, SOFTNESS, FALLOFF, MIDDLE, BLOOM, ADDED_LIGHT, WHERE];
