//! The controls of Film.
#![allow(missing_docs, reason = "a control says itself in its help, and the settings are its values")]

use super::columns;
use super::curve::CharacteristicCurve;
use crate::colour::hue_bands::BANDS;
use crate::controls::{Choice, Column, Control, Kind, Own, Rest, Scale, Unit, Values};
use crate::mask::MaskUse;
use crate::picture::Gate;
use crate::stations::Station;
use crate::stations::lens::LensFilter;
use crate::stock::{CurveShape, Stock};

/// The film sizes of the trade with their gates in mm.
pub const SIZES: [(Choice, Gate); 14] = [
    (Choice { id: "pocket", label: "Pocket, 17 × 13 mm" }, Gate::new(17.0, 13.0)),
    (Choice { id: "half", label: "Half frame, 24 × 18 mm" }, Gate::new(24.0, 18.0)),
    (Choice { id: "cine-academy", label: "35 mm cine, 22 × 16 mm" }, Gate::new(21.9, 16.0)),
    (Choice { id: "cine", label: "35 mm cine, 25 × 19 mm" }, Gate::new(24.9, 18.7)),
    (Choice { id: "35", label: "35 mm, 36 × 24 mm" }, Gate::new(36.0, 24.0)),
    (Choice { id: "645", label: "6 × 4½ cm" }, Gate::new(56.0, 41.5)),
    (Choice { id: "small-plate", label: "Small plate, 60 × 45 mm" }, Gate::new(60.0, 45.0)),
    (Choice { id: "66", label: "6 × 6 cm" }, Gate::new(56.0, 56.0)),
    (Choice { id: "67", label: "6 × 7 cm" }, Gate::new(69.5, 56.0)),
    (Choice { id: "instant", label: "Instant, 79 × 79 mm" }, Gate::new(79.0, 79.0)),
    (Choice { id: "quarter", label: "Quarter plate, 95 × 73 mm" }, Gate::new(95.0, 73.0)),
    (Choice { id: "9x12", label: "9 × 12 cm plate" }, Gate::new(120.0, 90.0)),
    (Choice { id: "4x5", label: "4 × 5 in" }, Gate::new(120.0, 96.0)),
    (Choice { id: "8x10", label: "8 × 10 in" }, Gate::new(245.0, 194.0)),
];

/// The gate of a stock that has none of the list's.
const OWN_SIZE: Choice = Choice { id: "own", label: "The stock's own gate" };

const SIZE_CHOICES: [Choice; SIZES.len() + 1] = {
    let mut list = [OWN_SIZE; SIZES.len() + 1];
    let mut i = 0;
    while i < SIZES.len() {
        list[i] = SIZES[i].0;
        i += 1;
    }
    list
};

/// The size on the list that is just the stock's own.
fn own_size(stock: &Stock) -> &'static str {
    let gate = stock.gate();
    SIZES.iter().find(|s| s.1 == gate).map_or(OWN_SIZE.id, |s| s.0.id)
}

pub const SIZE: Control = Control {
    kind: Kind::Choice(&SIZE_CHOICES),
    own: Own::StockChoice(own_size),
    rest: Rest::Stays,
    help: "The film in the camera. Grain and halation keep their size on the film, so a larger film shows less.",
    ..Control::scalar("film.size", Station::Film, &columns::RATING, "Film size")
};
pub const PUSH: Control = Control {
    unit: Unit::Stops,
    kind: Kind::Scalar { low: -2.0, high: 2.0, step: 0.25, decimals: 2, scale: Scale::Linear },
    two_sided: true,
    help: "Rate the film this many stops faster and develop it longer: more contrast, fog and grain.",
    ..Control::scalar("film.push", Station::Film, &columns::RATING, "Push, pull")
};
pub const GRANULARITY: Control = Control {
    kind: Kind::Scalar { low: 0.0, high: 50.0, step: 0.5, decimals: 1, scale: Scale::Linear },
    own: Own::Stock(|stock| stock.grain.granularity),
    rest: Rest::Number(0.0),
    ratio: true,
    help: "RMS granularity: 1000 times the spread of density through a 48 µm spot. 0 is no grain.",
    ..Control::scalar("film.grain.granularity", Station::Film, &columns::GRAIN, "Granularity")
};
pub const GRAIN_SIZE: Control = Control {
    unit: Unit::Micrometres,
    kind: Kind::Scalar { low: 1.0, high: 25.0, step: 0.1, decimals: 1, scale: Scale::Linear },
    own: Own::Stock(|stock| stock.grain.diameter_um),
    ratio: true,
    help: "Mean diameter of a grain or dye cloud on the film.",
    ..Control::scalar("film.grain.size", Station::Film, &columns::GRAIN, "Size")
};
pub const ROUGHNESS: Control = Control {
    kind: Kind::Scalar { low: 0.0, high: 1.0, step: 0.01, decimals: 2, scale: Scale::Linear },
    own: Own::Stock(|stock| stock.grain.roughness),
    help: "From even grain to grain of mixed sizes in clusters.",
    ..Control::scalar("film.grain.roughness", Station::Film, &columns::GRAIN, "Roughness")
};

