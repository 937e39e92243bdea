//! The shapes a mask is made of, as they are written down.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Most strokes of a part, and most points of a stroke.
const MOST: [usize; 2] = [2000, 4000];
/// Places may lie this far outside the picture, in shares of it.
const OUTSIDE: f64 = 4.0;

/// One stroke of a brush.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Stroke {
    /// Diameter, as a share of the diagonal.
    pub size: f64,
    /// Share of the radius over which its border fades.
    #[serde(default = "half")]
    pub softness: f64,
    /// What a stroke adds or takes, 0..1.
    #[serde(default = "whole")]
    pub strength: f64,
    /// Takes away from the strokes before it.
    #[serde(default)]
    pub erase: bool,
    /// Places along it.
    pub points: Vec<[f64; 2]>,
}

/// An ellipse.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Oval {
    /// Its middle, as shares of the sides.
    pub centre: [f64; 2],
    /// As shares of the diagonal.
    pub radii: [f64; 2],
    /// In degrees, with the clock.
    #[serde(default)]
    pub turn: f64,
    /// Share of the radius over which the border fades, inwards.
    #[serde(default = "half")]
    pub feather: f64,
}

/// A straight fall from all to nothing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Ramp {
    /// Where it is still whole.
    pub from: [f64; 2],
    /// Where it has ended.
    pub to: [f64; 2],
}

/// A range of hue (in degrees of Oklab) or of tone (in zones).
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Range {
    /// Where it begins.
    pub low: f64,
    /// Where it ends.
    pub high: f64,
    /// How far below `low` and above `high` it fades.
    pub feather: [f64; 2],
}

/// A region grown from a stroke to the edges around it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Grown {
    /// Width of the strokes it grows from, as a share of the diagonal.
    pub size: f64,
    /// How much a colour may differ: 0 hardly, 1 much.
    pub reach: f64,
    /// Strokes over the thing, each a list of places.
    pub strokes: Vec<Vec<[f64; 2]>>,
}

/// What a part selects.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename_all = "lowercase", deny_unknown_fields)]
pub enum Shape {
    /// What was painted.
    Brush {
        /// What was painted, stroke by stroke.
        strokes: Vec<Stroke>,
    },
    /// Within an oval.
    Ellipse(Oval),
    /// From one line to another.
    Linear(Ramp),
    /// A range of hues.
    Hue(Range),
    /// A range of tones.
    Tone(Range),
    /// By edge.
    Edge(Grown),
}

fn half() -> f64 {
    0.5
}

fn whole() -> f64 {
    1.0
}

fn within(what: &str, value: f64, low: f64, high: f64) -> Result<(), String> {
    if (low..=high).contains(&value) {
        Ok(())
    } else {
        Err(format!("has a {what} of {value}; it goes from {low} to {high}"))
    }
}

fn places<'a>(all: impl IntoIterator<Item = &'a [f64; 2]>) -> Result<(), String> {
    let inside = |p: &[f64; 2]| p.iter().all(|v| (-OUTSIDE..=1.0 + OUTSIDE).contains(v));
    match all.into_iter().find(|p| !inside(p)) {
        None => Ok(()),
        Some([x, y]) => Err(format!("has a place {x}, {y} far outside the picture; places are shares of it, 0 to 1")),
    }
}

fn count(what: &str, found: usize, most: usize) -> Result<(), String> {
    if found <= most { Ok(()) } else { Err(format!("has {found} {what}; {most} is the most")) }
}

impl Shape {
    pub(super) fn check(&self) -> Result<(), String> {
        match self {
            Self::Brush { strokes } => {
                count("strokes", strokes.len(), MOST[0])?;
                strokes.iter().try_for_each(|s| {
                    within("brush size", s.size, 0.0005, 1.0)?;
                    within("softness", s.softness, 0.0, 1.0)?;
                    within("strength", s.strength, 0.0, 1.0)?;
                    count("points in a stroke", s.points.len(), MOST[1])?;
                    places(&s.points)
                })
            }
            Self::Ellipse(oval) => {
                oval.radii.iter().try_for_each(|r| within("radius", *r, 0.001, 4.0))?;
                within("turn", oval.turn, -360.0, 360.0)?;
                within("feather", oval.feather, 0.0, 1.0)?;
                places([&oval.centre])
            }
            Self::Linear(ramp) => places([&ramp.from, &ramp.to]),
            Self::Hue(range) => {
                within("hue", range.low, -360.0, 720.0)?;
                within("hue", range.high, -360.0, 720.0)?;
                range.feather.iter().try_for_each(|f| within("feather", *f, 0.0, 180.0))
            }
            Self::Tone(range) => {
                within("zone", range.low, -10.0, 20.0)?;
                within("zone", range.high, -10.0, 20.0)?;
                range.feather.iter().try_for_each(|f| within("feather", *f, 0.0, 10.0))
            }
            Self::Edge(grown) => {
                within("brush size", grown.size, 0.0005, 1.0)?;
                within("reach", grown.reach, 0.0, 1.0)?;
                count("strokes", grown.strokes.len(), MOST[0])?;
                grown.strokes.iter().try_for_each(|points| {
                    count("points in a stroke", points.len(), MOST[1])?;
                    places(points)
                })
            }
        }
    }

    /// As it is called.
    pub fn words(&self) -> &'static str {
        match self {
            Self::Brush { .. } => "Brush",
            Self::Ellipse(_) => "Ellipse",
            Self::Linear(_) => "Linear",
            Self::Hue(_) => "Hue range",
            Self::Tone(_) => "Tone range",
            Self::Edge(_) => "By edge",
        }
    }
}
