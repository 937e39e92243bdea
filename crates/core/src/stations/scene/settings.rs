//! The controls of Scene.

use super::white_balance::OWN_KELVIN;
use crate::controls::{Control, Kind, Own, Scale, Unit, Values};
use crate::stations::Station;
use crate::stock::Stock;

/// Own headroom of encoded white, in stops.
const OWN_HEADROOM: f64 = 1.0;

const fn control(id: &'static str, group: &'static str, label: &'static str) -> Control {
    Control::scalar(id, Station::Scene, group, label)
}

pub const EXPOSURE: Control = Control {
    unit: Unit::Stops,
    kind: Kind::Scalar { low: -5.0, high: 5.0, step: 0.05, decimals: 2, scale: Scale::Linear },
    two_sided: true,
    picture_specific: true,
    help: "Light before the film, in stops. Brightening here is clean; brightening the print is not.",
    ..control("scene.exposure", "Light", "Exposure")
};
pub const HEADROOM: Control = Control {
    unit: Unit::Stops,
    kind: Kind::Scalar { low: 0.0, high: 2.0, step: 0.05, decimals: 2, scale: Scale::Linear },
    own: Own::Neutral(OWN_HEADROOM),
    help: "Light that near-white regains, so that film has highlights to roll off.",
    ..control("scene.headroom", "Light", "Highlight headroom")
};
pub const RENDERING: Control = Control {
    kind: Kind::Scalar { low: 0.5, high: 1.2, step: 0.01, decimals: 2, scale: Scale::Linear },
    own: Own::Stock(|stock| stock.q),
    help: "Takes back the contrast that the camera put in. 1.00 leaves it; less is flatter.",
    ..control("scene.rendering", "Light", "Camera rendering")
};
pub const TEMPERATURE: Control = Control {
    unit: Unit::Kelvin,
    kind: Kind::Scalar { low: 2500.0, high: 12_000.0, step: 50.0, decimals: 0, scale: Scale::Reciprocal },
    own: Own::Neutral(OWN_KELVIN),
    picture_specific: true,
    help: "The light the scene had. Higher makes the picture warmer, lower cooler.",
    ..control("scene.temperature", "Balance", "Temperature")
};
pub const TINT: Control = Control {
    unit: Unit::Cc,
    kind: Kind::Scalar { low: -50.0, high: 50.0, step: 0.5, decimals: 1, scale: Scale::Linear },
    two_sided: true,
    picture_specific: true,
    help: "From green (minus) to magenta (plus), as a filter of that density.",
    ..control("scene.tint", "Balance", "Tint")
};

/// All controls of the station, in the order of the bench.
pub const CONTROLS: [Control; 5] = [EXPOSURE, HEADROOM, RENDERING, TEMPERATURE, TINT];

/// The values of the station.
#[derive(Debug, Clone, PartialEq)]
pub struct SceneSettings {
    pub exposure_stops: f64,
    pub headroom_stops: f64,
    pub rendering_exponent: f64,
    pub temperature_kelvin: f64,
    pub tint_cc: f64,
}

impl SceneSettings {
    pub fn read(values: &Values) -> Self {
        Self {
            exposure_stops: values.number(&EXPOSURE),
            headroom_stops: values.number(&HEADROOM),
            rendering_exponent: values.number(&RENDERING),
            temperature_kelvin: values.number(&TEMPERATURE),
            tint_cc: values.number(&TINT),
        }
    }

    /// The stock's own values.
    pub fn own(stock: &Stock) -> Self {
        Self::read(&Values::own(stock))
    }
}
