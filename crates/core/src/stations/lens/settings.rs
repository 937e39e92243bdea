//! The controls of Lens.
#![allow(missing_docs, reason = "a control says itself in its help, and the settings are its values")]

use super::bloom::BloomSettings;
use super::columns;
use super::falloff::FalloffSettings;
use super::flash::FlashSettings;
use super::fringes::FringesSettings;
use super::place::Middle;
use super::shake::ShakeSettings;
use super::softness::SoftnessSettings;
use super::veil::VeilSettings;
use crate::controls::{Choice, Choices, Column, Control, Kind, Own, Rest, Unit, Values, choices, range};
use crate::mask::MaskUse;
use crate::picture::framing::FramingSettings;
use crate::stations::Station;
use crate::stock::Stock;

const fn control(id: &'static str, column: &'static Column, label: &'static str) -> Control {
    Control::scalar(id, Station::Lens, column, label)
}

const fn percent(id: &'static str, column: &'static Column, label: &'static str, own: f64, high: f64) -> Control {
    Control::percent(id, Station::Lens, column, label, own, high)
}

const fn place(id: &'static str, tab: &'static str, label: &'static str) -> Control {
    Control {
        tab,
        unit: Unit::Percent,
        kind: range(-100.0, 100.0, 1.0, 0),
        two_sided: true,
        picture_specific: true,
        help: "Place of the middle, from the frame's centre to its sides.",
        ..control(id, &columns::MIDDLE, label)
    }
}

pub const MIRED: Control = Control {
    unit: Unit::Mired,
    kind: range(-150.0, 150.0, 1.0, 0),
    two_sided: true,
    help: "A warming (plus) or cooling (minus) filter. +112 turns daylight into lamplight.",
    ..control("lens.filter.mired", &columns::FILTER_AND_SHAKE, "Warming, cooling")
};
pub const COLOUR: Control = Control {
    kind: Kind::Choice(&[
        Choice { id: "none", label: "No colour" },
        Choice { id: "yellow", label: "Yellow" },
        Choice { id: "orange", label: "Orange" },
        Choice { id: "red", label: "Red" },
        Choice { id: "green", label: "Green" },
        Choice { id: "blue", label: "Deep blue" },
    ]),
    own: Own::StockChoice(|_| "none"),
    help: "A coloured filter in front of the lens. The exposure is metered through it.",
    ..control("lens.filter.colour", &columns::FILTER_AND_SHAKE, "Filter")
};
pub const DENSITY: Control = Control {
    kind: range(0.0, 2.0, 0.05, 2),
    own: Own::Neutral(1.0),
    help: "How dense the coloured filter is: 1.00 is as it is sold, 2.00 two of them.",
    ..control("lens.filter.density", &columns::FILTER_AND_SHAKE, "Filter density")
};
pub const SHAKE: Control = Control {
    unit: Unit::Micrometres,
    kind: range(0.0, 600.0, 5.0, 0),
    picture_specific: true,
    help: "How far the camera moved while the shutter was open, on the film.",
    ..control("lens.shake.length", &columns::FILTER_AND_SHAKE, "Shake")
};
pub const SHAKE_ANGLE: Control = Control {
    unit: Unit::Angle,
    kind: range(-90.0, 90.0, 1.0, 0),
    two_sided: true,
    picture_specific: true,
    help: "Direction of the shake, from the horizontal.",
    ..control("lens.shake.angle", &columns::FILTER_AND_SHAKE, "Shake angle")
};

