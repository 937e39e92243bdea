//! Lab orders: what is laid on pictures, how they are cut, written and named, as one document.

mod hand_off;
mod on_files;
mod on_frames;
mod record;

use std::sync::Arc;

use amber_core::controls::Value;
use amber_core::development::StockRef;
use amber_core::{CoreError, Development, Preset, Stock, stations};
use schemars::{JsonSchema, Schema, schema_for};
use serde::{Deserialize, Serialize};

pub use hand_off::HandOff;
pub(crate) use hand_off::Watched;
pub use on_files::{FileOutcome, FileWork, Files, Plan, Planned, Shard};
pub use record::{Manifest, Record, merged};

use crate::delivery::{Named, Output, names_by, safe_name};
use crate::error::LabError;

/// Version of the document's form.
pub const VERSION: u32 = 1;
/// The control that cuts to a format, and those that cut further.
const FORMAT: &str = "lens.format";
const CROP: [&str; 3] = ["lens.crop.size", "lens.crop.x", "lens.crop.y"];

/// A lab order.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LabOrder {
    pub version: u32,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub name: String,
    /// Names of the files, without ending: words in braces stand for the picture's own.
    #[serde(default = "usual_pattern")]
    pub pattern: String,
    /// How pictures are developed; as they are, or as the first stock is, where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub development: Option<Development>,
    /// The development's stock, where it is one of somebody's own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stock: Option<Box<Stock>>,
    /// Laid on it, one after the other.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub presets: Vec<Preset>,
    /// How far of the way presets go, in per cent.
    #[serde(default = "all_the_way")]
    pub strength: f64,
    /// A format to which pictures are cut from their middle, one of those of `lens.format`; as they are framed where
    /// nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub crop: Option<String>,
    #[serde(default)]
    pub output: Output,
}

fn usual_pattern() -> String {
    "{name} {stock}".into()
}

fn all_the_way() -> f64 {
    100.0
}

impl Default for LabOrder {
    fn default() -> Self {
        Self {
            version: VERSION,
            name: String::new(),
            pattern: usual_pattern(),
            development: None,
            stock: None,
            presets: Vec::new(),
            strength: all_the_way(),
            crop: None,
            output: Output::default(),
        }
    }
}

impl LabOrder {
    /// Reads a document and checks all of it.
    pub fn from_json(text: &str) -> Result<Self, LabError> {
        let order: Self = serde_json::from_str(text).map_err(|e| LabError::Document { why: e.to_string() })?;
        order.check()?;
        Ok(order)
    }

    pub fn to_json(&self) -> String {
        serde_json::to_string_pretty(self).unwrap_or_default()
    }

    /// The JSON Schema of the document.
    pub fn schema() -> Schema {
        schema_for!(LabOrder)
    }

    /// Refuses what cannot be done.
    pub fn check(&self) -> Result<(), LabError> {
        if self.version > VERSION {
            return Err(CoreError::TooNew { found: self.version, known: VERSION }.into());
        }
        self.output.check()?;
        names_by(&self.pattern, &[Named { name: "x", number: 1, ..Named::default() }])?;
        if let Some(development) = &self.development {
            development.check()?;
        }
        self.presets.iter().try_for_each(Preset::check)?;
        if !(0.0..=100.0).contains(&self.strength) {
            return Err(LabError::Size { what: "strength", value: self.strength, low: 0.0, high: 100.0 });
        }
        if let Some(crop) = &self.crop {
            stations::find(FORMAT)?.check(&Value::Choice(crop.clone()))?;
        }
        Ok(())
    }

    /// Names this order by all that its pictures depend on (BLAKE3, hexadecimal): not its own name.
    pub fn hash(&self) -> String {
        let nameless = Self { name: String::new(), ..self.clone() };
        let all = format!("{} {}", amber_core::development::ENGINE, nameless.to_json());
        blake3::hash(all.as_bytes()).to_hex().to_string()
    }

