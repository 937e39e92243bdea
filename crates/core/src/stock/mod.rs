//! Stocks: a film or plate as data.
//!
//! Built-in stocks are the files in `core/stocks/`; a stock's numbers are its *own values*, from which a development
//! departs by tuning.

pub mod catalogue;
pub mod material;

use serde::{Deserialize, Serialize};

use crate::colour::spectrum::Peak;
use crate::error::CoreError;
use crate::picture::Gate;

pub use catalogue::Catalogue;

/// What kind of film it is: this decides its placement by speed and its way to a picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub enum StockKind {
    #[serde(rename = "color-negative")]
    ColourNegative,
    #[serde(rename = "reversal")]
    Reversal,
    #[serde(rename = "bw-negative")]
    BlackAndWhiteNegative,
}

impl StockKind {
    pub fn words(self) -> &'static str {
        match self {
            Self::ColourNegative => "colour negative",
            Self::Reversal => "colour slide",
            Self::BlackAndWhiteNegative => "black-and-white negative",
        }
    }

    pub fn is_colour(self) -> bool {
        !matches!(self, Self::BlackAndWhiteNegative)
    }

    /// Density falls with exposure.
    pub fn is_reversal(self) -> bool {
        matches!(self, Self::Reversal)
    }
}

/// Shape of one layer's characteristic curve (density over log10 exposure).
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
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

fn is_zero(v: &f64) -> bool {
    *v == 0.0
}

/// One curve per layer: three for colour, one for black and white.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum LayerCurves {
    Colour {
        #[serde(rename = "R")]
        red: CurveShape,
        #[serde(rename = "G")]
        green: CurveShape,
        #[serde(rename = "B")]
        blue: CurveShape,
    },
    Single {
        #[serde(rename = "K")]
        single: CurveShape,
    },
}

impl LayerCurves {
    pub fn list(&self) -> Vec<CurveShape> {
        match self {
            Self::Colour { red, green, blue } => vec![*red, *green, *blue],
            Self::Single { single } => vec![*single],
        }
    }
}

/// The stock's own grain.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct GrainProfile {
    /// RMS granularity: 1000 x standard deviation of density through a 48 um aperture at D = 1.
    pub granularity: f64,
    /// Mean diameter of a grain or dye cloud in um.
    pub diameter_um: f64,
    /// 0 even to 1 clustered.
    pub roughness: f64,
    /// Optical spread of the grain image in um.
    pub blur_um: f64,
    /// Granularity of each layer relative to the stated one.
    pub layer_ratio: Vec<f64>,
    /// Diameter of each layer relative to the stated one.
    pub diameter_ratio: Vec<f64>,
    /// Weight in shadows, middle, highlights of the scene.
    pub zone_weights: [f64; 3],
    /// 1: the layers' grain is independent; 0: one common grain.
    pub colour_share: f64,
}

/// Light scattered back from the film's base (computed with the halation effect).
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct HalationProfile {
    pub strength: Vec<f64>,
    pub boost: f64,
}

/// A film as data. Lengths in um or mm, densities in log10, colour temperatures in kelvin.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Stock {
    pub id: String,
    /// The name on the board; a capitalised id when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub notes: Option<String>,
    pub kind: StockKind,
    pub family: String,
    /// Nominal speed, ISO arithmetic.
    pub iso: f64,
    /// The light the film is balanced for.
    #[serde(rename = "balance_K")]
    pub balance_kelvin: f64,
    /// The light of the scene, where the stock is meant for a mismatch.
    #[serde(default, rename = "scene_K", skip_serializing_if = "Option::is_none")]
    pub scene_kelvin: Option<f64>,
    /// Spectral sensitivity of each layer: sums of Gaussians [peak nm, sigma nm, weight].
    #[serde(rename = "sens")]
    pub sensitivity: Vec<Vec<Peak>>,
    #[serde(rename = "curve")]
    pub curves: LayerCurves,
    /// Ordinary interlayer inhibition, rows R, G, B: the row's layer is restrained by the column's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub inhibition: Option<[[f64; 3]; 3]>,
    /// Interlayer inhibition in the lights.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub inhibition_high: Option<[[f64; 3]; 3]>,
    /// Name of the dye set.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dyes: Option<String>,
    /// Share of the unwanted absorptions that coloured couplers turn into a constant mask.
    #[serde(default)]
    pub mask: f64,
    /// Dye amounts at which the mask was formed.
    #[serde(default)]
    pub cref: [f64; 3],
    #[serde(default)]
    pub base: Vec<Peak>,
    #[serde(default)]
    pub base_flat: f64,
    /// Name of the print material of a colour negative.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub print: Option<String>,
    /// Own filtration C, M, Y in CC, after the automatic balance.
    #[serde(default)]
    pub cc: [f64; 3],
    /// Print reflectance of mid grey, relative to paper white.
    #[serde(default = "mid_grey")]
    pub aim: f64,
    /// Own print exposure in log10 units.
    #[serde(default)]
    pub dens: f64,
    /// Own exposure offset in stops.
    #[serde(default)]
    pub ev: f64,
    /// De-rendering exponent of the camera picture.
    #[serde(default = "camera_rendering")]
    pub q: f64,
    /// Own paper grade, 0..5.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub grade: Option<f64>,
    /// Name of the black-and-white paper.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub paper: Option<String>,
    /// Viewing light of a transparency: D50 light table or D55 projection.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub view: Option<String>,
    pub halation: HalationProfile,
    pub grain: GrainProfile,
    /// The camera's gate, long side and short side.
    #[serde(rename = "gate_mm")]
    gate: [f64; 2],
}

fn mid_grey() -> f64 {
    0.18
}

