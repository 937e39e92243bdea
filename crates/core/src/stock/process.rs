//! Historic processes: contact prints on hand-coated paper, and plates that are themselves the picture.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::CurveShape;
use super::material::{Colourant, visual_density};
use crate::colour::Spectrum;
use crate::colour::spectrum::{Peak, TABLES};
use crate::colour::transfer::decode_srgb;

/// What the image is made of.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum Image {
    /// A pigment of any colour (sRGB, 8 bit).
    Pigment {
        /// Of sRGB.
        pigment: [u8; 3],
    },
    /// A substance with an absorption of its own.
    Colourant(Colourant),
}

/// Share of a pigment's density that is its colour; the rest is grey, from scatter.
const PIGMENT_SHARE: f64 = 0.8;
/// Reflectances between which a pigment's spectrum is kept.
const PIGMENT_RANGE: (f64, f64) = (0.02, 0.98);

impl Image {
    /// Spectral density, scaled so that one unit has visual density 1.
    pub fn unit_density(&self) -> Spectrum {
        match self {
            Self::Colourant(colourant) => colourant.unit_density(),
            Self::Pigment { pigment } => pigment_density(*pigment),
        }
    }
}

/// Spectral density of a pigment, one unit of visual density.
pub fn pigment_density(srgb: [u8; 3]) -> Spectrum {
    let linear = srgb.map(|v| decode_srgb(f64::from(v) / 255.0));
    let [r, g, b] = TABLES.uplift;
    let reflectance = r * linear[0] + g * linear[1] + b * linear[2];
    let density = reflectance.map(|v| -v.clamp(PIGMENT_RANGE.0, PIGMENT_RANGE.1).log10());
    let scattered = density * (PIGMENT_SHARE / visual_density(&density)) + Spectrum::ONE * (1.0 - PIGMENT_SHARE);
    scattered * (1.0 / visual_density(&scattered))
}

/// A contact print from a negative of the picture's own size.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Process {
    /// Visual density over log exposure.
    pub curve: CurveShape,
    /// What its picture is made of.
    pub image: Image,
    /// Share of the image that is lost in a year, in the dark and in light.
    #[serde(default)]
    pub lost_per_year: [f64; 2],
    /// How much its paper yellows, relative to a silver print's.
    #[serde(default = "as_silver")]
    pub yellowing: f64,
    /// Own edge and unevenness of the coating, 0..1.
    #[serde(default)]
    pub coating: [f64; 2],
}

fn as_silver() -> f64 {
    1.0
}

/// Silver on a dark plate: the more of it, the lighter.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Plate {
    /// Share of the plate that silver covers where mid grey was.
    pub grey_cover: f64,
    /// Cover 1 - 10^(-k (D - dmin)).
    pub k: f64,
    /// Reflectance of silver and of the bare plate.
    pub r_silver: f64,
    /// Reflectance of the bare plate.
    pub r_plate: f64,
    /// Spectral densities over them.
    pub silver_tint: Vec<Peak>,
    /// Colour of the bare plate.
    pub plate_tint: Vec<Peak>,
    /// Factor on the light that it reflects.
    pub gain: f64,
    /// Own edge and unevenness of the coating, 0..1.
    #[serde(default)]
    pub coating: [f64; 2],
}
