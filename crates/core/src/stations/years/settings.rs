//! The controls of Years.
#![allow(missing_docs, reason = "a control says itself in its help, and the settings are its values")]

use super::columns;
use super::rates::{Losses, Storage};
use crate::controls::{Choices, Column, Control, Kind, Own, Rest, Unit, Values, range};
use crate::mask::MaskUse;
use crate::stations::Station;
use crate::stock::{FadeMode, Stock, StockKind};

/// Years of light that the sun at full strength adds.
const YEARS_OF_SUN: f64 = 70.0;

const fn control(id: &'static str, column: &'static Column, label: &'static str) -> Control {
    Control::scalar(id, Station::Years, column, label)
}

const fn seed(id: &'static str, column: &'static Column, label: &'static str) -> Control {
    Control {
        kind: range(0.0, 9999.0, 1.0, 0),
        picture_specific: true,
        help: "Another number is another accident.",
        ..control(id, column, label)
    }
}

fn ages(stock: &Stock) -> bool {
    stock.kind != StockKind::ScreenPlate
}

fn has_dyes(stock: &Stock) -> bool {
    stock.kind.has_dyes()
}

fn is_silver_print(stock: &Stock) -> bool {
    stock.has_silver() && stock.process.is_none()
}

pub const AGE: Control = Control {
    unit: Unit::Years,
    kind: range(0.0, 150.0, 1.0, 0),
    own: Own::Stock(|stock| stock.fade.as_ref().map_or(0.0, |f| f.years)),
    rest: Rest::Number(0.0),
    applies: ages,
    help: "Years since the print was made.",
    ..control("years.age", &columns::AGE, "Age")
};
pub const STORAGE: Control = Control {
    kind: Kind::Choice(Storage::CHOICES),
    own: Own::StockChoice(|stock| match stock.fade.as_ref().map(|f| f.mode) {
        Some(FadeMode::Light) => "wall",
        _ => "drawer",
    }),
    applies: ages,
    help: "Where it was kept: dark and dry, in the light, or warm and damp.",
    ..control("years.storage", &columns::AGE, "Kept in")
};

const fn loss(id: &'static str, label: &'static str, help: &'static str) -> Control {
    Control {
        unit: Unit::Percent,
        kind: range(-100.0, 100.0, 1.0, 0),
        two_sided: true,
        help,
        ..control(id, &columns::LOSSES_BY_HAND, label)
    }
}

pub const CYAN: Control = Control {
    applies: has_dyes,
    ..loss("years.loss.cyan", "Cyan lost", "Cyan dye lost beyond what age took; to the left some comes back.")
};
pub const MAGENTA: Control = Control {
    applies: has_dyes,
    ..loss("years.loss.magenta", "Magenta lost", "Magenta dye lost beyond what age took; to the left some comes back.")
};
pub const YELLOW: Control = Control {
    applies: has_dyes,
    ..loss("years.loss.yellow", "Yellow lost", "Yellow dye lost beyond what age took; to the left some comes back.")
};
pub const SULPHIDE: Control = Control {
    applies: is_silver_print,
    ..loss("years.loss.sulphide", "Sulphided", "Silver turned to brown sulphide beyond what age turned, lights first.")
};
pub const IMAGE: Control = Control {
    applies: Stock::has_silver,
    ..loss("years.loss.image", "Image lost", "Image lost beyond what age took; to the left some comes back.")
};
pub const STAIN: Control = Control {
    unit: Unit::Density,
    kind: range(-0.2, 0.5, 0.01, 2),
    two_sided: true,
    applies: ages,
    help: "Yellowing of the base beyond what age gave.",
    ..control("years.stain", &columns::LOSSES_BY_HAND, "Yellowing")
};

pub const SUN: Control = Control {
    kind: range(0.0, 1.0, 0.01, 2),
    applies: ages,
    help: "Damage by sun where its light fell: at 1.00 as seventy years of light.",
    ..control("years.sun.strength", &columns::SUN, "Sun")
};
pub const SUN_DIRECTION: Control = Control {
    unit: Unit::Angle,
    kind: range(-180.0, 180.0, 1.0, 0),
    own: Own::Neutral(135.0),
    two_sided: true,
    applies: ages,
    help: "From where the light came: 0 is the right, 90 above.",
    ..control("years.sun.direction", &columns::SUN, "From")
};
pub const SUN_SPREAD: Control = Control {
    unit: Unit::Percent,
    kind: range(5.0, 200.0, 1.0, 0),
    own: Own::Neutral(100.0),
    applies: ages,
    help: "How far over the picture it reached.",
    ..control("years.sun.spread", &columns::SUN, "Spread")
};
pub const SUN_SEED: Control = Control { applies: ages, ..seed("years.sun.seed", &columns::SUN, "Accident") };

pub const MIRRORING: Control = Control {
    tab: "Silver",
    kind: range(0.0, 1.0, 0.01, 2),
    applies: Stock::has_silver,
    help: "Silver come to the surface: a bluish sheen in the darks, near the edges.",
    ..control("years.mirroring", &columns::MARKS, "Silver mirroring")
};
pub const FOXING: Control = Control {
    tab: "Foxing",
    kind: range(0.0, 1.0, 0.01, 2),
    help: "Brown spots of mould and iron in the paper.",
    ..control("years.foxing.amount", &columns::MARKS, "Foxing")
};
pub const FOXING_SIZE: Control = Control {
    tab: "Foxing",
    unit: Unit::Percent,
    kind: range(30.0, 400.0, 5.0, 0),
    own: Own::Neutral(100.0),
    help: "Size of the spots.",
    ..control("years.foxing.size", &columns::MARKS, "Spot size")
};
pub const FOXING_SEED: Control = Control { tab: "Foxing", ..seed("years.foxing.seed", &columns::MARKS, "Accident") };
pub const WATER: Control = Control {
    tab: "Water",
    kind: range(0.0, 1.0, 0.01, 2),
    help: "Water that ran over it and dried, with the line where it stopped.",
    ..control("years.water.amount", &columns::MARKS, "Water stain")
};
pub const WATER_SEED: Control = Control { tab: "Water", ..seed("years.water.seed", &columns::MARKS, "Accident") };