pub const COLOUR_SHARE: Control = Control {
    kind: Kind::Scalar { low: 0.0, high: 1.0, step: 0.01, decimals: 2, scale: Scale::Linear },
    own: Own::Stock(|stock| stock.grain.colour_share),
    applies: |stock| stock.layers() == 3,
    help: "0 is grain of one colour, as silver; 1 is dye clouds of three.",
    ..grain("film.grain.colour", &columns::GRAIN, "Colour share")
};
pub const GRAIN_SEED: Control = seed("film.grain.seed", Station::Film, &columns::GRAIN, "Piece of film");

const WEIGHT: Kind = Kind::Scalar { low: 0.0, high: 2.0, step: 0.01, decimals: 2, scale: Scale::Linear };
pub const GRAIN_SHADOWS: Control = Control {
    kind: WEIGHT,
    own: Own::Stock(|stock| stock.grain.zone_weights[0]),
    help: "How much grain the shadows of the scene show.",
    ..grain("film.grain.shadows", &columns::GRAIN_BY_TONE, "In shadows")
};
pub const GRAIN_MIDDLE: Control = Control {
    kind: WEIGHT,
    own: Own::Stock(|stock| stock.grain.zone_weights[1]),
    help: "How much grain the middle tones show.",
    ..grain("film.grain.middle", &columns::GRAIN_BY_TONE, "In middle tones")
};
pub const GRAIN_HIGHLIGHTS: Control = Control {
    kind: WEIGHT,
    own: Own::Stock(|stock| stock.grain.zone_weights[2]),
    help: "How much grain the lights of the scene show.",
    ..grain("film.grain.highlights", &columns::GRAIN_BY_TONE, "In lights")
};

const fn grain(id: &'static str, column: &'static Column, label: &'static str) -> Control {
    Control::scalar(id, Station::Film, column, label)
}

/// A counted number by which the random part of an effect is chosen.
pub const fn seed(id: &'static str, station: Station, column: &'static Column, label: &'static str) -> Control {
    Control {
        kind: Kind::Scalar { low: 0.0, high: 9999.0, step: 1.0, decimals: 0, scale: Scale::Linear },
        picture_specific: true,
        help: "Another number is another accident of the same kind.",
        ..Control::scalar(id, station, column, label)
    }
}

pub const INTERLAYER: Control = Control {
    kind: Kind::Scalar { low: 0.0, high: 2.0, step: 0.01, decimals: 2, scale: Scale::Linear },
    own: Own::Neutral(1.0),
    rest: Rest::Number(0.0),
    ratio: true,
    applies: |stock| stock.inhibition.is_some_and(|m| m.iter().flatten().any(|v| *v != 0.0)),
    help: "How strongly the layers hold one another back while they develop: the film's own saturation.",
    ..Control::scalar("film.interlayer", Station::Film, &columns::RATING, "Interlayer effect")
};