pub const SOFT: Control = Control {
    unit: Unit::Micrometres,
    kind: range(0.0, 200.0, 1.0, 0),
    help: "Softness of the whole picture, on the film.",
    ..control("lens.softness.overall", &columns::SOFTNESS, "Overall")
};
pub const SOFT_EDGES: Control = Control {
    unit: Unit::Micrometres,
    kind: range(0.0, 600.0, 2.0, 0),
    help: "Softness that grows towards the edges, outside the clear middle.",
    ..control("lens.softness.edges", &columns::SOFTNESS, "Towards the edges")
};
pub const SOFT_SIZE: Control = Control {
    help: "Size of the clear middle: at 100 % it touches the frame's sides.",
    ..percent("lens.softness.size", &columns::SOFTNESS, "Clear middle", 30.0, 150.0)
};
pub const SOFT_FEATHER: Control = Control {
    help: "How slowly the clear middle goes over into softness.",
    ..percent("lens.softness.feather", &columns::SOFTNESS, "Feather", 80.0, 150.0)
};
pub const SOFT_ROUNDNESS: Control = Control {
    help: "100 % is an ellipse, 0 % a square with round corners.",
    ..percent("lens.softness.roundness", &columns::SOFTNESS, "Roundness", 100.0, 100.0)
};
const fn place_of(id: &'static str, label: &'static str) -> Control {
    Control::mask(id, Station::Lens, &columns::WHERE, label)
}

pub const SOFT_WHERE: Control = place_of("lens.softness.mask", "Softness in");
pub const SHAKE_WHERE: Control = place_of("lens.shake.mask", "Shake in");
pub const BLOOM_WHERE: Control = place_of("lens.bloom.mask", "Bloom in");
pub const SOFT_X: Control = place("lens.softness.x", "Softness", "Across");
pub const SOFT_Y: Control = place("lens.softness.y", "Softness", "Down");

pub const FALLOFF: Control = Control {
    unit: Unit::Stops,
    kind: range(-4.0, 3.0, 0.05, 2),
    two_sided: true,
    help: "Light outside the middle: minus darkens the edges, plus brightens them. Bright things stay bright.",
    ..control("lens.falloff.stops", &columns::FALLOFF, "Falloff")
};
pub const FALLOFF_SIZE: Control = Control {
    help: "Size of the middle that keeps its light.",
    ..percent("lens.falloff.size", &columns::FALLOFF, "Size", 40.0, 150.0)
};
pub const FALLOFF_FEATHER: Control = Control {
    help: "How slowly the light falls off.",
    ..percent("lens.falloff.feather", &columns::FALLOFF, "Feather", 100.0, 200.0)
};
pub const FALLOFF_ROUNDNESS: Control = Control {
    help: "100 % is an ellipse, 0 % a square with round corners.",
    ..percent("lens.falloff.roundness", &columns::FALLOFF, "Roundness", 100.0, 100.0)
};
pub const FALLOFF_ASPECT: Control = Control {
    tab: "Falloff",
    unit: Unit::Percent,
    kind: range(-100.0, 100.0, 1.0, 0),
    two_sided: true,
    help: "Wider (plus) or taller (minus) than the frame.",
    ..control("lens.falloff.aspect", &columns::MIDDLE, "Aspect")
};
pub const FALLOFF_X: Control = place("lens.falloff.x", "Falloff", "Across");
pub const FALLOFF_Y: Control = place("lens.falloff.y", "Falloff", "Down");
pub const NATURAL: Control = Control {
    unit: Unit::Angle,
    kind: range(0.0, 55.0, 1.0, 0),
    help: "The natural falloff of a plain lens, by the angle at which it sees the frame's corner.",
    ..control("lens.falloff.natural", &columns::FALLOFF, "Natural falloff")
};

pub const BLOOM: Control = Control {
    kind: range(0.0, 1.0, 0.01, 2),
    help: "Light sources glow before the film.",
    ..control("lens.bloom.strength", &columns::BLOOM, "Bloom")
};
pub const BLOOM_THRESHOLD: Control = Control {
    unit: Unit::Stops,
    kind: range(0.0, 5.0, 0.05, 2),
    own: Own::Neutral(2.0),
    help: "Light from which things glow, over mid grey.",
    ..control("lens.bloom.threshold", &columns::BLOOM, "From")
};
pub const BLOOM_RADIUS: Control = Control {
    kind: range(0.25, 3.0, 0.05, 2),
    own: Own::Neutral(1.0),
    help: "How far the glow reaches: at 1.00 most of it within 1 % of the diagonal.",
    ..control("lens.bloom.radius", &columns::BLOOM, "Radius")
};
pub const BLOOM_KEPT: Control = Control {
    help: "What the glow takes from the lights themselves: at 100 % the total light stays.",
    ..percent("lens.bloom.kept", &columns::BLOOM, "Taken from lights", 0.0, 100.0)
};

