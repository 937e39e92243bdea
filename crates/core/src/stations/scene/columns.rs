//! The columns of the bench in which the controls of Scene stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, Face, Tool, lamp};

pub const LIGHT: Column = Column {
    tools: &[Tool::Meter],
    ..Column::new(
        "scene.light",
        "Light",
        "What a light meter and the lamps of the studio decide before the shutter is pressed.",
    )
};
pub const BALANCE: Column = Column {
    lamps: &[lamp!("scene.white", "Balance", &["scene.temperature", "scene.tint"]), lamp!("scene.local", "Local")],
    tools: &[Tool::Neutral, Tool::DodgeAndBurn],
    ..Column::new(
        "scene.balance",
        "Balance",
        "The colour of the light for which the film is made, and what a filter on lens or lamp would take of it.",
    )
};
pub const ZONE_PLACEMENT: Column = Column {
    lamps: &[lamp!("scene.zone", "Zone placement")],
    wide: true,
    face: Face::Zones,
    ..Column::new(
        "scene.zone-placement",
        "Zone placement",
        "The zone system: meter a tone, decide on which zone of the print it shall stand, and let the others follow.",
    )
};
pub const AIR_AND_DETAIL: Column = Column {
    lamps: &[
        lamp!("scene.air", "Air"),
        lamp!("scene.detail", "Detail", &["scene.local_contrast", "scene.detail"]),
        lamp!("scene.noise", "Noise"),
    ],
    ..Column::new(
        "scene.air-and-detail",
        "Air and detail",
        "Haze between the lens and the subject, and how crisp the light draws: a clear morning, mist, a soft sky.",
    )
};
pub const SCENE_CURVE: Column = Column {
    lamps: &[lamp!("scene.curve", "Scene curve")],
    wide: true,
    ..Column::second(
        "scene.scene-curve",
        "Scene curve",
        "The contrast of the light itself, as another hour of the day would have it.",
    )
};
pub const COLOUR: Column = Column {
    lamps: &[lamp!("scene.colour", "Colour", &["scene.saturation", "scene.quiet_colours", "scene.balance"])],
    ..Column::second(
        "scene.colour",
        "Colour",
        "The colours of the subject and of its light, before any film sees them.",
    )
};
pub const HUES_OF_THE_SCENE: Column = Column {
    lamps: &[lamp!("scene.band", "Hues of the scene")],
    wide: true,
    tools: &[Tool::PickBand],
    ..Column::second(
        "scene.hues-of-the-scene",
        "Hues of the scene",
        "Other paint on the subject: each hue by itself, before any film sees it.",
    )
};

/// Local adjustments stand with the masks, not on the bench.
pub const DODGE_AND_BURN: Column = Column::new(
    "scene.dodge-and-burn",
    "Dodge and burn",
    "Shading parts of the picture with a card or a hand, or giving them more light, for a while.",
);

pub const COLUMNS: [Column; 7] =
    [LIGHT, BALANCE, ZONE_PLACEMENT, AIR_AND_DETAIL, SCENE_CURVE, COLOUR, HUES_OF_THE_SCENE];
