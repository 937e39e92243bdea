//! The controls of Tone.
#![allow(missing_docs, reason = "a control says itself in its help, and the settings are its values")]

use super::columns;
use crate::colour::blend::{BLENDS, Blend};
use crate::controls::{
    Choice, Choices, Column, Control, Kind, List, MOST, Own, Rest, Unit, Value, Values, choices, range,
};
use crate::mask::MaskUse;
use crate::stations::Station;
use crate::stock::{Image, Stock, StockKind};

const fn control(id: &'static str, column: &'static Column, label: &'static str) -> Control {
    Control::scalar(id, Station::Tone, column, label)
}

const fn percent(id: &'static str, column: &'static Column, label: &'static str, own: f64) -> Control {
    Control::percent(id, Station::Tone, column, label, own, 100.0)
}

const fn colour(id: &'static str, column: &'static Column, label: &'static str, own: fn(&Stock) -> [u8; 3]) -> Control {
    Control { kind: Kind::Colour, own: Own::Colour(own), ..control(id, column, label) }
}

fn is_coated(stock: &Stock) -> bool {
    matches!(stock.kind, StockKind::ContactPrint | StockKind::Plate)
}

fn has_pigment(stock: &Stock) -> bool {
    matches!(&stock.process, Some(process) if matches!(process.image, Image::Pigment { .. }))
}

fn own_pigment(stock: &Stock) -> [u8; 3] {
    match stock.process.as_ref().map(|p| &p.image) {
        Some(Image::Pigment { pigment }) => *pigment,
        _ => [66, 52, 42],
    }
}

fn own_coating(stock: &Stock, which: usize) -> f64 {
    let coating = stock.process.as_ref().map(|p| p.coating).or(stock.plate.as_ref().map(|p| p.coating));
    coating.map_or(0.0, |c| c[which])
}

choices! {
    /// What a bath of the sequence holds.
    pub enum Toner {
        None = "none", "None";
        Sepia = "sepia", "Sepia";
        Selenium = "selenium", "Selenium";
        Gold = "gold", "Gold";
        Copper = "copper", "Copper";
        Iron = "iron", "Iron blue";
    }
}

pub const TONER: Control = Control {
    kind: Kind::Choice(Toner::CHOICES),
    own: Own::StockChoice(|_| "none"),
    applies: Stock::has_silver,
    help: "What the silver is turned into: sepia takes the lights first, selenium the darks.",
    ..control("tone.bath.toner", &columns::BATHS, "Toner")
};
pub const TIME: Control = Control {
    applies: Stock::has_silver,
    help: "Time in the bath: the longer, the further down the scale it works.",
    ..percent("tone.bath.time", &columns::BATHS, "Time", 50.0)
};
pub const BATH_STRENGTH: Control = Control {
    applies: Stock::has_silver,
    help: "How much of what the bath reaches it converts.",
    ..percent("tone.bath.strength", &columns::BATHS, "Strength", 100.0)
};
pub const PLACE: Control = Control {
    kind: range(0.0, 99.0, 1.0, 0),
    applies: Stock::has_silver,
    help: "Where the bath stands in the sequence; lower numbers come first.",
    ..control("tone.bath.place", &columns::BATHS, "Place")
};

/// The members of every bath.
pub const BATHS: List =
    List { path: "tone.bath", label: "Bath", most: MOST, members: &[TONER, TIME, BATH_STRENGTH, PLACE] };

pub const PIGMENT: Control = Control {
    applies: has_pigment,
    help: "Colour of the pigment in the gum.",
    ..colour("tone.pigment", &columns::COATING, "Pigment", own_pigment)
};
pub const COATING_EDGE: Control = Control {
    kind: range(0.0, 1.0, 0.01, 2),
    own: Own::Stock(|s| own_coating(s, 0)),
    rest: Rest::Number(0.0),
    applies: is_coated,
    help: "How far the brushed coating's ragged edge reaches into the picture; at 0 it is trimmed away.",
    ..control("tone.coating.edge", &columns::COATING, "Edge")
};
pub const COATING_UNEVEN: Control = Control {
    kind: range(0.0, 1.0, 0.01, 2),
    own: Own::Stock(|s| own_coating(s, 1)),
    rest: Rest::Number(0.0),
    applies: is_coated,
    help: "Brush strokes and pools in the coating: denser here, thinner there.",
    ..control("tone.coating.uneven", &columns::COATING, "Uneven")
};
pub const COATING_SEED: Control = Control {
    kind: range(0.0, 9999.0, 1.0, 0),
    picture_specific: true,
    applies: is_coated,
    help: "Another number is another brush.",
    ..control("tone.coating.seed", &columns::COATING, "Accident")
};