const fn fringe(id: &'static str, label: &'static str) -> Control {
    Control {
        unit: Unit::Micrometres,
        kind: range(-60.0, 60.0, 0.5, 1),
        two_sided: true,
        help: "Displacement against green at the frame's corner. Adds fringes, or takes the camera's away.",
        ..control(id, &columns::FRINGES, label)
    }
}

pub const FRINGE_RED: Control = fringe("lens.fringes.red", "Red, cyan");
pub const FRINGE_BLUE: Control = fringe("lens.fringes.blue", "Blue, yellow");

pub const FLASH: Control = Control {
    tab: "Flash",
    unit: Unit::Stops,
    kind: range(0.0, 4.0, 0.05, 2),
    picture_specific: true,
    help: "Light of a flash on the camera, on what is near it.",
    ..control("lens.flash.stops", &columns::ADDED_LIGHT, "Flash")
};
pub const FLASH_REACH: Control = Control {
    tab: "Flash",
    picture_specific: true,
    help: "How much of the frame the flash reaches.",
    ..percent("lens.flash.reach", &columns::ADDED_LIGHT, "Reach", 20.0, 150.0)
};
pub const FLASH_FEATHER: Control = Control {
    tab: "Flash",
    picture_specific: true,
    help: "How slowly the flash's light fades.",
    ..percent("lens.flash.feather", &columns::ADDED_LIGHT, "Feather", 100.0, 200.0)
};
/// Light from outside the frame.
pub const VEIL: Control = Control {
    tab: "Outside",
    picture_specific: true,
    help: "Light of a lamp or the sun beside the picture that veils it, 100 as much as mid grey.",
    ..percent("lens.veil.strength", &columns::ADDED_LIGHT, "Veil", 0.0, 300.0)
};
pub const VEIL_DIRECTION: Control = Control {
    tab: "Outside",
    unit: Unit::Angle,
    kind: range(-180.0, 180.0, 1.0, 0),
    own: Own::Neutral(60.0),
    picture_specific: true,
    help: "Where the lamp is: 0 right, 90 above, 180 left.",
    ..control("lens.veil.direction", &columns::ADDED_LIGHT, "From")
};
pub const VEIL_REACH: Control = Control {
    tab: "Outside",
    picture_specific: true,
    help: "How far over the frame the veil fades.",
    ..percent("lens.veil.reach", &columns::ADDED_LIGHT, "Reach", 80.0, 150.0)
};
pub const VEIL_COLOUR: Control = Control {
    tab: "Outside",
    kind: Kind::Colour,
    own: Own::Colour(|_| [255, 226, 188]),
    picture_specific: true,
    help: "Colour of the light from outside.",
    ..control("lens.veil.colour", &columns::ADDED_LIGHT, "Colour")
};
pub const FLASH_X: Control = place("lens.flash.x", "Flash", "Across");
pub const FLASH_Y: Control = place("lens.flash.y", "Flash", "Down");

/// The formats of the trade, by their longer over their shorter side; `shot` is the picture's own shape.
const FORMATS: [(Choice, Option<f64>); 9] = [
    (Choice { id: "shot", label: "As shot" }, None),
    (Choice { id: "1x1", label: "1:1" }, Some(1.0)),
    (Choice { id: "6x7", label: "6:7" }, Some(7.0 / 6.0)),
    (Choice { id: "4x5", label: "4:5" }, Some(1.25)),
    (Choice { id: "3x4", label: "3:4" }, Some(4.0 / 3.0)),
    (Choice { id: "5x7", label: "5:7" }, Some(1.4)),
    (Choice { id: "2x3", label: "2:3" }, Some(1.5)),
    (Choice { id: "9x16", label: "9:16" }, Some(16.0 / 9.0)),
    (Choice { id: "panorama", label: "Panorama" }, Some(65.0 / 24.0)),
];
const FORMAT_CHOICES: [Choice; FORMATS.len()] = {
    let mut list = [FORMATS[0].0; FORMATS.len()];
    let mut i = 0;
    while i < list.len() {
        list[i] = FORMATS[i].0;
        i += 1;
    }
    list
};

