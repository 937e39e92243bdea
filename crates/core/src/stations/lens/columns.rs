//! The columns of the bench in which the controls of Lens stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Tool, lamp};

pub const FORMAT: Column =
    Column::new("lens.format", "Format", "The shape of the frame in the camera, and how it was held.");
pub const CROP: Column = Column {
    tools: &[Tool::Level, Tool::Crop],
    ..Column::new(
        "lens.crop",
        "Crop",
        "The easel under the enlarger: which part of the negative is printed, and how large.",
    )
};
pub const FILTER_AND_SHAKE: Column = Column {
    lamps: &[lamp!("lens.filter", "Filter"), lamp!("lens.shake", "Shake")],
    ..Column::new(
        "lens.filter-and-shake",
        "Filter and shake",
        "Coloured glass in front of the lens, and an exposure that was too long to hold still.",
    )
};
pub const FRINGES: Column = Column {
    lamps: &[lamp!("lens.fringes", "Fringes")],
    ..Column::new(
        "lens.fringes",
        "Fringes",
        "Simple lenses bring red, green and blue to the same place only in the middle.",
    )
};
pub const SOFTNESS: Column = Column {
    lamps: &[lamp!("lens.softness", "Softness")],
    ..Column::second(
        "lens.softness",
        "Softness",
        "Uncorrected glass: never quite sharp, least at the edges, as meniscus and portrait lenses are.",
    )
};
pub const FALLOFF: Column = Column {
    lamps: &[lamp!("lens.falloff", "Falloff")],
    ..Column::second("lens.falloff", "Falloff", "Light that the lens loses towards the corners of the frame.")
};
pub const MIDDLE: Column = Column {
    tools: &[Tool::Place],
    ..Column::second("lens.middle", "Middle", "Where on the frame the lens points, for what falls off round it.")
};
pub const BLOOM: Column = Column {
    lamps: &[lamp!("lens.bloom", "Bloom")],
    tools: &[Tool::BloomAlone],
    ..Column::second(
        "lens.bloom",
        "Bloom",
        "Light that scatters in the glass, in a soft filter or in breath on the lens, and lies round bright places.",
    )
};
pub const ADDED_LIGHT: Column = Column {
    lamps: &[lamp!("lens.flash", "Flash"), lamp!("lens.veil", "Veil")],
    ..Column::second("lens.added-light", "Added light", "A lamp beside the lens, or the sun just outside the frame.")
};
pub const WHERE: Column = Column {
    tools: &[Tool::Masks],
    ..Column::new("lens.where", "Where", "A mask cut for the picture: where each effect reaches.")
};

pub const COLUMNS: [Column; 10] =
    [FORMAT, CROP, FILTER_AND_SHAKE, FRINGES, SOFTNESS, FALLOFF, MIDDLE, BLOOM, ADDED_LIGHT, WHERE];
