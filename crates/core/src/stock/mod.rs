//! Stocks: a film or plate as data.
//!
//! Built-in stocks are the files in `core/stocks/`; a stock's numbers are its *own values*, from which a development
//! departs by tuning.

pub mod catalogue;
pub mod chart;
mod check;
pub mod crossing;
pub mod features;
mod kind;
pub mod material;
pub mod process;
mod shape;

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::colour::look::Look;
use crate::colour::spectrum::Peak;
use crate::error::CoreError;
use crate::picture::Gate;
use crate::text::{json, json_in_lines};
use crate::value::Value;

pub use catalogue::Catalogue;
pub use chart::Chart;
pub use features::{
    Fade, FadeMode, GrainProfile, HalationProfile, Mottle, NearInfrared, ScreenMosaic, ViewerAdaptation,
};
pub use kind::StockKind;
pub use process::{Image, Plate, Process};
pub use shape::{ABOVE_DMAX, CurveShape, LayerCurves};

/// A film as data. Lengths in um or mm, densities in log10, colour temperatures in kelvin.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Stock {
    /// What documents call it.
    pub id: String,
    /// The name on the board; a capitalised id when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// What there is to know of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub notes: Option<String>,
    /// What kind of material it is.
    pub kind: StockKind,
    /// Where it stands on the board.
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
    #[serde(default, rename = "sens", skip_serializing_if = "Vec::is_empty")]
    pub sensitivity: Vec<Vec<Peak>>,
    /// Its characteristic curves.
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
    /// Absorption of the base.
    #[serde(default)]
    pub base: Vec<Peak>,
    /// Density of the base at every wavelength.
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
    /// Light that the base throws back.
    pub halation: HalationProfile,
    /// Its grain.
    pub grain: GrainProfile,
    /// Share of the silver that stays in the colour picture.
    #[serde(default, skip_serializing_if = "shape::is_zero")]
    pub skip_bleach: f64,
    /// What it sees beyond red.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nir: Option<NearInfrared>,
    /// Slow blotches of an old film.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mottle: Option<Mottle>,
    /// The filter mosaic of a screen plate.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub screen: Option<ScreenMosaic>,
    /// What time has done to it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fade: Option<Fade>,
    /// What a contact print is made of.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub process: Option<Process>,
    /// What a plate is made of.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub plate: Option<Plate>,
    /// Which record each layer belongs to; layers of one record share their grain.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub records: Option<[u8; 3]>,
    /// `document`: developed for line work, not to the standard contrast.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub contrast: Option<String>,
    /// How an instant picture is seen.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub viewer: Option<ViewerAdaptation>,
    /// The colours of its scan, where it was made of a look's table.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub look: Option<Look>,
    /// What was measured on the film, where it was fitted to a chart.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub chart: Option<Chart>,
    /// Own values of controls that the fields above do not state: for stocks kept from a tuned frame.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub own: BTreeMap<String, Value>,
    /// The camera's gate, long side and short side.
    #[serde(rename = "gate_mm")]
    pub(crate) gate: [f64; 2],
}

/// The JSON Schema of stock files.
pub fn stock_schema() -> String {
    json_in_lines(&schemars::schema_for!(Stock))
}

fn mid_grey() -> f64 {
    0.18
}

fn camera_rendering() -> f64 {
    0.85
}

impl Stock {
    /// Reads a stock file and checks all of it but its own values, which are those of controls.
    pub(crate) fn of_data(text: &str) -> Result<Self, CoreError> {
        let stock: Stock = serde_json::from_str(text).map_err(|e| CoreError::StockFile { why: e.to_string() })?;
        stock.check()?;
        Ok(stock)
    }

    /// The stock file.
    pub fn to_json(&self) -> String {
        json_in_lines(self)
    }

    /// Content hash by which a development remembers the stock it was made with.
    pub fn content_hash(&self) -> String {
        blake3::hash(&json(self)).to_hex().to_string()
    }

    /// What people call it.
    pub fn name(&self) -> String {
        if let Some(name) = &self.name {
            return name.clone();
        }
        let mut letters = self.id.chars();
        letters.next().map(|c| c.to_uppercase().chain(letters).collect()).unwrap_or_default()
    }

    /// The camera's gate.
    pub fn gate(&self) -> Gate {
        Gate::new(self.gate[0], self.gate[1])
    }

    /// Whether its picture is of silver, or of what was made of it.
    pub fn has_silver(&self) -> bool {
        use StockKind::{BlackAndWhiteInstant, BlackAndWhiteNegative, ContactPrint};
        matches!(self.kind, BlackAndWhiteNegative | BlackAndWhiteInstant | ContactPrint)
    }

    /// 1 or 3.
    pub fn layers(&self) -> usize {
        if self.kind.is_colour() { 3 } else { 1 }
    }

    /// The record to which a layer belongs: its own, unless the stock says otherwise.
    pub fn record_of(&self, layer: usize) -> usize {
        self.records.map_or(layer, |r| r[layer.min(2)] as usize)
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

    /// The published schema is that of the code: `amber-grain stocks schema > docs/schema/stock.schema.json`.
    #[test]
    fn the_published_schema_is_current() {
        // the order of fields depends on what else is built: it does not count
        let read = |text: &str| serde_json::from_str::<serde_json::Value>(text).unwrap();
        let published = read(include_str!("../../../../docs/schema/stock.schema.json"));
        assert!(published == read(&stock_schema()), "write docs/schema/stock.schema.json anew");
    }

    #[test]
    fn a_stock_survives_its_file() {
        let stock = Stock::from_json(PLOVER).unwrap();
        let again = Stock::from_json(&stock.to_json()).unwrap();
        assert_eq!(stock, again);
        assert_eq!(stock.content_hash(), again.content_hash());
    }
}