const fn place_of(id: &'static str, label: &'static str) -> Control {
    Control::mask(id, Station::Years, &columns::WHERE, label)
}

pub const AGE_WHERE: Control = Control { applies: ages, ..place_of("years.age.mask", "Age in") };
pub const SUN_WHERE: Control = Control { applies: ages, ..place_of("years.sun.mask", "Sun in") };
pub const MIRRORING_WHERE: Control =
    Control { applies: Stock::has_silver, ..place_of("years.mirroring.mask", "Mirroring in") };
pub const FOXING_WHERE: Control = place_of("years.foxing.mask", "Foxing in");
pub const WATER_WHERE: Control = place_of("years.water.mask", "Water in");

/// All controls of the station, in the order of the bench.
pub const CONTROLS: [Control; 23] = [
    AGE,
    STORAGE,
    CYAN,
    MAGENTA,
    YELLOW,
    SULPHIDE,
    IMAGE,
    STAIN,
    SUN,
    SUN_DIRECTION,
    SUN_SPREAD,
    SUN_SEED,
    FOXING,
    FOXING_SIZE,
    FOXING_SEED,
    WATER,
    WATER_SEED,
    MIRRORING,
    AGE_WHERE,
    SUN_WHERE,
    MIRRORING_WHERE,
    FOXING_WHERE,
    WATER_WHERE,
];

#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SunSettings {
    /// 0..1.
    pub strength: f64,
    /// From the right, against the clock.
    pub direction_degrees: f64,
    /// Share of the way over the frame.
    pub spread: f64,
    pub seed: u32,
}

#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MarksSettings {
    /// 0..1, each.
    pub mirroring: f64,
    pub foxing: f64,
    /// Factor on the spots' size.
    pub foxing_size: f64,
    pub foxing_seed: u32,
    pub water: f64,
    pub water_seed: u32,
}

/// Where effects apply, where that is not the whole picture.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct YearsPlaces {
    pub age: Option<MaskUse>,
    pub sun: Option<MaskUse>,
    pub mirroring: Option<MaskUse>,
    pub foxing: Option<MaskUse>,
    pub water: Option<MaskUse>,
}

/// The values of the station.
#[derive(Debug, Clone, PartialEq)]
pub struct YearsSettings {
    /// By age, storage and hand.
    pub losses: Losses,
    /// The same with the sun's years of light.
    pub in_the_sun: Losses,
    /// The sun's alone.
    pub sun_alone: Losses,
    pub sun: SunSettings,
    pub marks: MarksSettings,
    pub places: YearsPlaces,
}

impl YearsSettings {
    pub fn read(values: &Values) -> Self {
        let stock = values.stock();
        let storage: Storage = values.chosen(&STORAGE);
        let image_per_year = stock.process.as_ref().map_or([0.0; 2], |p| p.lost_per_year);
        let age = if ages(stock) { values.number(&AGE) } else { 0.0 };
        let by_hand = |l: Losses| by_hand(l, values);
        let losses = Losses::after(age, storage, image_per_year);
        let sun = SunSettings {
            strength: if ages(stock) { values.number(&SUN) } else { 0.0 },
            direction_degrees: values.number(&SUN_DIRECTION),
            spread: values.number(&SUN_SPREAD) / 100.0,
            seed: values.count(&SUN_SEED),
        };
        Self {
            losses: by_hand(losses),
            in_the_sun: by_hand(losses.lit(YEARS_OF_SUN * sun.strength, image_per_year)),
            sun_alone: Losses::NONE.lit(YEARS_OF_SUN * sun.strength, image_per_year),
            sun,
            marks: MarksSettings {
                mirroring: if stock.has_silver() { values.number(&MIRRORING) } else { 0.0 },
                foxing: values.number(&FOXING),
                foxing_size: values.number(&FOXING_SIZE) / 100.0,
                foxing_seed: values.count(&FOXING_SEED),
                water: values.number(&WATER),
                water_seed: values.count(&WATER_SEED),
            },
            places: YearsPlaces {
                age: values.mask(&AGE_WHERE),
                sun: values.mask(&SUN_WHERE),
                mirroring: values.mask(&MIRRORING_WHERE),
                foxing: values.mask(&FOXING_WHERE),
                water: values.mask(&WATER_WHERE),
            },
        }
    }
}

/// Losses with what was set by hand.
fn by_hand(losses: Losses, values: &Values) -> Losses {
    let beyond = |c: &Control| values.number(c) / 100.0;
    let left = |share: f64, lost: f64| if lost == 0.0 { share } else { (share - lost).clamp(0.0, 1.0) };
    let dyes = [&CYAN, &MAGENTA, &YELLOW].map(beyond);
    let sulphide = beyond(&SULPHIDE);
    Losses {
        dyes: std::array::from_fn(|i| left(losses.dyes[i], dyes[i])),
        sulphide: if sulphide == 0.0 { losses.sulphide } else { (losses.sulphide + sulphide).clamp(0.0, 1.0) },
        silver: left(losses.silver, beyond(&IMAGE)),
        image: left(losses.image, beyond(&IMAGE)),
        stain: (losses.stain + values.number(&STAIN)).max(0.0),
    }
}