fn camera_rendering() -> f64 {
    0.85
}

impl Stock {
    /// Reads and checks a stock file. The error names the line or the field that is wrong.
    pub fn from_json(text: &str) -> Result<Self, CoreError> {
        let stock: Stock = serde_json::from_str(text).map_err(|e| CoreError::StockFile { why: e.to_string() })?;
        stock.check().map_err(|why| CoreError::StockFile { why })?;
        Ok(stock)
    }

    pub fn to_json(&self) -> String {
        serde_json::to_string_pretty(self).unwrap_or_default()
    }

    /// Content hash by which a development remembers the stock it was made with.
    pub fn content_hash(&self) -> String {
        let compact = serde_json::to_vec(self).unwrap_or_default();
        blake3::hash(&compact).to_hex().to_string()
    }

    pub fn name(&self) -> String {
        if let Some(name) = &self.name {
            return name.clone();
        }
        let mut letters = self.id.chars();
        letters.next().map(|c| c.to_uppercase().chain(letters).collect()).unwrap_or_default()
    }

    pub fn gate(&self) -> Gate {
        Gate::new(self.gate[0], self.gate[1])
    }

    pub fn layers(&self) -> usize {
        if self.kind.is_colour() { 3 } else { 1 }
    }

    fn check(&self) -> Result<(), String> {
        let layers = self.layers();
        let within = |field: &str, value: f64, low: f64, high: f64| {
            if value.is_finite() && (low..=high).contains(&value) {
                Ok(())
            } else {
                Err(format!("{field} is {value}, but must lie between {low} and {high}"))
            }
        };
        let count = |field: &str, found: usize| {
            if found == layers {
                Ok(())
            } else {
                Err(format!("{field} has {found} entries, but a {} has {layers} layers", self.kind.words()))
            }
        };
        let word = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
        if self.id.is_empty() || self.id.len() > 64 || !self.id.chars().all(word) {
            return Err("id must be 1 to 64 lower-case letters, digits or hyphens".into());
        }
        within("iso", self.iso, 0.5, 25_600.0)?;
        within("balance_K", self.balance_kelvin, 2000.0, 12_000.0)?;
        count("sens", self.sensitivity.len())?;
        count("curve", self.curves.list().len())?;
        count("grain.layer_ratio", self.grain.layer_ratio.len())?;
        count("grain.diameter_ratio", self.grain.diameter_ratio.len())?;
        for peak in self.sensitivity.iter().flatten() {
            within("sens, peak in nm", peak[0], 300.0, 900.0)?;
            within("sens, width in nm", peak[1], 1.0, 300.0)?;
            within("sens, weight", peak[2], 0.0, 100.0)?;
        }
        for (i, c) in self.curves.list().iter().enumerate() {
            let at = |field: &str| format!("curve {}, {field}", i + 1);
            within(&at("dmin"), c.dmin, 0.0, 3.0)?;
            within(&at("gamma"), c.gamma, 0.05, 20.0)?;
            within(&at("toe"), c.toe, 0.01, 3.0)?;
            within(&at("shoulder"), c.shoulder, 0.01, 3.0)?;
            within(&at("dmax"), c.dmax, c.dmin + 0.2, 5.0)?;
        }
        within("grain.granularity", self.grain.granularity, 0.0, 50.0)?;
        within("grain.diameter_um", self.grain.diameter_um, 1.0, 25.0)?;
        within("grain.roughness", self.grain.roughness, 0.0, 1.0)?;
        within("gate_mm, long side", self.gate[0], 4.0, 400.0)?;
        within("gate_mm, short side", self.gate[1], 4.0, self.gate[0])?;
        within("aim", self.aim, 0.02, 0.9)?;
        within("q", self.q, 0.2, 2.0)?;
        match self.kind {
            StockKind::BlackAndWhiteNegative => {
                let paper = self.paper.as_deref().ok_or("a black-and-white negative needs `paper`")?;
                material::graded_paper(paper).ok_or(format!("there is no paper called '{paper}'"))?;
                within("grade", self.grade.ok_or("a black-and-white negative needs `grade`")?, 0.0, 5.0)?;
            }
            StockKind::ColourNegative => {
                let print = self.print.as_deref().ok_or("a colour negative needs `print`")?;
                material::print_material(print).ok_or(format!("there is no print material called '{print}'"))?;
            }
            StockKind::Reversal => {
                let view = self.view.as_deref().ok_or("a slide needs `view`")?;
                material::viewing_light(view).ok_or(format!("there is no viewing light called '{view}'"))?;
            }
        }
        if self.kind.is_colour() {
            let dyes = self.dyes.as_deref().ok_or("a colour film needs `dyes`")?;
            material::dye_set(dyes).ok_or(format!("there is no dye set called '{dyes}'"))?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const PLOVER: &str = include_str!("../../stocks/plover.json");

    #[test]
    fn a_wrong_field_is_named() {
        let broken = PLOVER.replace("\"iso\": 200", "\"iso\": -3");
        let error = Stock::from_json(&broken).unwrap_err().to_string();
        assert!(error.contains("iso is -3"), "{error}");
        let broken = PLOVER.replace("lab-paper", "no-such-paper");
        assert!(Stock::from_json(&broken).unwrap_err().to_string().contains("no-such-paper"));
        let broken = PLOVER.replace("\"iso\"", "\"speed\"");
        assert!(Stock::from_json(&broken).unwrap_err().to_string().contains("speed"));
    }

    #[test]
    fn a_stock_survives_its_file() {
        let stock = Stock::from_json(PLOVER).unwrap();
        let again = Stock::from_json(&stock.to_json()).unwrap();
        assert_eq!(stock, again);
        assert_eq!(stock.content_hash(), again.content_hash());
    }
}