const fn hue(id: &'static str, label: &'static str, column: &'static Column) -> Control {
    Control {
        unit: Unit::Stops,
        kind: Kind::Scalar { low: -3.0, high: 3.0, step: 0.05, decimals: 2, scale: Scale::Linear },
        two_sided: true,
        help: "How light (plus) or dark (minus) this hue is recorded, before the film's curve. Greys stay.",
        ..Control::scalar(id, Station::Film, column, label)
    }
}

const WARM: &Column = &columns::SENSITIVITY_WARM_HUES;
const COLD: &Column = &columns::SENSITIVITY_COLD_HUES;
/// Sensitivity by hue, in the order of the bands.
pub const HUES: [Control; BANDS] = [
    hue("film.hue.red", "Red", WARM),
    hue("film.hue.orange", "Orange", WARM),
    hue("film.hue.yellow", "Yellow", WARM),
    hue("film.hue.green", "Green", COLD),
    hue("film.hue.cyan", "Cyan", COLD),
    hue("film.hue.blue", "Blue", COLD),
    hue("film.hue.violet", "Violet", COLD),
    hue("film.hue.magenta", "Magenta", WARM),
];

/// Where the sensitivity by hue is changed.
pub const HUES_WHERE: Control = Control::mask("film.hue.mask", Station::Film, COLD, "Sensitivity in");

/// Contrast, toe and shoulder of one layer.
#[derive(Debug, Clone, Copy)]
pub struct LayerControls {
    pub contrast: Control,
    pub toe: Control,
    pub shoulder: Control,
}

const GAMMA: Kind = Kind::Scalar { low: 0.2, high: 6.0, step: 0.01, decimals: 2, scale: Scale::Linear };
const WIDTH: Kind = Kind::Scalar { low: 0.03, high: 1.5, step: 0.01, decimals: 2, scale: Scale::Linear };

/// The shortest toe and shoulder: the line is straight as far as it can be.
const STRAIGHT: Rest = Rest::Number(0.03);

/// Rounded as it is shown, so that a typed own value is the own value.
fn own_gamma(stock: &Stock, layer: usize) -> f64 {
    let shape = stock.curves.list()[layer.min(stock.layers() - 1)];
    (CharacteristicCurve::new(shape, 0.0, false).greatest_slope() * 100.0).round() / 100.0
}

fn own_shape(stock: &Stock, layer: usize) -> CurveShape {
    stock.curves.list()[layer.min(stock.layers() - 1)]
}

macro_rules! layer_controls {
    ($name:literal, $tab:literal, $layer:literal, $applies:expr) => {
        LayerControls {
            contrast: Control {
                tab: $tab,
                kind: GAMMA,
                own: Own::Stock(|stock| own_gamma(stock, $layer)),
                ratio: true,
                applies: $applies,
                help: "The curve's greatest slope (gamma): density for each tenfold exposure.",
                ..Control::scalar(
                    concat!("film.curve.", $name, ".contrast"),
                    Station::Film,
                    &columns::CURVE,
                    "Contrast",
                )
            },
            toe: Control {
                tab: $tab,
                kind: WIDTH,
                own: Own::Stock(|stock| own_shape(stock, $layer).toe),
                rest: STRAIGHT,
                ratio: true,
                applies: $applies,
                help: "Width of the toe in log exposure: longer opens slowly out of the dark.",
                ..Control::scalar(concat!("film.curve.", $name, ".toe"), Station::Film, &columns::CURVE, "Toe")
            },
            shoulder: Control {
                tab: $tab,
                kind: WIDTH,
                own: Own::Stock(|stock| own_shape(stock, $layer).shoulder),
                rest: STRAIGHT,
                ratio: true,
                applies: $applies,
                help: "Width of the shoulder in log exposure: longer rolls the dense end off gently.",
                ..Control::scalar(
                    concat!("film.curve.", $name, ".shoulder"),
                    Station::Film,
                    &columns::CURVE,
                    "Shoulder",
                )
            },
        }
    };
}

/// Curve controls of the red-, green- and blue-sensitive layer, and of a single layer.
pub const CURVES: [LayerControls; 4] = [
    layer_controls!("red", "Red", 0, |stock| stock.layers() == 3),
    layer_controls!("green", "Green", 1, |stock| stock.layers() == 3),
    layer_controls!("blue", "Blue", 2, |stock| stock.layers() == 3),
    layer_controls!("single", "", 0, |stock| stock.layers() == 1),
];