pub const FORMAT: Control = Control {
    kind: Kind::Choice(&FORMAT_CHOICES),
    own: Own::StockChoice(|_| "shot"),
    picture_specific: true,
    help: "Shape of the picture. The format fills the film's gate.",
    rest: Rest::Stays,
    ..control("lens.format", &columns::FORMAT, "Format")
};
pub const FORMAT_TURNED: Control = Control {
    kind: Kind::Switch,
    own: Own::Switch(false),
    picture_specific: true,
    help: "The format stands where the picture lies, or lies where it stands.",
    rest: Rest::Stays,
    ..control("lens.format.turned", &columns::FORMAT, "Other way round")
};
choices! {
    /// Turns of the picture by quarters.
    pub enum QuarterTurns {
        None = "0", "0°";
        One = "90", "90°";
        Two = "180", "180°";
        Three = "270", "270°";
    }
}

pub const TURN: Control = Control {
    kind: Kind::Choice(QuarterTurns::CHOICES),
    own: Own::StockChoice(|_| "0"),
    picture_specific: true,
    help: "Turns the picture by quarters, against the clock.",
    rest: Rest::Stays,
    ..control("lens.turn", &columns::FORMAT, "Turn")
};
pub const MIRROR: Control = Control {
    kind: Kind::Switch,
    own: Own::Switch(false),
    picture_specific: true,
    help: "Left and right change places.",
    rest: Rest::Stays,
    ..control("lens.mirror", &columns::FORMAT, "Mirror")
};
pub const DISTORTION: Control = Control {
    unit: Unit::Percent,
    kind: range(-100.0, 100.0, 1.0, 0),
    two_sided: true,
    help: "Barrel (minus) to pincushion (plus).",
    ..control("lens.distortion", &columns::FORMAT, "Distortion")
};
pub const CROP: Control = Control {
    unit: Unit::Percent,
    kind: range(20.0, 100.0, 0.5, 1),
    own: Own::Neutral(100.0),
    picture_specific: true,
    help: "Share of the format that is kept, under the enlarger: grain grows with it.",
    rest: Rest::Stays,
    ..control("lens.crop.size", &columns::CROP, "Size")
};
pub const CROP_X: Control = Control {
    help: "Where across, in what is left over.",
    unit: Unit::Percent,
    kind: range(-100.0, 100.0, 0.5, 1),
    two_sided: true,
    picture_specific: true,
    rest: Rest::Stays,
    ..control("lens.crop.x", &columns::CROP, "Across")
};
pub const CROP_Y: Control =
    Control { help: "Where down, in what is left over.", ..Control { id: "lens.crop.y", label: "Down", ..CROP_X } };
pub const STRAIGHTEN: Control = Control {
    unit: Unit::Angle,
    kind: range(-20.0, 20.0, 0.1, 1),
    two_sided: true,
    picture_specific: true,
    help: "Straightens a leaning picture; plus turns it against the clock.",
    rest: Rest::Stays,
    ..control("lens.straighten", &columns::CROP, "Straighten")
};

/// All controls of the station, in the order of the bench.
pub const CONTROLS: [Control; 47] = [
    FORMAT,
    FORMAT_TURNED,
    TURN,
    MIRROR,
    DISTORTION,
    CROP,
    CROP_X,
    CROP_Y,
    STRAIGHTEN,
    MIRED,
    COLOUR,
    DENSITY,
    SHAKE,
    SHAKE_ANGLE,
    FRINGE_RED,
    FRINGE_BLUE,
    SOFT,
    SOFT_EDGES,
    SOFT_SIZE,
    SOFT_FEATHER,
    SOFT_ROUNDNESS,
    FALLOFF,
    FALLOFF_SIZE,
    FALLOFF_FEATHER,
    FALLOFF_ROUNDNESS,
    NATURAL,
    SOFT_X,
    SOFT_Y,
    FALLOFF_X,
    FALLOFF_Y,
    FALLOFF_ASPECT,
    FLASH_X,
    FLASH_Y,
    BLOOM,
    BLOOM_THRESHOLD,
    BLOOM_RADIUS,
    BLOOM_KEPT,
    FLASH,
    FLASH_REACH,
    FLASH_FEATHER,
    VEIL,
    VEIL_DIRECTION,
    VEIL_REACH,
    VEIL_COLOUR,
    SOFT_WHERE,
    SHAKE_WHERE,
    BLOOM_WHERE,
];

