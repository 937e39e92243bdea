//! Columns of the bench: declared beside the controls that stand in them, so that whatever shows controls only reads.

use super::Lamp;
use crate::stock::Stock;

/// What a column is drawn as.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Face {
    /// Its controls, one under the other.
    Controls,
    /// Patches on the exposure axis, one for each control.
    Zones,
    /// The sequence of a list's items.
    Baths,
    /// The ramp of the print's tones with the places of colours.
    Ramp,
    /// The sheets that lie on the picture.
    Sheets,
    /// Members of the sheet that is chosen.
    Sheet,
}

/// A tool that a column offers.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Tool {
    /// Effects shown alone.
    BloomAlone,
    /// The light that the base throws back.
    HalationAlone,
    /// What grain adds to density.
    GrainAlone,
    /// Press on a hue of the picture and drag.
    PickHue,
    /// The same for a hue of the scene.
    PickBand,
    /// Press on a grey of the picture.
    Neutral,
    /// Measure the picture and propose.
    Meter,
    /// Drag a middle on the picture.
    Place,
    /// Draw what should be level.
    Level,
    /// Move the picture under the frame.
    Crop,
    /// Open the masks.
    Masks,
    /// The same, to lighten and darken.
    DodgeAndBurn,
}

/// What happens when a tool is taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Does {
    /// Shows an effect alone.
    Alone(&'static str),
    /// Waits for a press on the picture.
    Pick(&'static str),
    /// Measures and proposes.
    Meter,
    /// Opens the masks.
    Masks,
}

impl Tool {
    /// What happens when it is taken.
    pub const fn does(self) -> Does {
        match self {
            Self::BloomAlone => Does::Alone("bloom"),
            Self::HalationAlone => Does::Alone("halation"),
            Self::GrainAlone => Does::Alone("grain"),
            Self::PickHue => Does::Pick("hue"),
            Self::PickBand => Does::Pick("band"),
            Self::Neutral => Does::Pick("neutral"),
            Self::Place => Does::Pick("place"),
            Self::Level => Does::Pick("level"),
            Self::Crop => Does::Pick("crop"),
            Self::Meter => Does::Meter,
            Self::Masks | Self::DodgeAndBurn => Does::Masks,
        }
    }

    /// What its button says.
    pub const fn label(self) -> &'static str {
        match self {
            Self::BloomAlone | Self::HalationAlone | Self::GrainAlone => "Alone",
            Self::PickHue | Self::PickBand => "Pick",
            Self::Neutral => "Neutral",
            Self::Meter => "Meter",
            Self::Place => "Place",
            Self::Level => "Level",
            Self::Crop => "Move",
            Self::Masks => "Masks",
            Self::DodgeAndBurn => "Dodge and burn",
        }
    }

    /// The key that takes it; empty for none.
    pub const fn key(self) -> &'static str {
        match self {
            Self::BloomAlone | Self::HalationAlone | Self::GrainAlone => "",
            Self::PickHue | Self::PickBand => "H",
            Self::Neutral => "N",
            Self::Meter => "I",
            Self::Place => "P",
            Self::Level => "A",
            Self::Crop => "C",
            Self::Masks | Self::DodgeAndBurn => "W",
        }
    }

    /// What it is for, in a line.
    pub const fn help(self) -> &'static str {
        match self {
            Self::BloomAlone | Self::HalationAlone | Self::GrainAlone => "Only this, to be judged",
            Self::PickHue | Self::PickBand => "Press on the picture and drag",
            Self::Neutral => "Press on a grey of the picture",
            Self::Meter => "Measure the picture and propose exposure, balance and contrast",
            Self::Place => "Drag the middle on the picture",
            Self::Level => "Draw a line along what should be level or upright",
            Self::Crop => "Drag the picture under the frame; the wheel changes the size",
            Self::Masks | Self::DodgeAndBurn => "Masks, dodge and burn",
        }
    }

    /// It stands under the controls, not in the head.
    pub const fn at_the_foot(self) -> bool {
        matches!(self, Self::DodgeAndBurn)
    }
}

/// A column of the bench.
#[derive(Debug, Clone, Copy)]
pub struct Column {
    /// `station.column`.
    pub id: &'static str,
    /// Its heading.
    pub label: &'static str,
    /// What its controls are in the darkroom and before it, in a sentence.
    pub darkroom: &'static str,
    /// The page of its station on which it stands, from 1.
    pub page: usize,
    /// It takes the width of two.
    pub wide: bool,
    /// What it is drawn as.
    pub face: Face,
    /// What it offers, in order.
    pub tools: &'static [Tool],
    /// What of it can be switched off.
    pub lamps: &'static [Lamp],
    /// Whether it is there on this stock; one made of controls is where one of them applies.
    pub applies: fn(&Stock) -> bool,
}

impl Column {
    /// One of the first page, made of controls.
    pub const fn new(id: &'static str, label: &'static str, darkroom: &'static str) -> Self {
        Self {
            id,
            label,
            darkroom,
            page: 1,
            wide: false,
            face: Face::Controls,
            tools: &[],
            lamps: &[],
            applies: |_| true,
        }
    }

    /// The same on the second page.
    pub const fn second(id: &'static str, label: &'static str, darkroom: &'static str) -> Self {
        Self { page: 2, ..Self::new(id, label, darkroom) }
    }
}
