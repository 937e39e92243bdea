//! The controls of Scene.
#![allow(missing_docs, reason = "a control says itself in its help, and the settings are its values")]

use super::colour::Band;
pub use super::colour::ColourSettings;
use super::columns;
use super::local::LocalSettings;
use super::noise::NoiseSettings;
pub use super::structure::{StructureSettings, ZONES};
use super::white_balance::OWN_KELVIN;
use crate::colour::hue_bands::BANDS;
use crate::controls::{Column, Control, Kind, Own, Scale, Unit, Values, range};
use crate::stations::Station;
use crate::stock::Stock;

/// Own headroom of encoded white, in stops.
const OWN_HEADROOM: f64 = 1.0;
/// Tones that are balanced apart: shadows, mid-tones, lights.
pub const TONES: usize = 3;

const fn control(id: &'static str, column: &'static Column, label: &'static str) -> Control {
    Control::scalar(id, Station::Scene, column, label)
}

pub const EXPOSURE: Control = Control {
    unit: Unit::Stops,
    kind: range(-5.0, 5.0, 0.05, 2),
    two_sided: true,
    picture_specific: true,
    help: "Light before the film, in stops. Brightening here is clean; brightening the print is not.",
    ..control("scene.exposure", &columns::LIGHT, "Exposure")
};
pub const HEADROOM: Control = Control {
    unit: Unit::Stops,
    kind: range(0.0, 2.0, 0.05, 2),
    own: Own::Neutral(OWN_HEADROOM),
    help: "Light that near-white regains, so that film has highlights to roll off.",
    ..control("scene.headroom", &columns::LIGHT, "Highlight headroom")
};
pub const RENDERING: Control = Control {
    kind: range(0.5, 1.2, 0.01, 2),
    own: Own::Stock(|stock| stock.q),
    help: "Takes back the contrast that the camera put in. 1.00 leaves it; less is flatter.",
    ..control("scene.rendering", &columns::LIGHT, "Camera rendering")
};
pub const TEMPERATURE: Control = Control {
    unit: Unit::Kelvin,
    kind: Kind::Scalar { low: 2500.0, high: 12_000.0, step: 50.0, decimals: 0, scale: Scale::Reciprocal },
    own: Own::Neutral(OWN_KELVIN),
    picture_specific: true,
    help: "The light the scene had. Higher makes the picture warmer, lower cooler.",
    ..control("scene.temperature", &columns::BALANCE, "Temperature")
};
pub const TINT: Control = Control {
    unit: Unit::Cc,
    kind: range(-50.0, 50.0, 0.5, 1),
    two_sided: true,
    picture_specific: true,
    help: "From green (minus) to magenta (plus), as a filter of that density.",
    ..control("scene.tint", &columns::BALANCE, "Tint")
};

macro_rules! zone {
    ($number:literal, $label:literal) => {
        Control {
            unit: Unit::Stops,
            kind: range(-3.0, 3.0, 0.05, 2),
            two_sided: true,
            picture_specific: true,
            help: "Where this tone of the picture is placed, in stops from where it was metered. Detail is kept.",
            ..control(concat!("scene.zone.", $number), &columns::ZONE_PLACEMENT, concat!("Zone ", $label))
        }
    };
}

/// Zones 0 to X.
pub const PLACED: [Control; ZONES] = [
    zone!("0", "0"),
    zone!("1", "I"),
    zone!("2", "II"),
    zone!("3", "III"),
    zone!("4", "IV"),
    zone!("5", "V"),
    zone!("6", "VI"),
    zone!("7", "VII"),
    zone!("8", "VIII"),
    zone!("9", "IX"),
    zone!("10", "X"),
];

pub const AIR: Control = Control {
    kind: range(-1.0, 1.0, 0.01, 2),
    two_sided: true,
    help: "To the left haze is cut, to the right the frame's own light is laid over it, as flare does.",
    ..control("scene.air", &columns::AIR_AND_DETAIL, "Air")
};
pub const LOCAL_CONTRAST: Control = Control {
    kind: range(-1.0, 1.0, 0.01, 2),
    two_sided: true,
    help: "Contrast of larger shapes against their surroundings; the picture's range stays.",
    ..control("scene.local_contrast", &columns::AIR_AND_DETAIL, "Local contrast")
};
pub const DETAIL: Control = Control {
    kind: range(-1.0, 1.0, 0.01, 2),
    two_sided: true,
    help: "Contrast of fine texture. To the left it is smoothed, edges stay.",
    ..control("scene.detail", &columns::AIR_AND_DETAIL, "Fine detail")
};
pub const LUMINANCE_NOISE: Control = Control {
    kind: range(0.0, 1.0, 0.01, 2),
    picture_specific: true,
    help: "Smooths the camera's noise before the film, by as much as the picture has.",
    ..control("scene.noise.luminance", &columns::AIR_AND_DETAIL, "Smooth noise")
};
pub const COLOUR_NOISE: Control = Control {
    kind: range(0.0, 1.0, 0.01, 2),
    picture_specific: true,
    help: "Smooths blotches of colour that the camera's noise left.",
    ..control("scene.noise.colour", &columns::AIR_AND_DETAIL, "Smooth colour noise")
};

