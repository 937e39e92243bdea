//! Kinds of stock.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// What kind of film it is: this decides its placement by speed and its way to a picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub enum StockKind {
    /// Colour, to be printed.
    #[serde(rename = "color-negative")]
    ColourNegative,
    /// A slide.
    #[serde(rename = "reversal")]
    Reversal,
    /// Colour instant print: a reversal picture seen by reflection.
    #[serde(rename = "instant")]
    Instant,
    /// Silver, to be printed.
    #[serde(rename = "bw-negative")]
    BlackAndWhiteNegative,
    /// Black-and-white instant print.
    #[serde(rename = "bw-instant")]
    BlackAndWhiteInstant,
    /// A reversal plate under a mosaic of colour filters, through which it is exposed and seen.
    #[serde(rename = "screen-plate")]
    ScreenPlate,
    /// A historic contact print: a negative, and the process on paper.
    #[serde(rename = "contact-print")]
    ContactPrint,
    /// Silver on a dark plate, itself the picture.
    #[serde(rename = "plate")]
    Plate,
}

impl StockKind {
    /// What it is called in running text.
    pub fn words(self) -> &'static str {
        match self {
            Self::ColourNegative => "colour negative",
            Self::Reversal => "colour slide",
            Self::Instant => "colour instant print",
            Self::BlackAndWhiteNegative => "black-and-white negative",
            Self::BlackAndWhiteInstant => "black-and-white instant print",
            Self::ScreenPlate => "additive screen plate",
            Self::ContactPrint => "contact print",
            Self::Plate => "wet plate",
        }
    }

    /// Whether it has three layers.
    pub fn is_colour(self) -> bool {
        matches!(self, Self::ColourNegative | Self::Reversal | Self::Instant | Self::ScreenPlate)
    }

    /// Density falls with exposure.
    pub fn is_reversal(self) -> bool {
        matches!(self, Self::Reversal | Self::Instant | Self::BlackAndWhiteInstant | Self::ScreenPlate)
    }

    /// Its picture is made of three dyes.
    pub fn has_dyes(self) -> bool {
        matches!(self, Self::ColourNegative | Self::Reversal | Self::Instant)
    }

    /// Another bath than its own gives a picture: slide film as negative, negative as slide.
    pub fn can_be_crossed(self) -> bool {
        matches!(self, Self::ColourNegative | Self::Reversal)
    }
}
