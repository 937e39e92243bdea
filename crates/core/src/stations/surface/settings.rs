//! The controls of Surface.
#![allow(missing_docs, reason = "a control says itself in its help, and the settings are its values")]

use super::catalogue::{self, KIND_CHOICES, Place};
use super::columns;
use super::own::Fit;
use super::paint::{Adjust, Drop};
use super::placing::Laid;
use crate::colour::blend::{BLENDS, Blend};
use crate::controls::{Choice, Choices, Control, Kind, List, Own, Unit, Values, choices, range};
use crate::mask::MaskUse;
use crate::stations::Station;

const fn member(id: &'static str, label: &'static str) -> Control {
    Control::scalar(id, Station::Surface, &columns::SHEET, label)
}

const fn percent(id: &'static str, label: &'static str, own: f64) -> Control {
    Control::percent(id, Station::Surface, &columns::SHEET, label, own, 100.0)
}

const fn both_ways(id: &'static str, label: &'static str) -> Control {
    Control { two_sided: true, unit: Unit::Percent, kind: range(-100.0, 100.0, 1.0, 0), ..member(id, label) }
}

const fn switch(id: &'static str, label: &'static str, own: bool) -> Control {
    Control { kind: Kind::Switch, own: Own::Switch(own), ..member(id, label) }
}

const BLEND_CHOICES: [Choice; BLENDS.len() + 1] = {
    let mut list = [Choice { id: "own", label: "As it is made" }; BLENDS.len() + 1];
    let mut i = 0;
    while i < BLENDS.len() {
        list[i + 1] = Choice { id: BLENDS[i].1, label: BLENDS[i].2 };
        i += 1;
    }
    list
};

choices! {
    /// What is left out of a sheet.
    pub enum Left {
        Nothing = "nothing", "Nothing";
        Blacks = "blacks", "Its blacks";
        Whites = "whites", "Its whites";
    }
}

pub const KIND: Control = Control {
    column: &columns::SHEETS,
    kind: Kind::ChoiceOrPicture(&KIND_CHOICES),
    own: Own::StockChoice(|_| ""),
    help: "What lies there: a kind that is made here, or a picture of your own.",
    ..member("surface.sheet.kind", "Kind")
};
pub const PLACE: Control = Control {
    kind: Kind::Choice(Place::CHOICES),
    own: Own::StockChoice(|_| "own"),
    help: "When it came: in the camera it is light and develops with the film; on the negative it is printed; on the \
           print it is seen as it is; over everything nothing follows it.",
    ..member("surface.sheet.place", "Place")
};
pub const BLEND: Control = Control {
    kind: Kind::Choice(&BLEND_CHOICES),
    own: Own::StockChoice(|_| "own"),
    help: "How it meets the picture, on the print and over everything. In the camera light adds up, on the negative \
           densities do.",
    ..member("surface.sheet.blend", "Blend")
};
pub const STRENGTH: Control =
    Control { help: "How much of it there is.", ..percent("surface.sheet.strength", "Strength", 100.0) };
