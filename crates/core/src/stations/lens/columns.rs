//! The columns of the bench in which the controls of Lens stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Tool, lamp};

pub const FORMAT: Column = Column::new("lens.format", "Format");
pub const CROP: Column = Column { tools: &[Tool::Level, Tool::Crop], ..Column::new("lens.crop", "Crop") };
pub const FILTER_AND_SHAKE: Column = Column {
    lamps: &[lamp!("lens.filter", "Filter"), lamp!("lens.shake", "Shake")],
    ..Column::new("lens.filter-and-shake", "Filter and shake")
};
pub const FRINGES: Column =
    Column { lamps: &[lamp!("lens.fringes", "Fringes")], ..Column::new("lens.fringes", "Fringes") };
pub const SOFTNESS: Column =
    Column { lamps: &[lamp!("lens.softness", "Softness")], ..Column::second("lens.softness", "Softness") };
pub const FALLOFF: Column =
    Column { lamps: &[lamp!("lens.falloff", "Falloff")], ..Column::second("lens.falloff", "Falloff") };
pub const MIDDLE: Column = Column { tools: &[Tool::Place], ..Column::second("lens.middle", "Middle") };
pub const BLOOM: Column = Column {
    lamps: &[lamp!("lens.bloom", "Bloom")],
    tools: &[Tool::BloomAlone],
    ..Column::second("lens.bloom", "Bloom")
};
pub const ADDED_LIGHT: Column = Column {
    lamps: &[lamp!("lens.flash", "Flash"), lamp!("lens.veil", "Veil")],
    ..Column::second("lens.added-light", "Added light")
};
pub const WHERE: Column = Column { tools: &[Tool::Masks], ..Column::new("lens.where", "Where") };

pub const COLUMNS: [Column; 10] =
    [FORMAT, CROP, FILTER_AND_SHAKE, FRINGES, SOFTNESS, FALLOFF, MIDDLE, BLOOM, ADDED_LIGHT, WHERE];