/// The values of the station, without the filter: that belongs to the film's exposure.
#[derive(Debug, Clone, PartialEq)]
pub struct LensSettings {
    pub flash: FlashSettings,
    pub bloom: BloomSettings,
    pub softness: SoftnessSettings,
    pub fringes: FringesSettings,
    pub shake: ShakeSettings,
    pub falloff: FalloffSettings,
    pub veil: VeilSettings,
    pub places: LensPlaces,
}

/// Where effects apply, where that is not the whole picture.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct LensPlaces {
    pub softness: Option<MaskUse>,
    pub shake: Option<MaskUse>,
    pub bloom: Option<MaskUse>,
}

impl LensSettings {
    pub fn read(values: &Values) -> Self {
        let number = |c: &Control| values.number(c);
        let share = |c: &Control| values.number(c) / 100.0;
        Self {
            flash: FlashSettings {
                stops: number(&FLASH),
                middle: Middle {
                    size: share(&FLASH_REACH),
                    feather: share(&FLASH_FEATHER),
                    roundness: 1.0,
                    aspect: 0.0,
                    centre: [share(&FLASH_X), share(&FLASH_Y)],
                },
            },
            bloom: BloomSettings {
                strength: number(&BLOOM),
                threshold_stops: number(&BLOOM_THRESHOLD),
                radius: number(&BLOOM_RADIUS),
                kept: share(&BLOOM_KEPT),
            },
            softness: SoftnessSettings {
                overall_um: number(&SOFT),
                edges_um: number(&SOFT_EDGES),
                middle: Middle {
                    size: share(&SOFT_SIZE),
                    feather: share(&SOFT_FEATHER),
                    roundness: share(&SOFT_ROUNDNESS),
                    aspect: 0.0,
                    centre: [share(&SOFT_X), share(&SOFT_Y)],
                },
            },
            fringes: FringesSettings { red_um: number(&FRINGE_RED), blue_um: number(&FRINGE_BLUE) },
            shake: ShakeSettings { length_um: number(&SHAKE), angle_degrees: number(&SHAKE_ANGLE) },
            falloff: FalloffSettings {
                stops: number(&FALLOFF),
                middle: Middle {
                    size: share(&FALLOFF_SIZE),
                    feather: share(&FALLOFF_FEATHER),
                    roundness: share(&FALLOFF_ROUNDNESS),
                    aspect: share(&FALLOFF_ASPECT),
                    centre: [share(&FALLOFF_X), share(&FALLOFF_Y)],
                },
                natural_degrees: number(&NATURAL),
            },
            veil: VeilSettings {
                strength: share(&VEIL),
                direction_degrees: number(&VEIL_DIRECTION),
                reach: share(&VEIL_REACH),
                colour: values.value(&VEIL_COLOUR).colour().unwrap_or([255; 3]),
            },
            places: LensPlaces {
                softness: values.mask(&SOFT_WHERE),
                shake: values.mask(&SHAKE_WHERE),
                bloom: values.mask(&BLOOM_WHERE),
            },
        }
    }

    /// How the picture is framed: all that must be known to make the source.
    pub fn framing(values: &Values) -> FramingSettings {
        let share = |c: &Control| values.number(c) / 100.0;
        let chosen = values.value(&FORMAT);
        FramingSettings {
            quarter_turns: values.chosen::<QuarterTurns>(&TURN) as u8,
            mirrored: values.is_on(&MIRROR),
            straighten_degrees: values.number(&STRAIGHTEN),
            format: FORMATS.iter().find(|(f, _)| chosen.choice() == Some(f.id)).and_then(|(_, ratio)| *ratio),
            format_turned: values.is_on(&FORMAT_TURNED),
            size: share(&CROP),
            place: [share(&CROP_X), share(&CROP_Y)],
            distortion: share(&DISTORTION),
        }
    }

    /// The stock's own values.
    pub fn own(stock: &Stock) -> Self {
        Self::read(&Values::own(stock))
    }
}