pub const HALATION_STRENGTH: Control = Control {
    kind: Kind::Scalar { low: 0.0, high: 0.6, step: 0.005, decimals: 3, scale: Scale::Linear },
    own: Own::Stock(|stock| stock.halation.strength[0]),
    rest: Rest::Number(0.0),
    ratio: true,
    help: "Share of the light that the base throws back into the emulsion. Strong without a backing layer.",
    ..halation("film.halation.strength", "Strength")
};
pub const HALATION_THRESHOLD: Control = Control {
    kind: Kind::Scalar { low: 0.2, high: 0.98, step: 0.01, decimals: 2, scale: Scale::Linear },
    own: Own::Neutral(0.88),
    help: "From this value of the camera's picture on, light counts as a lamp, brighter than was recorded.",
    ..halation("film.halation.threshold", "Threshold")
};
pub const HALATION_RADIUS: Control = Control {
    unit: Unit::Micrometres,
    kind: Kind::Scalar { low: 10.0, high: 120.0, step: 1.0, decimals: 0, scale: Scale::Linear },
    own: Own::Neutral(35.0),
    help: "Spread of the inner glow on the film; the wider parts go with it.",
    ..halation("film.halation.radius", "Radius")
};
pub const HALATION_FAR: Control = Control {
    kind: Kind::Scalar { low: 0.0, high: 0.8, step: 0.01, decimals: 2, scale: Scale::Linear },
    own: Own::Neutral(0.22),
    help: "Share of the wide, faint glow.",
    ..halation("film.halation.far", "Far glow")
};
pub const HALATION_TINT: Control = Control {
    kind: Kind::Scalar { low: 0.0, high: 1.0, step: 0.01, decimals: 2, scale: Scale::Linear },
    own: Own::Stock(own_tint),
    applies: |stock| stock.layers() == 3,
    help: "How far it reaches the green-sensitive layer: 0 is red, 0.3 orange, 1 yellow.",
    ..Control::scalar("film.halation.tint", Station::Film, &columns::COLOUR_OF_HALATION, "Tint")
};
pub const HALATION_GUARD: Control = Control {
    kind: Kind::Scalar { low: 0.0, high: 1.0, step: 0.01, decimals: 2, scale: Scale::Linear },
    applies: |stock| stock.layers() == 3,
    help: "Holds the red back where the surroundings are blue, where it would turn violet.",
    ..Control::scalar("film.halation.guard", Station::Film, &columns::COLOUR_OF_HALATION, "Guard for blue")
};

fn own_tint(stock: &Stock) -> f64 {
    let s = &stock.halation.strength;
    match s.as_slice() {
        [red, green, ..] if *red > 0.0 => (green / red * 1000.0).round() / 1000.0,
        _ => 0.3,
    }
}

const fn halation(id: &'static str, label: &'static str) -> Control {
    Control::scalar(id, Station::Film, &columns::HALATION, label)
}

/// All controls of the station, in the order of the bench.
pub const CONTROLS: [Control; 38] = [
    SIZE,
    PUSH,
    INTERLAYER,
    CURVES[0].contrast,
    CURVES[0].toe,
    CURVES[0].shoulder,
    CURVES[1].contrast,
    CURVES[1].toe,
    CURVES[1].shoulder,
    CURVES[2].contrast,
    CURVES[2].toe,
    CURVES[2].shoulder,
    CURVES[3].contrast,
    CURVES[3].toe,
    CURVES[3].shoulder,
    HUES[7],
    HUES[0],
    HUES[1],
    HUES[2],
    HUES[3],
    HUES[4],
    HUES[5],
    HUES[6],
    HUES_WHERE,
    HALATION_STRENGTH,
    HALATION_THRESHOLD,
    HALATION_RADIUS,
    HALATION_FAR,
    HALATION_TINT,
    HALATION_GUARD,
    GRANULARITY,
    GRAIN_SIZE,
    ROUGHNESS,
    COLOUR_SHARE,
    GRAIN_SEED,
    GRAIN_SHADOWS,
    GRAIN_MIDDLE,
    GRAIN_HIGHLIGHTS,
];

