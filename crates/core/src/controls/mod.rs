//! The one declaration of every control.
//!
//! A control is declared once, as a `const` in its station's `settings.rs`. The declaration drives validation, the
//! HTML control, the command line, the help and the docs table.

pub mod choice;
pub mod column;
pub mod lamp;
pub mod list;
pub mod of_masks;
pub mod station;
pub mod values;

use crate::error::CoreError;
use crate::stock::Stock;

pub use crate::value::Value;
pub use choice::Choices;
pub(crate) use choice::choices;
pub use column::{Column, Face, Tool};
pub(crate) use lamp::lamp;
pub use lamp::{Lamp, Rest};
pub use list::{List, MOST};
pub use station::Station;
pub use values::Values;

/// What a control's number means.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Unit {
    /// A plain number.
    None,
    /// Powers of two of light.
    Stops,
    /// A colour temperature.
    Kelvin,
    /// Density of a colour filter: 1 CC is 0.01.
    Cc,
    /// A length on the film.
    Micrometres,
    /// A length on the print.
    Millimetres,
    /// A grade of paper, 0 soft to 5 hard.
    Grade,
    /// Hundredths.
    Percent,
    /// An angle of hue.
    Degrees,
    /// An angle in the picture.
    Angle,
    /// Shift of a light: 10^6 / kelvin.
    Mired,
    /// Optical density, log10.
    Density,
    /// Time that has passed.
    Years,
}

impl Unit {
    /// As written behind a number.
    pub fn symbol(self) -> &'static str {
        match self {
            Self::None | Self::Grade => "",
            Self::Percent => "%",
            Self::Degrees | Self::Angle => "°",
            Self::Mired => "mired",
            Self::Years => "years",
            Self::Density => "D",
            Self::Stops => "EV",
            Self::Kelvin => "K",
            Self::Cc => "CC",
            Self::Micrometres => "µm",
            Self::Millimetres => "mm",
        }
    }

    /// As said after a number in a sentence.
    pub fn after_number(self) -> &'static str {
        match self {
            Self::None | Self::Grade => "",
            Self::Stops => " stops",
            Self::Kelvin => " K",
            Self::Cc => " CC",
            Self::Percent => " %",
            Self::Degrees | Self::Angle => " degrees",
            Self::Mired => " mired",
            Self::Density => " D",
            Self::Years => " years",
            Self::Micrometres => " µm",
            Self::Millimetres => " mm",
        }
    }

    /// In words, for lists.
    pub fn words(self) -> &'static str {
        match self {
            Self::None => "",
            Self::Stops => "stops",
            Self::Kelvin => "kelvin",
            Self::Cc => "CC (0.01 density)",
            Self::Micrometres => "micrometres on the film",
            Self::Millimetres => "millimetres on the print",
            Self::Grade => "paper grade",
            Self::Percent => "per cent",
            Self::Degrees => "degrees of hue",
            Self::Angle => "degrees",
            Self::Mired => "mired (10^6 / kelvin)",
            Self::Density => "density",
            Self::Years => "years",
        }
    }
}

/// How a value is spread along its track.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scale {
    /// Evenly.
    Linear,
    /// Equal steps of 1/value, as for colour temperature.
    Reciprocal,
}

/// One of the values of a choice.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Choice {
    /// What documents say.
    pub id: &'static str,
    /// What people read.
    pub label: &'static str,
}

