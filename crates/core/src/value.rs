//! The value of a control.

use std::fmt;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// What a control is set to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum Value {
    /// A number in the control's unit.
    Number(f64),
    /// On or off.
    Switch(bool),
    /// The id of a choice, a colour, or a mask and how it is used.
    Choice(String),
    /// Points (in, out) of a tone curve, both in per cent of the tone scale.
    Curve(Vec<[f64; 2]>),
}

impl Value {
    /// The number, where it is one.
    pub fn as_number(&self) -> Option<f64> {
        if let Self::Number(v) = self { Some(*v) } else { None }
    }

    /// The id, where it is one.
    pub fn choice(&self) -> Option<&str> {
        if let Self::Choice(id) = self { Some(id) } else { None }
    }

    /// A colour of sRGB.
    pub fn of_colour([r, g, b]: [u8; 3]) -> Self {
        Self::Choice(format!("#{r:02x}{g:02x}{b:02x}"))
    }

    /// The colour that is written as #rrggbb.
    pub fn colour(&self) -> Option<[u8; 3]> {
        let digits = self.choice()?.strip_prefix('#').filter(|d| d.len() == 6 && d.is_ascii())?;
        let part = |k: usize| u8::from_str_radix(&digits[2 * k..2 * k + 2], 16).ok();
        Some([part(0)?, part(1)?, part(2)?])
    }

    /// Whether it is a switch that is on.
    pub fn is_on(&self) -> bool {
        matches!(self, Self::Switch(true))
    }

    /// The points, where it is a curve.
    pub fn curve(&self) -> Option<&[[f64; 2]]> {
        if let Self::Curve(points) = self { Some(points) } else { None }
    }
}

impl fmt::Display for Value {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        match self {
            Self::Number(v) => write!(f, "{v}"),
            Self::Switch(on) => f.write_str(if *on { "on" } else { "off" }),
            Self::Choice(id) => f.write_str(id),
            Self::Curve(points) => {
                let words: Vec<String> = points.iter().map(|[x, y]| format!("{x},{y}")).collect();
                f.write_str(&words.join(" "))
            }
        }
    }
}