pub const AMOUNT: Control = Control {
    help: "Of what is made here: how many marks, how bright a leak, how rough a paper.",
    ..percent("surface.sheet.amount", "Amount", 50.0)
};
pub const SIZE: Control = Control {
    unit: Unit::Percent,
    kind: range(25.0, 400.0, 1.0, 0),
    own: Own::Neutral(100.0),
    help: "Of what is made here: the size of its marks.",
    ..member("surface.sheet.size", "Size")
};
pub const SEED: Control = Control {
    column: &columns::WHERE,
    kind: range(0.0, 9999.0, 1.0, 0),
    picture_specific: true,
    help: "Another number is another accident. The frame's own seed is mixed with it.",
    ..member("surface.sheet.seed", "Accident")
};
pub const LOCK: Control = Control {
    column: &columns::WHERE,
    help: "The same accident on every frame: the frame's own seed is left out.",
    ..switch("surface.sheet.lock", "Locked", false)
};
pub const X: Control = Control {
    column: &columns::LIES,
    picture_specific: true,
    tab: "Place",
    unit: Unit::Percent,
    two_sided: true,
    kind: range(-200.0, 200.0, 0.1, 1),
    help: "How far to the right its middle lies, in shares of the frame's width; 0 is the frame's middle.",
    ..member("surface.sheet.x", "Across")
};
pub const Y: Control = Control {
    column: &columns::LIES,
    picture_specific: true,
    tab: "Place",
    unit: Unit::Percent,
    two_sided: true,
    kind: range(-200.0, 200.0, 0.1, 1),
    help: "How far down its middle lies, in shares of the frame's height; 0 is the frame's middle.",
    ..member("surface.sheet.y", "Down")
};
pub const SCALE: Control = Control {
    column: &columns::LIES,
    tab: "Place",
    unit: Unit::Percent,
    kind: range(5.0, 1000.0, 0.5, 1),
    own: Own::Neutral(100.0),
    help: "Its size: at 100 % a picture covers the frame, and what is made here has its own micrometres.",
    ..member("surface.sheet.scale", "Scale")
};
pub const TURN: Control = Control {
    column: &columns::LIES,
    picture_specific: true,
    tab: "Place",
    unit: Unit::Angle,
    two_sided: true,
    kind: range(-360.0, 360.0, 0.1, 1),
    help: "Turns it about its middle, with the clock.",
    ..member("surface.sheet.turn", "Turn")
};
pub const MIRROR: Control = Control {
    column: &columns::LIES,
    picture_specific: true,
    tab: "Laid",
    help: "Left and right exchanged.",
    ..switch("surface.sheet.mirror", "Mirrored", false)
};
pub const FLIP: Control = Control {
    column: &columns::LIES,
    picture_specific: true,
    tab: "Laid",
    help: "Above and below exchanged.",
    ..switch("surface.sheet.flip", "Flipped", false)
};
pub const FIT: Control = Control {
    column: &columns::LIES,
    tab: "Laid",
    kind: Kind::Choice(Fit::CHOICES),
    own: Own::StockChoice(|_| "once"),
    help: "A picture of your own: laid once, stretched to the frame's shape, or repeated, mirrored at every seam so \
           that none shows.",
    ..member("surface.sheet.fit", "Laid")
};
pub const COVER: Control = Control {
    column: &columns::LIES,
    tab: "Laid",
    help: "It grows until none of its edges shows in the frame.",
    ..switch("surface.sheet.cover", "Cover", false)
};
pub const SATURATION: Control = Control {
    column: &columns::COLOURS,
    help: "Its own colours: -100 is grey.",
    ..both_ways("surface.sheet.saturation", "Saturation")
};
pub const LIGHTNESS: Control = Control {
    column: &columns::COLOURS,
    help: "Its own lightness: towards white or black; of light, how bright; of marks, how thin or thick.",
    ..both_ways("surface.sheet.lightness", "Lightness")
};
pub const CONTRAST: Control = Control {
    column: &columns::COLOURS,
    help: "Its own contrast about its mid grey.",
    ..both_ways("surface.sheet.contrast", "Contrast")
};
pub const DROP: Control = Control {
    column: &columns::COLOURS,
    kind: Kind::Choice(Left::CHOICES),
    own: Own::StockChoice(|_| "nothing"),
    help: "What of it is left out: where it is black, or where it is white, nothing lies.",
    ..member("surface.sheet.drop", "Left out")
};
pub const VISIBLE: Control = Control {
    column: &columns::SHEETS,
    help: "Whether it is shown.",
    ..switch("surface.sheet.visible", "Shown", true)
};
pub const ORDER: Control = Control {
    column: &columns::SHEETS,
    kind: range(0.0, 99.0, 1.0, 0),
    own: Own::Neutral(50.0),
    help: "Which of the sheets of one place lies above: higher numbers do.",
    ..member("surface.sheet.order", "Order")
};
pub const MASK: Control = Control::mask("surface.sheet.mask", Station::Surface, &columns::WHERE, "Lies on");