/// What was tuned on a layer's curve; the stock's own where `None`.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct CurveTuning {
    /// Greatest slope.
    pub gamma: Option<f64>,
    pub toe: Option<f64>,
    pub shoulder: Option<f64>,
}

/// Light thrown back by the base. Lengths in um on the film.
#[derive(Debug, Clone, PartialEq)]
pub struct HalationSettings {
    pub strength: f64,
    pub threshold: f64,
    pub radius_um: f64,
    pub far_share: f64,
    /// Strength in the green-sensitive layer relative to the red-sensitive one; `None`: as the stock states.
    pub tint: Option<f64>,
    pub guard: f64,
}

/// The values of the station.
#[derive(Debug, Clone, PartialEq)]
pub struct FilmSettings {
    pub gate: Gate,
    pub push_stops: f64,
    pub interlayer: f64,
    /// One per layer of the film.
    pub curves: Vec<CurveTuning>,
    pub hue_stops: [f64; BANDS],
    /// Where the hues are changed, where that is not the whole picture.
    pub hue_place: Option<MaskUse>,
    /// What stands in front of the lens.
    pub filter: LensFilter,
    pub halation: HalationSettings,
    pub granularity: f64,
    pub grain_diameter_um: f64,
    pub roughness: f64,
    pub colour_share: f64,
    pub grain_seed: u32,
    pub zone_weights: [f64; 3],
}

impl FilmSettings {
    pub fn read(values: &Values) -> Self {
        let stock = values.stock();
        let gate = values.stated(&SIZE).and_then(|value| SIZES.iter().find(|s| value.choice() == Some(s.0.id)));
        let layers = if stock.layers() == 3 { &CURVES[..3] } else { &CURVES[3..] };
        Self {
            gate: gate.map_or_else(|| stock.gate(), |s| s.1),
            push_stops: values.number(&PUSH),
            interlayer: values.number(&INTERLAYER),
            curves: layers
                .iter()
                .map(|l| CurveTuning {
                    gamma: values.stated_number(&l.contrast),
                    toe: values.stated_number(&l.toe),
                    shoulder: values.stated_number(&l.shoulder),
                })
                .collect(),
            hue_stops: HUES.each_ref().map(|c| values.number(c)),
            hue_place: values.mask(&HUES_WHERE),
            filter: LensFilter::read(values),
            halation: HalationSettings {
                strength: values.number(&HALATION_STRENGTH),
                threshold: values.number(&HALATION_THRESHOLD),
                radius_um: values.number(&HALATION_RADIUS),
                far_share: values.number(&HALATION_FAR),
                tint: values.stated_number(&HALATION_TINT),
                guard: values.number(&HALATION_GUARD),
            },
            granularity: values.number(&GRANULARITY),
            grain_diameter_um: values.number(&GRAIN_SIZE),
            roughness: values.number(&ROUGHNESS),
            colour_share: values.number(&COLOUR_SHARE),
            grain_seed: values.count(&GRAIN_SEED),
            zone_weights: [&GRAIN_SHADOWS, &GRAIN_MIDDLE, &GRAIN_HIGHLIGHTS].map(|c| values.number(c)),
        }
    }

    /// The stock's own values.
    pub fn own(stock: &Stock) -> Self {
        Self::read(&Values::own(stock))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::Catalogue;

    /// What the list of sizes says is what the film is.
    #[test]
    fn a_size_is_what_its_label_says() {
        for stock in Catalogue::all() {
            let own = SIZES.iter().find(|s| s.0.id == own_size(stock));
            assert_eq!(own.map(|s| s.1), Some(stock.gate()), "{}", stock.id);
        }
        for (choice, gate) in SIZES.iter().filter(|s| s.0.label.ends_with(" mm")) {
            let sides = format!("{:.0} × {:.0} mm", gate.long_mm, gate.short_mm);
            assert!(choice.label.ends_with(&sides), "{} and {sides}", choice.label);
        }
    }
}