const fn hue(id: &'static str, label: &'static str, own: f64) -> Control {
    Control {
        unit: Unit::Degrees,
        kind: range(0.0, 360.0, 1.0, 0),
        own: Own::Neutral(own),
        help: "Hue of the tint: 30 is red-orange, 90 yellow, 145 green, 250 blue, 320 purple.",
        ..control(id, &columns::TWO_TONES, label)
    }
}

pub const DARK_HUE: Control = hue("tone.two.dark.hue", "Dark hue", 250.0);
pub const DARK_STRENGTH: Control =
    Control { help: "Tint in the darks.", ..percent("tone.two.dark.strength", &columns::TWO_TONES, "Dark tint", 0.0) };
pub const LIGHT_HUE: Control = hue("tone.two.light.hue", "Light hue", 75.0);
pub const LIGHT_STRENGTH: Control = Control {
    help: "Tint in the lights.",
    ..percent("tone.two.light.strength", &columns::TWO_TONES, "Light tint", 0.0)
};
pub const BALANCE: Control = Control {
    unit: Unit::Percent,
    kind: range(-100.0, 100.0, 1.0, 0),
    two_sided: true,
    help: "Where the two meet: to the left in the darks, to the right in the lights.",
    ..control("tone.two.balance", &columns::TWO_TONES, "Balance")
};
pub const TWO_STRENGTH: Control = Control {
    help: "Strength of both tints together.",
    ..percent("tone.two.strength", &columns::HOW_MUCH, "Two tones", 100.0)
};

/// Place and colour of one of four tones.
#[derive(Debug, Clone, Copy)]
pub struct ToneControls {
    pub place: Control,
    pub colour: Control,
}

macro_rules! tone {
    ($number:literal, $label:literal, $place:literal, $colour:expr) => {
        ToneControls {
            place: Control {
                help: "Where on the scale of tones, from black to white, this colour lies.",
                tab: "Place",
                ..percent(
                    concat!("tone.four.", $number, ".place"),
                    &columns::FOUR_TONES,
                    concat!("Tone ", $label),
                    $place,
                )
            },
            colour: Control {
                tab: "Colour",
                help: "The colour of this tone, as #rrggbb.",
                ..colour(
                    concat!("tone.four.", $number, ".colour"),
                    &columns::FOUR_TONES,
                    concat!("Tone ", $label),
                    |_| $colour,
                )
            },
        }
    };
}

/// From the darkest to the lightest.
pub const FOUR: [ToneControls; 4] = [
    tone!("1", "1", 10.0, [27, 38, 66]),
    tone!("2", "2", 37.0, [92, 74, 82]),
    tone!("3", "3", 65.0, [176, 136, 96]),
    tone!("4", "4", 92.0, [243, 230, 204]),
];
pub const FOUR_STRENGTH: Control = Control {
    help: "Strength of the four tones; at 0 they do nothing.",
    ..percent("tone.four.strength", &columns::HOW_MUCH, "Four tones", 0.0)
};
pub const FOUR_SOFTNESS: Control = Control {
    help: "How softly neighbouring colours go over into one another.",
    ..percent("tone.four.softness", &columns::HOW_MUCH, "Softness", 70.0)
};
pub const FOUR_LIGHTNESS: Control = Control {
    kind: Kind::Switch,
    own: Own::Switch(false),
    help: "The colours' own lightness acts too; otherwise the print's scale is kept.",
    ..control("tone.four.lightness", &columns::HOW_MUCH, "Own lightness")
};