const fn curve(id: &'static str, tab: &'static str) -> Control {
    Control {
        tab,
        unit: Unit::Percent,
        kind: Kind::Curve,
        own: Own::Line,
        help: "Tone before the film: from the picture's tones (across) to wanted ones (up), 0 is black.",
        ..control(id, &columns::SCENE_CURVE, tab)
    }
}

/// Master, red, green, blue.
pub const CURVES: [Control; 4] = [
    curve("scene.curve.master", "Master"),
    curve("scene.curve.red", "Red"),
    curve("scene.curve.green", "Green"),
    curve("scene.curve.blue", "Blue"),
];

pub const SATURATION: Control = Control {
    tab: "All",
    unit: Unit::Percent,
    kind: range(-100.0, 100.0, 1.0, 0),
    two_sided: true,
    help: "Saturation of all colours before the film; hue and lightness stay.",
    ..control("scene.saturation", &columns::COLOUR, "Saturation")
};
pub const QUIET: Control = Control {
    tab: "All",
    unit: Unit::Percent,
    kind: range(-100.0, 100.0, 1.0, 0),
    two_sided: true,
    help: "Saturation of pale colours first; skin is spared.",
    ..control("scene.quiet_colours", &columns::COLOUR, "Quiet colours")
};

/// Balance of one range of tones along three axes.
#[derive(Debug, Clone, Copy)]
pub struct ToneControls {
    pub red: Control,
    pub green: Control,
    pub blue: Control,
}

macro_rules! tone {
    ($name:literal, $tab:literal) => {
        ToneControls {
            red: Control {
                tab: $tab,
                unit: Unit::Cc,
                kind: range(-40.0, 40.0, 0.5, 1),
                two_sided: true,
                help: "From cyan (minus) to red (plus) in these tones, as a filter of that density.",
                ..control(concat!("scene.balance.", $name, ".red"), &columns::COLOUR, "Cyan to red")
            },
            green: Control {
                tab: $tab,
                unit: Unit::Cc,
                kind: range(-40.0, 40.0, 0.5, 1),
                two_sided: true,
                help: "From magenta (minus) to green (plus) in these tones, as a filter of that density.",
                ..control(concat!("scene.balance.", $name, ".green"), &columns::COLOUR, "Magenta to green")
            },
            blue: Control {
                tab: $tab,
                unit: Unit::Cc,
                kind: range(-40.0, 40.0, 0.5, 1),
                two_sided: true,
                help: "From yellow (minus) to blue (plus) in these tones, as a filter of that density.",
                ..control(concat!("scene.balance.", $name, ".blue"), &columns::COLOUR, "Yellow to blue")
            },
        }
    };
}

/// Shadows, mid-tones, lights.
pub const TONE_BALANCE: [ToneControls; TONES] =
    [tone!("shadows", "Shadows"), tone!("middle", "Middle"), tone!("lights", "Lights")];

/// Hue, saturation and lightness of one band.
#[derive(Debug, Clone, Copy)]
pub struct BandControls {
    pub hue: Control,
    pub saturation: Control,
    pub lightness: Control,
}

macro_rules! band {
    ($name:literal, $tab:literal) => {
        BandControls {
            hue: Control {
                tab: $tab,
                unit: Unit::Degrees,
                kind: range(-40.0, 40.0, 1.0, 0),
                two_sided: true,
                help: "Turns this hue towards its neighbours, before the film.",
                ..control(concat!("scene.band.", $name, ".hue"), &columns::HUES_OF_THE_SCENE, "Hue")
            },
            saturation: Control {
                tab: $tab,
                unit: Unit::Percent,
                kind: range(-100.0, 100.0, 1.0, 0),
                two_sided: true,
                help: "Saturation of this hue, before the film.",
                ..control(concat!("scene.band.", $name, ".saturation"), &columns::HUES_OF_THE_SCENE, "Saturation")
            },
            lightness: Control {
                tab: $tab,
                unit: Unit::Stops,
                kind: range(-2.0, 2.0, 0.05, 2),
                two_sided: true,
                help: "Light of this hue, before the film.",
                ..control(concat!("scene.band.", $name, ".lightness"), &columns::HUES_OF_THE_SCENE, "Lightness")
            },
        }
    };
}