/// The kind of value that a control holds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Kind {
    /// A number.
    Scalar {
        /// Smallest value.
        low: f64,
        /// Largest value.
        high: f64,
        /// Step of a key.
        step: f64,
        /// Digits behind the point.
        decimals: usize,
        /// How it is spread along the track.
        scale: Scale,
    },
    /// One of several.
    Choice(&'static [Choice]),
    /// On or off.
    Switch,
    /// A tone curve by its points.
    Curve,
    /// A colour of sRGB, written #rrggbb.
    Colour,
    /// Where something applies: a mask of the frame by its id, `not` before it for all but the mask, or nothing for the
    /// whole picture.
    Mask,
    /// One of several, or a picture of one's own: `own:` and the hash of its content.
    ChoiceOrPicture(&'static [Choice]),
}

/// Even steps from low to high.
pub const fn range(low: f64, high: f64, step: f64, decimals: usize) -> Kind {
    Kind::Scalar { low, high, step, decimals, scale: Scale::Linear }
}

/// Most points of a tone curve.
pub const MOST_POINTS: usize = 16;

/// Where a control's own value comes from.
#[derive(Debug, Clone, Copy)]
pub enum Own {
    /// The same for every stock.
    Neutral(f64),
    /// A number that the stock states.
    Stock(fn(&Stock) -> f64),
    /// A choice that the stock states.
    StockChoice(fn(&Stock) -> &'static str),
    /// On or off for every stock.
    Switch(bool),
    /// The straight line, which changes nothing.
    Line,
    /// The whole picture.
    Everywhere,
    /// A colour of sRGB.
    Colour(fn(&Stock) -> [u8; 3]),
}

/// A control.
#[derive(Debug, Clone, Copy)]
pub struct Control {
    /// `station.group.value`; frozen once released.
    pub id: &'static str,
    /// The station to which it belongs.
    pub station: Station,
    /// The column of the bench in which it stands.
    pub column: &'static Column,
    /// Within the column, the page on which it stands: controls of several tabs share their place.
    pub tab: &'static str,
    /// What it is called beside its track.
    pub label: &'static str,
    /// What its number means.
    pub unit: Unit,
    /// What it holds.
    pub kind: Kind,
    /// The track has a zero in the middle.
    pub two_sided: bool,
    /// Where its own value comes from.
    pub own: Own,
    /// Belongs to the one picture: stays when a stock is changed and out of presets.
    pub picture_specific: bool,
    /// A tuning is carried to another stock as a ratio, not as a difference.
    pub ratio: bool,
    /// What it reads as while it is off.
    pub rest: Rest,
    /// Whether it acts on this stock.
    pub applies: fn(&Stock) -> bool,
    /// What it does, in a sentence or two.
    pub help: &'static str,
}

impl Control {
    /// A scalar from 0 to 1 with the own value 0, to be completed by struct update.
    pub const fn scalar(id: &'static str, station: Station, column: &'static Column, label: &'static str) -> Self {
        Self {
            id,
            station,
            column,
            tab: "",
            label,
            unit: Unit::None,
            kind: Kind::Scalar { low: 0.0, high: 1.0, step: 0.01, decimals: 2, scale: Scale::Linear },
            two_sided: false,
            own: Own::Neutral(0.0),
            picture_specific: false,
            ratio: false,
            rest: Rest::Own,
            applies: |_| true,
            help: "",
        }
    }

    /// Whether it is the grain itself that it changes: a view in motion must show it.
    pub fn shows_in_grain(&self) -> bool {
        self.station == Station::Film && (self.id.starts_with("film.grain.") || self.id == "film.size")
    }

    /// Whether its value stays when another stock is loaded: what belongs to the picture, and all that is done to the
    /// light before the film and not stated by the stock, and what lies on it.
    pub fn stays_with_the_picture(&self) -> bool {
        let stated = matches!(self.own, Own::Stock(_) | Own::StockChoice(_));
        self.picture_specific || self.station == Station::Surface || (self.station < Station::Film && !stated)
    }

    /// The label where the control's column and tab are not seen: "Blue: Saturation", "Halation: Strength".
    pub fn full_label(&self) -> String {
        // several columns have a strength
        let says_little = self.label == "Strength" && self.column.label != self.label;
        match (self.kind, self.tab) {
            (_, "") if says_little => format!("{}: {}", self.column.label, self.label),
            (_, "") => self.label.into(),
            (Kind::Curve, _) => format!("{}: {}", self.column.label, self.label),
            (_, tab) => format!("{tab}: {}", self.label),
        }
    }

    /// Whole per cents from 0 to `high`.
    pub const fn percent(
        id: &'static str,
        station: Station,
        column: &'static Column,
        label: &'static str,
        own: f64,
        high: f64,
    ) -> Self {
        Self {
            unit: Unit::Percent,
            kind: range(0.0, high, 1.0, 0),
            own: Own::Neutral(own),
            ..Self::scalar(id, station, column, label)
        }
    }

    /// Where an effect applies.
    pub const fn mask(id: &'static str, station: Station, column: &'static Column, label: &'static str) -> Self {
        Self {
            kind: Kind::Mask,
            own: Own::Everywhere,
            picture_specific: true,
            help: "Where it applies: the whole picture, a mask, or all but a mask.",
            ..Self::scalar(id, station, column, label)
        }
    }

    /// The own value for a stock.
    pub fn own_value(&self, stock: &Stock) -> Value {
        stock.own.get(self.id).cloned().unwrap_or_else(|| self.declared_own(stock))
    }

    /// What it reads as while it is off: it does nothing, or as little as the process allows.
    pub fn at_rest(&self, stock: &Stock) -> Value {
        match self.rest {
            Rest::Number(v) => Value::Number(v),
            Rest::Choice(id) => Value::Choice(id.into()),
            Rest::Own | Rest::Stays => self.declared_own(stock),
        }
    }

    /// The own value of the stock's data, without what a kept stock states beside them.
    fn declared_own(&self, stock: &Stock) -> Value {
        match self.own {
            Own::Switch(on) => Value::Switch(on),
            Own::Line => Value::Curve(vec![[0.0, 0.0], [100.0, 100.0]]),
            Own::Everywhere => Value::Choice(String::new()),
            Own::Colour(f) => Value::of_colour(f(stock)),
            Own::Neutral(v) => Value::Number(v),
            Own::Stock(f) => Value::Number(f(stock)),
            Own::StockChoice(f) => Value::Choice(f(stock).into()),
        }
    }

    /// What the control takes, in words.
    pub fn takes(&self) -> String {
        match self.kind {
            Kind::Scalar { low, high, .. } => format!("a number from {low} to {high}"),
            Kind::Choice(list) => {
                format!("one of {}", list.iter().map(|c| c.id).collect::<Vec<_>>().join(", "))
            }
            Kind::Switch => "on or off".into(),
            Kind::Colour => "a colour such as #d8b276".into(),
            Kind::Mask => "the id of a mask, 'not' and an id, or nothing".into(),
            Kind::ChoiceOrPicture(list) => {
                let ids: Vec<&str> = list.iter().map(|choice| choice.id).filter(|id| !id.is_empty()).collect();
                format!("one of {}, or own: and the hash of a picture", ids.join(", "))
            }
            Kind::Curve => format!("2 to {MOST_POINTS} points such as 0,0 50,60 100,100, from left to right"),
        }
    }

    /// Checks a value against kind and range.
    pub fn check(&self, value: &Value) -> Result<(), CoreError> {
        let not = |given: String| CoreError::NotAValue { label: self.label, wanted: self.takes(), given };
        match (self.kind, value) {
            (Kind::Scalar { low, high, .. }, Value::Number(v)) => {
                if !v.is_finite() {
                    return Err(not(v.to_string()));
                }
                if (low..=high).contains(v) {
                    return Ok(());
                }
                let unit = self.unit.after_number();
                Err(CoreError::OutOfRange { label: self.label, low, high, unit, given: *v })
            }
            (Kind::Switch, Value::Switch(_)) => Ok(()),
            (Kind::Curve, Value::Curve(points)) => {
                let inside = points.iter().flatten().all(|v| (0.0..=100.0).contains(v));
                let rising = points.windows(2).all(|p| p[0][0] < p[1][0]);
                let count = (2..=MOST_POINTS).contains(&points.len());
                if inside && rising && count { Ok(()) } else { Err(not(value.to_string())) }
            }
            (Kind::Colour, value) if value.colour().is_some() => Ok(()),
            (Kind::Mask, Value::Choice(id)) if is_mask_use(id) => Ok(()),
            (Kind::ChoiceOrPicture(list), Value::Choice(id))
                if list.iter().any(|c| c.id == id) || own_picture(id).is_some() =>
            {
                Ok(())
            }
            (Kind::Choice(list), Value::Choice(id)) if list.iter().any(|c| c.id == id) => Ok(()),
            (_, other) => Err(not(other.to_string())),
        }
    }

    /// Reads a value as a person types it on the command line.
    pub fn parse(&self, text: &str) -> Result<Value, CoreError> {
        let text = text.trim();
        let value = match self.kind {
            Kind::Choice(_) | Kind::ChoiceOrPicture(_) | Kind::Mask | Kind::Colour => Value::Choice(text.into()),
            Kind::Switch => match text {
                "on" | "true" | "1" => Value::Switch(true),
                "off" | "false" | "0" => Value::Switch(false),
                other => Value::Choice(other.into()),
            },
            Kind::Curve => {
                let point = |word: &str| -> Option<[f64; 2]> {
                    let (x, y) = word.split_once(',')?;
                    Some([x.trim().parse().ok()?, y.trim().parse().ok()?])
                };
                match text.split_whitespace().map(point).collect::<Option<Vec<_>>>() {
                    Some(points) => Value::Curve(points),
                    None => Value::Choice(text.into()),
                }
            }
            Kind::Scalar { .. } => {
                let plain = text.replace('\u{2212}', "-");
                let number = plain.strip_suffix(self.unit.symbol()).unwrap_or(&plain).trim().parse::<f64>();
                Value::Number(number.map_err(|_| CoreError::NotAValue {
                    label: self.label,
                    wanted: self.takes(),
                    given: text.into(),
                })?)
            }
        };
        self.check(&value)?;
        Ok(value)
    }

    /// A value as it is written for people: true minus, a plus where it is two-sided, a blank before the unit.
    pub fn written(&self, value: &Value) -> String {
        match (value, self.kind) {
            (Value::Number(v), Kind::Scalar { decimals, .. }) => {
                let digits = format!("{:.*}", decimals, v.abs());
                let zero = digits.chars().all(|c| c == '0' || c == '.');
                let sign = match (zero, *v < 0.0, self.two_sided) {
                    (false, true, _) => "\u{2212}",
                    (false, false, true) => "+",
                    _ => "",
                };
                match self.unit {
                    Unit::None | Unit::Grade => format!("{sign}{digits}"),
                    unit => format!("{sign}{digits} {}", unit.symbol()),
                }
            }
            (Value::Choice(id), Kind::ChoiceOrPicture(_)) if own_picture(id).is_some() => {
                "a picture of your own".into()
            }
            (Value::Choice(id), Kind::Choice(list) | Kind::ChoiceOrPicture(list)) => {
                list.iter().find(|c| c.id == id).map_or_else(|| id.clone(), |c| c.label.into())
            }
            (Value::Choice(id), Kind::Mask) if id.is_empty() => "whole picture".into(),
            (Value::Curve(points), _) if points.as_slice() == [[0.0, 0.0], [100.0, 100.0]] => "straight".into(),
            (Value::Curve(points), _) => format!("{} points", points.len()),
            (other, _) => other.to_string(),
        }
    }
}

/// The hash that names a picture of one's own: `own:` and 64 hexadecimal digits.
pub fn own_picture(id: &str) -> Option<&str> {
    let hash = id.strip_prefix("own:")?;
    (hash.len() == 64 && hash.bytes().all(|b| b.is_ascii_digit() || (b'a'..=b'f').contains(&b))).then_some(hash)
}

/// Longest id of a mask.
const LONGEST_MASK_ID: usize = 24;

/// Whether text can be the id of a mask.
pub fn is_mask_id(id: &str) -> bool {
    let letter = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
    !id.is_empty() && id.len() <= LONGEST_MASK_ID && id != "not" && id.chars().all(letter)
}

/// The id of the mask that a value asks for and whether it applies outside of it; `None` for the whole picture.
pub fn mask_asked(value: &str) -> Option<(&str, bool)> {
    match value.strip_prefix("not ") {
        _ if value.is_empty() => None,
        Some(id) => Some((id, true)),
        None => Some((value, false)),
    }
}

fn is_mask_use(value: &str) -> bool {
    mask_asked(value).is_none_or(|(id, _)| is_mask_id(id))
}