const BLEND_CHOICES: [Choice; BLENDS.len()] = {
    let mut list = [Choice { id: "", label: "" }; BLENDS.len()];
    let mut i = 0;
    while i < list.len() {
        list[i] = Choice { id: BLENDS[i].1, label: BLENDS[i].2 };
        i += 1;
    }
    list
};

pub const WASH_COLOUR: Control = Control {
    help: "One colour over everything, as #rrggbb.",
    ..colour("tone.wash.colour", &columns::WASH, "Colour", |_| [216, 178, 118])
};
pub const WASH_BLEND: Control = Control {
    kind: Kind::Choice(&BLEND_CHOICES),
    own: Own::StockChoice(|_| "soft-light"),
    help: "How the colour meets the print.",
    ..control("tone.wash.blend", &columns::WASH, "Blend")
};
pub const WASH_STRENGTH: Control =
    Control { help: "Strength of the wash.", ..percent("tone.wash.strength", &columns::WASH, "Strength", 0.0) };
pub const GREY_BLEND: Control = Control {
    kind: Kind::Choice(&BLEND_CHOICES),
    own: Own::StockChoice(|_| "normal"),
    help: "How the picture's own grey meets it: normal takes colour back, screen bleaches as sun does.",
    ..control("tone.grey.blend", &columns::WASH, "Grey blend")
};
pub const GREY_STRENGTH: Control = Control {
    help: "Black and white at partial strength.",
    ..percent("tone.grey.strength", &columns::WASH, "Grey strength", 0.0)
};

const fn place_of(id: &'static str, label: &'static str) -> Control {
    Control::mask(id, Station::Tone, &columns::WHERE, label)
}

pub const BATHS_WHERE: Control = Control { applies: Stock::has_silver, ..place_of("tone.toning.mask", "Baths in") };
pub const TWO_WHERE: Control = place_of("tone.two.mask", "Two tones in");
pub const FOUR_WHERE: Control = place_of("tone.four.mask", "Four tones in");
pub const WASH_WHERE: Control = place_of("tone.wash.mask", "Wash in");

/// All controls of the station that stand once, in the order of the bench.
pub const CONTROLS: [Control; 30] = [
    PIGMENT,
    COATING_EDGE,
    COATING_UNEVEN,
    COATING_SEED,
    WASH_COLOUR,
    WASH_BLEND,
    WASH_STRENGTH,
    GREY_STRENGTH,
    GREY_BLEND,
    BATHS_WHERE,
    TWO_WHERE,
    FOUR_WHERE,
    WASH_WHERE,
    DARK_HUE,
    DARK_STRENGTH,
    LIGHT_HUE,
    LIGHT_STRENGTH,
    BALANCE,
    FOUR[0].place,
    FOUR[1].place,
    FOUR[2].place,
    FOUR[3].place,
    FOUR[0].colour,
    FOUR[1].colour,
    FOUR[2].colour,
    FOUR[3].colour,
    TWO_STRENGTH,
    FOUR_STRENGTH,
    FOUR_SOFTNESS,
    FOUR_LIGHTNESS,
];

/// One bath.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BathSettings {
    pub toner: Toner,
    /// 0..1.
    pub time: f64,
    /// 0..1.
    pub strength: f64,
}

/// Tint of the darks or the lights.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Side {
    pub hue_degrees: f64,
    /// 0..1.
    pub strength: f64,
}

#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TwoTone {
    /// Darks, lights.
    pub sides: [Side; 2],
    /// -1..1.
    pub balance: f64,
    /// 0..1.
    pub strength: f64,
}

/// One of four tones.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tone {
    /// Lightness, 0..1.
    pub place: f64,
    /// sRGB.
    pub colour: [u8; 3],
}

#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FourTone {
    pub tones: [Tone; 4],
    /// 0..1.
    pub softness: f64,
    /// 0..1.
    pub strength: f64,
    pub own_lightness: bool,
}

#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WashSettings {
    pub colour: [u8; 3],
    pub blend: Blend,
    /// 0..1.
    pub strength: f64,
}

