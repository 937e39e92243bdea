//! The controls of mounts.
#![allow(missing_docs, reason = "a control says itself in its help, and the settings are its values")]

use super::super::catalogue::PRINT_LONG_UM;
use super::super::columns;
use crate::controls::{Choices, Control, Kind, Own, Unit, Values, choices, range};
use crate::stations::Station;
use crate::stock::{Stock, StockKind};

choices! {
    /// What is round the picture.
    pub enum MountKind {
        None = "none", "None";
        Border = "border", "Border";
        Deckle = "deckle", "Deckle edge";
        Mat = "mat", "Mat with a window";
        Instant = "instant", "Instant frame";
        Rebate = "rebate", "Film rebate";
        Holder = "holder", "Filed holder";
    }
}

const fn control(id: &'static str, label: &'static str) -> Control {
    Control::scalar(id, Station::Surface, &columns::MOUNT, label)
}

pub const KIND: Control = Control {
    kind: Kind::Choice(MountKind::CHOICES),
    own: Own::StockChoice(|_| "none"),
    help: "What is round the picture when it is finished. The rebate and the holder are the film's, at the true size \
           of its format.",
    ..control("surface.mount.kind", "Mount")
};
pub const WIDTH: Control = Control {
    unit: Unit::Percent,
    kind: range(0.0, 40.0, 0.1, 1),
    own: Own::Neutral(6.0),
    help: "Breadth of its sides, in shares of the picture's long edge. The film's rebate has its own.",
    ..control("surface.mount.width", "Width")
};
pub const WIDTH_MM: Control = Control {
    unit: Unit::Millimetres,
    column: &columns::MOUNT_SIZE,
    kind: range(0.0, 96.0, 0.5, 1),
    help: "Breadth of its sides on a print 240 mm long, in place of the share of the long edge; 0 leaves that.",
    ..control("surface.mount.width_mm", "Width on the print")
};
pub const COLOUR: Control = Control {
    kind: Kind::Colour,
    own: Own::Colour(|_| [246, 244, 238]),
    help: "Colour of its paper or card.",
    ..control("surface.mount.colour", "Colour")
};
/// Through the perforations of a slide the light table is seen; behind those of a negative the paper was printed black.
fn ground_of(stock: &Stock) -> [u8; 3] {
    if stock.kind == StockKind::Reversal { [244, 242, 236] } else { [9, 9, 9] }
}

pub const GROUND: Control = Control {
    kind: Kind::Colour,
    own: Own::Colour(ground_of),
    help: "Colour of what it lies on, where that is seen: round a deckle edge, and through perforations.",
    ..control("surface.mount.ground", "Lies on")
};
pub const ROUND: Control = Control {
    unit: Unit::Percent,
    kind: range(0.0, 25.0, 0.1, 1),
    help: "Radius of the picture's corners, in shares of its long edge.",
    ..control("surface.mount.round", "Round corners")
};
pub const NUMBER: Control = Control {
    column: &columns::MOUNT_SIZE,
    kind: range(0.0, 36.0, 1.0, 0),
    picture_specific: true,
    help: "The frame's number on the film's edge; 0 takes one by chance.",
    ..control("surface.mount.number", "Frame number")
};
pub const KEEPS: Control = Control {
    column: &columns::MOUNT_SIZE,
    kind: Kind::Switch,
    own: Own::Switch(false),
    help: "The whole is as large as the picture would be without; otherwise it grows by the mount.",
    ..control("surface.mount.keeps", "Keep the size")
};

pub const CONTROLS: [Control; 8] = [KIND, WIDTH, WIDTH_MM, COLOUR, GROUND, ROUND, NUMBER, KEEPS];

/// A mount as it was set.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MountSettings {
    pub kind: MountKind,
    /// In shares of the long edge.
    pub width: f64,
    /// Encoded sRGB.
    pub colour: [f32; 3],
    pub ground: [f32; 3],
    /// In shares of the long edge.
    pub round: f64,
    /// 0 for one by chance.
    pub number: u32,
    /// The whole keeps the picture's size.
    pub keeps: bool,
}

impl MountSettings {
    pub fn read(values: &Values) -> Self {
        let colour = |control: &Control| {
            values.value(control).colour().unwrap_or([255; 3]).map(|v| f32::from(v) * (1.0 / 255.0))
        };
        Self {
            kind: values.chosen(&KIND),
            width: match values.number(&WIDTH_MM) {
                0.0 => values.number(&WIDTH) / 100.0,
                mm => 1000.0 * mm / PRINT_LONG_UM,
            },
            colour: colour(&COLOUR),
            ground: colour(&GROUND),
            round: values.number(&ROUND) / 100.0,
            number: values.count(&NUMBER),
            keeps: values.is_on(&KEEPS),
        }
    }
}
