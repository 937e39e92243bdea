//! Shapes of characteristic curves.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// How far above a layer's dmax the table goes: grain's clamp is the same interval.
pub const ABOVE_DMAX: f64 = 0.4;

/// Shape of one layer's characteristic curve (density over log10 exposure).
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CurveShape {
    /// Density of base and fog.
    pub dmin: f64,
    /// Asymptotic slope of the form (the measured greatest slope is a little lower).
    pub gamma: f64,
    /// Width of the toe in log10 exposure.
    pub toe: f64,
    /// Width of the shoulder in log10 exposure.
    pub shoulder: f64,
    /// Highest density.
    pub dmax: f64,
    /// Slower layer by this much log10 exposure.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub shift: f64,
    /// Change of gamma per stop of push, relative.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub push_skew: f64,
}

pub(super) fn is_zero(v: &f64) -> bool {
    *v == 0.0
}

/// One curve per layer: three for colour, one for black and white.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum LayerCurves {
    /// One curve for each layer.
    Colour {
        /// Of the red-sensitive layer.
        #[serde(rename = "R")]
        red: CurveShape,
        /// Of the green-sensitive layer.
        #[serde(rename = "G")]
        green: CurveShape,
        /// Of the blue-sensitive layer.
        #[serde(rename = "B")]
        blue: CurveShape,
    },
    /// One curve for the only layer.
    Single {
        /// Of the only layer.
        #[serde(rename = "K")]
        single: CurveShape,
    },
}

impl LayerCurves {
    /// By layer.
    pub fn list(&self) -> Vec<CurveShape> {
        match self {
            Self::Colour { red, green, blue } => vec![*red, *green, *blue],
            Self::Single { single } => vec![*single],
        }
    }

    /// The same number of layers, each shape changed.
    pub fn map(&self, mut change: impl FnMut(usize, CurveShape) -> CurveShape) -> Self {
        match self {
            Self::Colour { red, green, blue } => {
                Self::Colour { red: change(0, *red), green: change(1, *green), blue: change(2, *blue) }
            }
            Self::Single { single } => Self::Single { single: change(0, *single) },
        }
    }
}