#[derive(Debug, Clone, Copy, PartialEq)]
pub struct GreySettings {
    pub blend: Blend,
    /// 0..1.
    pub strength: f64,
}

#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct CoatingSettings {
    /// 0..1.
    pub edge: f64,
    /// 0..1.
    pub uneven: f64,
    pub seed: u32,
}

/// Where effects apply, where that is not the whole picture.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct TonePlaces {
    pub baths: Option<MaskUse>,
    pub two: Option<MaskUse>,
    pub four: Option<MaskUse>,
    pub wash: Option<MaskUse>,
}

/// The values of the station.
#[derive(Debug, Clone, PartialEq)]
pub struct ToneSettings {
    /// In their order.
    pub baths: Vec<BathSettings>,
    /// The pigment where it was chosen.
    pub pigment: Option<[u8; 3]>,
    pub two: TwoTone,
    pub four: FourTone,
    pub wash: WashSettings,
    pub grey: GreySettings,
    pub coating: CoatingSettings,
    pub places: TonePlaces,
}

impl ToneSettings {
    pub fn read(values: &Values) -> Self {
        let share = |c: &Control| values.number(c) / 100.0;
        let blend = |c: &Control| values.value(c).choice().and_then(Blend::named).unwrap_or(Blend::Normal);
        let coated = is_coated(values.stock());
        Self {
            baths: if values.stock().has_silver() { baths(values) } else { Vec::new() },
            pigment: values.stated(&PIGMENT).and_then(Value::colour).filter(|_| has_pigment(values.stock())),
            two: TwoTone {
                sides: [(&DARK_HUE, &DARK_STRENGTH), (&LIGHT_HUE, &LIGHT_STRENGTH)]
                    .map(|(hue, strength)| Side { hue_degrees: values.number(hue), strength: share(strength) }),
                balance: share(&BALANCE),
                strength: share(&TWO_STRENGTH),
            },
            four: FourTone {
                tones: FOUR.each_ref().map(|t| Tone {
                    place: share(&t.place),
                    colour: values.value(&t.colour).colour().unwrap_or_default(),
                }),
                softness: share(&FOUR_SOFTNESS),
                strength: share(&FOUR_STRENGTH),
                own_lightness: values.is_on(&FOUR_LIGHTNESS),
            },
            wash: WashSettings {
                colour: values.value(&WASH_COLOUR).colour().unwrap_or_default(),
                blend: blend(&WASH_BLEND),
                strength: share(&WASH_STRENGTH),
            },
            grey: GreySettings { blend: blend(&GREY_BLEND), strength: share(&GREY_STRENGTH) },
            coating: CoatingSettings {
                edge: if coated { values.number(&COATING_EDGE) } else { 0.0 },
                uneven: if coated { values.number(&COATING_UNEVEN) } else { 0.0 },
                seed: values.count(&COATING_SEED),
            },
            places: TonePlaces {
                baths: values.mask(&BATHS_WHERE),
                two: values.mask(&TWO_WHERE),
                four: values.mask(&FOUR_WHERE),
                wash: values.mask(&WASH_WHERE),
            },
        }
    }
}

/// Keys of the baths in their sequence.
pub fn bath_keys(values: &Values) -> Vec<u32> {
    let mut keys = values.keys(&BATHS);
    let place = |key: &u32| match values.number(BATHS.member(*key, &PLACE)) {
        0.0 => f64::from(*key),
        place => place,
    };
    keys.sort_by(|a, b| place(a).total_cmp(&place(b)).then(a.cmp(b)));
    keys
}

fn baths(values: &Values) -> Vec<BathSettings> {
    let one = |key: u32| {
        let share = |member: &'static Control| values.number(BATHS.member(key, member)) / 100.0;
        let toner: Toner = values.chosen(BATHS.member(key, &TONER));
        (toner != Toner::None).then(|| BathSettings { toner, time: share(&TIME), strength: share(&BATH_STRENGTH) })
    };
    bath_keys(values).into_iter().filter_map(one).collect()
}