/// Most sheets of a frame.
pub const MOST_SHEETS: u32 = 40;

/// The members of every sheet.
pub const SHEETS: List = List {
    path: "surface.sheet",
    label: "Sheet",
    most: MOST_SHEETS,
    members: &[
        KIND, PLACE, BLEND, STRENGTH, AMOUNT, SIZE, SEED, LOCK, X, Y, SCALE, TURN, MIRROR, FLIP, FIT, COVER,
        SATURATION, LIGHTNESS, CONTRAST, DROP, VISIBLE, ORDER, MASK,
    ],
};

pub const CLEAR: Control = Control {
    help: "A zone that dust, hairs, scratches, prints and other accidents keep away from: draw it over a face once.",
    ..Control::mask("surface.clear", Station::Surface, &columns::WHERE, "Keep clear")
};

/// Everything of the station that stands once.
pub const CONTROLS: [Control; 1] = [CLEAR];

/// One sheet as it was set.
#[derive(Debug, Clone, PartialEq)]
pub struct SheetSettings {
    /// Its number in the list.
    pub key: u32,
    pub kind: String,
    pub place: Place,
    /// `None` as its kind is made.
    pub blend: Option<Blend>,
    /// 0..1.
    pub strength: f64,
    pub amount: f64,
    pub size: f64,
    pub seed: u32,
    pub lock: bool,
    pub laid: Laid,
    pub fit: Fit,
    pub cover: bool,
    pub adjust: Adjust,
    pub drop: Drop,
    pub mask: Option<MaskUse>,
}

/// Every sheet of a frame, lowest first: with its key, shown or not.
pub fn sheet_keys(values: &Values) -> Vec<u32> {
    let order = |key: u32| values.number(SHEETS.member(key, &ORDER));
    let mut keys = values.keys(&SHEETS);
    keys.retain(|key| values.value(SHEETS.member(*key, &KIND)).choice().is_some_and(|kind| !kind.is_empty()));
    keys.sort_by(|a, b| order(*a).total_cmp(&order(*b)).then(a.cmp(b)));
    keys
}

impl SheetSettings {
    /// The sheets that are shown, lowest first.
    pub fn shown(values: &Values) -> Vec<Self> {
        let shown = |key: &u32| values.is_on(SHEETS.member(*key, &VISIBLE));
        sheet_keys(values).into_iter().filter(shown).map(|key| Self::read(values, key)).collect()
    }

    /// One of them, whether it is shown or not.
    pub fn read(values: &Values, key: u32) -> Self {
        let of = |control: &'static Control| SHEETS.member(key, control);
        let share = |control: &'static Control| values.number(of(control)) / 100.0;
        let kind = values.value(of(&KIND)).choice().unwrap_or_default().to_owned();
        let place = match values.chosen::<Place>(of(&PLACE)) {
            Place::Own => catalogue::kind(&kind).map_or(Place::Over, |kind| kind.place),
            place => place,
        };
        Self {
            key,
            kind,
            place,
            blend: values.value(of(&BLEND)).choice().and_then(Blend::named),
            strength: share(&STRENGTH),
            amount: share(&AMOUNT),
            size: share(&SIZE),
            seed: values.count(of(&SEED)),
            lock: values.is_on(of(&LOCK)),
            laid: Laid {
                offset: [share(&X), share(&Y)],
                scale: share(&SCALE),
                degrees: values.number(of(&TURN)),
                mirrored: [values.is_on(of(&MIRROR)), values.is_on(of(&FLIP))],
            },
            fit: values.chosen(of(&FIT)),
            cover: values.is_on(of(&COVER)),
            adjust: Adjust {
                saturation: share(&SATURATION) as f32,
                lightness: share(&LIGHTNESS) as f32,
                contrast: share(&CONTRAST) as f32,
            },
            drop: match values.chosen::<Left>(of(&DROP)) {
                Left::Nothing => Drop::Nothing,
                Left::Blacks => Drop::Blacks,
                Left::Whites => Drop::Whites,
            },
            mask: values.mask(of(&MASK)),
        }
    }
}