/// The bands in the order of the hues.
pub const HUE_BANDS: [BandControls; BANDS] = [
    band!("red", "Red"),
    band!("orange", "Orange"),
    band!("yellow", "Yellow"),
    band!("green", "Green"),
    band!("cyan", "Cyan"),
    band!("blue", "Blue"),
    band!("violet", "Violet"),
    band!("magenta", "Magenta"),
];

const LIGHT: [Control; 5] = [EXPOSURE, HEADROOM, RENDERING, TEMPERATURE, TINT];
const STRUCTURE: [Control; 5] = [AIR, LOCAL_CONTRAST, DETAIL, LUMINANCE_NOISE, COLOUR_NOISE];
const COUNT: usize = LIGHT.len() + ZONES + STRUCTURE.len() + CURVES.len() + 2 + 3 * TONES + 3 * BANDS;

const fn put<const N: usize>(list: &mut [Control; COUNT], start: usize, part: [Control; N]) -> usize {
    let mut i = 0;
    while i < N {
        list[start + i] = part[i];
        i += 1;
    }
    start + N
}

/// All controls of the station, in the order of the bench.
pub const CONTROLS: [Control; COUNT] = {
    let mut list = [EXPOSURE; COUNT];
    let mut at = put(&mut list, 0, LIGHT);
    at = put(&mut list, at, PLACED);
    at = put(&mut list, at, STRUCTURE);
    at = put(&mut list, at, CURVES);
    at = put(&mut list, at, [SATURATION, QUIET]);
    let mut tone = 0;
    while tone < TONES {
        let t = TONE_BALANCE[tone];
        at = put(&mut list, at, [t.red, t.green, t.blue]);
        tone += 1;
    }
    let mut band = 0;
    while band < BANDS {
        let b = HUE_BANDS[band];
        at = put(&mut list, at, [b.hue, b.saturation, b.lightness]);
        band += 1;
    }
    list
};

/// The values of the station.
#[derive(Debug, Clone, PartialEq)]
pub struct SceneSettings {
    pub exposure_stops: f64,
    pub headroom_stops: f64,
    pub rendering_exponent: f64,
    pub temperature_kelvin: f64,
    pub tint_cc: f64,
    pub noise: NoiseSettings,
    /// -1 clear to 1 veiled.
    pub air: f64,
    pub structure: StructureSettings,
    /// Points of the master, red, green and blue curve that are not straight.
    pub curves: [Option<Vec<[f64; 2]>>; 4],
    /// Density in CC towards red, green and blue in shadows, mid-tones and lights.
    pub balance_cc: [[f64; 3]; TONES],
    pub colour: ColourSettings,
    /// Dodge and burn.
    pub locals: Vec<LocalSettings>,
}

impl SceneSettings {
    pub fn read(values: &Values) -> Self {
        let share = |c: &Control| values.number(c) / 100.0;
        Self {
            exposure_stops: values.number(&EXPOSURE),
            headroom_stops: values.number(&HEADROOM),
            rendering_exponent: values.number(&RENDERING),
            temperature_kelvin: values.number(&TEMPERATURE),
            tint_cc: values.number(&TINT),
            noise: Self::noise(values),
            air: values.number(&AIR),
            structure: StructureSettings {
                placed_stops: PLACED.each_ref().map(|c| values.number(c)),
                local_contrast: values.number(&LOCAL_CONTRAST),
                detail: values.number(&DETAIL),
            },
            curves: CURVES.each_ref().map(|c| values.bent_curve(c)),
            balance_cc: TONE_BALANCE.each_ref().map(|t| [&t.red, &t.green, &t.blue].map(|c| values.number(c))),
            colour: ColourSettings {
                saturation: share(&SATURATION),
                quiet: share(&QUIET),
                bands: HUE_BANDS.each_ref().map(|b| Band {
                    hue_degrees: values.number(&b.hue),
                    saturation: share(&b.saturation),
                    stops: values.number(&b.lightness),
                }),
            },
            locals: LocalSettings::read(values),
        }
    }

    /// What is done about noise: all that must be known to make the source.
    pub fn noise(values: &Values) -> NoiseSettings {
        NoiseSettings { luminance: values.number(&LUMINANCE_NOISE), colour: values.number(&COLOUR_NOISE) }
    }

    /// The stock's own values.
    pub fn own(stock: &Stock) -> Self {
        Self::read(&Values::own(stock))
    }
}