    /// The development and the stock that it gives to a picture, which has its own to begin with; `find` gives stocks
    /// that are only named.
    pub fn laid_on(
        &self,
        (own, own_stock): (&Development, Arc<Stock>),
        find: impl Fn(&StockRef) -> Result<Arc<Stock>, LabError>,
    ) -> Result<(Development, Arc<Stock>), LabError> {
        let (mut development, mut stock) = match &self.development {
            None => (own.clone(), own_stock),
            Some(ordered) => {
                let stock = match &self.stock {
                    Some(stock) => Arc::new(stock.as_ref().clone()),
                    None => find(&ordered.stock)?,
                };
                let mut development = ordered.clone();
                // accidents are the picture's own
                development.seed = own.seed;
                if development.stock.hash.is_empty() {
                    development.stock.hash = stock.content_hash();
                }
                (development, stock)
            }
        };
        for preset in &self.presets {
            let new = match (&preset.stock, &preset.stock_data) {
                (None, _) => stock.clone(),
                (_, Some(data)) => Arc::new(data.as_ref().clone()),
                (Some(named), None) => find(named)?,
            };
            development.lay(&stock, &new, preset, self.strength / 100.0)?;
            if development.stock.id == new.id {
                stock = new;
            }
        }
        if let Some(crop) = &self.crop {
            development.set(&stock, FORMAT, Value::Choice(crop.clone()))?;
            CROP.iter().try_for_each(|id| development.return_to_stock(id))?;
        }
        development.check()?;
        Ok((development, stock))
    }

    /// Names of files, without ending, in the order of the pictures: those that would be the same are numbered.
    pub fn names(&self, named: &[Named]) -> Result<Vec<String>, LabError> {
        let mut taken = std::collections::HashSet::new();
        let names = names_by(&self.pattern, named)?;
        names
            .iter()
            .map(|name| {
                let name = safe_name(name)?;
                let numbered = |n: u32| if n == 1 { name.clone() } else { format!("{name} {n}") };
                // file systems that do not tell capitals apart
                let free = (1..).map(numbered).find(|name| taken.insert(name.to_lowercase()));
                Ok(free.unwrap_or(name))
            })
            .collect()
    }
}

#[cfg(test)]
mod tests {
    use amber_core::{Catalogue, ShippedPresets};

    use super::*;

    fn named<'a>(name: &'a str, number: usize) -> Named<'a> {
        Named { name, number, roll: "Tour", stock: "Plover", taken: None }
    }

    #[test]
    fn an_order_is_read_as_it_is_written_and_named_by_what_it_does() {
        let order = LabOrder { crop: Some("4x5".into()), ..LabOrder::default() };
        let read = LabOrder::from_json(&order.to_json());
        let order = read.unwrap_or_else(|e| panic!("{e}"));
        let renamed = LabOrder { name: "For the web".into(), ..order.clone() };
        assert_eq!(renamed.hash(), order.hash());
        let other = LabOrder { crop: None, ..order.clone() };
        assert_ne!(other.hash(), order.hash());
        for wrong in [
            r#"{"version":2}"#,
            r#"{"version":1,"pattern":"{nam}"}"#,
            r#"{"version":1,"crop":"9:1"}"#,
            r#"{"version":1,"strength":101}"#,
            r#"{"version":1,"output":{"size":{"by":"long-edge","px":3}}}"#,
            r#"{"version":1,"colour":"blue"}"#,
        ] {
            assert!(LabOrder::from_json(wrong).is_err(), "{wrong}");
        }
    }

    #[test]
    fn names_never_meet() {
        let order = |pattern: &str| LabOrder { pattern: pattern.into(), ..LabOrder::default() };
        let all = [named("Quay", 1), named("quay", 2), named("Quay 2", 3), named("Hill", 4)];
        assert_eq!(order("{name}").names(&all).unwrap(), ["Quay", "quay 2", "Quay 2 2", "Hill"]);
        assert_eq!(order("{roll} {number:03}").names(&all[..2]).unwrap(), ["Tour 001", "Tour 002"]);
        assert_eq!(order("{stock} {counter}").names(&all[..2]).unwrap(), ["Plover 1", "Plover 2"]);
        assert!(order("{date}").names(&all).is_err(), "nothing is no name");
    }

    #[test]
    fn a_preset_a_development_and_a_crop_are_laid() {
        let find = |named: &StockRef| Ok(Catalogue::find(&named.id)?);
        let own_stock = Catalogue::first();
        let own = Development { seed: 77, ..Development::new(&own_stock) };
        let preset = ShippedPresets::all()[0].clone();
        let order = LabOrder { presets: vec![preset.clone()], crop: Some("1x1".into()), ..LabOrder::default() };
        let (development, stock) = order.laid_on((&own, own_stock.clone()), find).unwrap();
        assert_eq!(development.stock.id, stock.id);
        assert_eq!(development.values.get(FORMAT), Some(&Value::Choice("1x1".into())));
        let silver = Catalogue::find("juniper").unwrap();
        let ordered = LabOrder { development: Some(Development::new(&silver)), ..LabOrder::default() };
        let (development, stock) = ordered.laid_on((&own, own_stock), find).unwrap();
        assert_eq!((stock.id.as_str(), development.seed), ("juniper", 77));
    }
}
