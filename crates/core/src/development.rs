//! The development: all settings of a frame, as a sparse, versioned document.
//!
//! Only values that differ from their own are kept, by control id. The document remembers the stock it was made with
//! by its content hash, and the engine that wrote it.

use crate::stations;
use crate::text::json;
use std::collections::{BTreeMap, BTreeSet};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::controls::lamp::{Off, is_at};
use crate::controls::{self, Control, Kind, Value, Values};
use crate::error::CoreError;
use crate::mask::{MOST_MASKS, Mask};
use crate::stations::Station;
use crate::stock::Stock;

/// Version of the document's form.
pub const VERSION: u32 = 1;
/// The engine that computes it.
pub const ENGINE: &str = env!("CARGO_PKG_VERSION");

/// The stock a development was made with.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct StockRef {
    /// The stock's id.
    pub id: String,
    /// Content hash of the stock's data; empty in documents written by hand.
    #[serde(default)]
    pub hash: String,
}

/// All settings of one frame.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Development {
    /// Version of the document.
    pub version: u32,
    /// Version of the program that made it.
    #[serde(default)]
    pub engine: String,
    /// The stock that it was made with.
    pub stock: StockRef,
    /// Seed of everything random on this frame.
    #[serde(default = "first_seed")]
    pub seed: u32,
    /// Tuned values by control id.
    #[serde(default)]
    pub values: BTreeMap<String, Value>,
    /// What is switched off, by the ids of its lamps: stations, groups, items of lists. Their values stay.
    #[serde(default, skip_serializing_if = "BTreeSet::is_empty")]
    pub off: BTreeSet<String>,
    /// The frame's masks by id.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub masks: BTreeMap<String, Mask>,
}

fn first_seed() -> u32 {
    1
}

impl Development {
    /// The stock as it is.
    pub fn new(stock: &Stock) -> Self {
        Self {
            version: VERSION,
            engine: ENGINE.into(),
            stock: StockRef { id: stock.id.clone(), hash: stock.content_hash() },
            seed: first_seed(),
            values: BTreeMap::new(),
            off: BTreeSet::new(),
            masks: BTreeMap::new(),
        }
    }

    /// Reads a document of any version up to ours and checks every value.
    pub fn from_json(text: &str) -> Result<Self, CoreError> {
        Self::from_json_with(text, BTreeMap::new())
    }

    /// [`Development::from_json`] with masks that are kept apart from the document.
    pub fn from_json_with(text: &str, masks: BTreeMap<String, Mask>) -> Result<Self, CoreError> {
        #[derive(Deserialize)]
        struct Head {
            version: u32,
        }
        let invalid = |e: serde_json::Error| CoreError::Development { why: e.to_string() };
        let head: Head = serde_json::from_str(text).map_err(invalid)?;
        if head.version > VERSION {
            return Err(CoreError::TooNew { found: head.version, known: VERSION });
        }
        let mut development: Development = serde_json::from_str(text).map_err(invalid)?;
        development.masks.extend(masks);
        development.check()?;
        Ok(development)
    }

    /// Checks every value and every mask, and that the masks asked for are there.
    pub fn check(&self) -> Result<(), CoreError> {
        if self.masks.len() > MOST_MASKS {
            let why = format!("it has {} masks; {MOST_MASKS} is the most", self.masks.len());
            return Err(CoreError::Development { why });
        }
        for (id, mask) in &self.masks {
            if !controls::is_mask_id(id) {
                let why = format!("'{id}' cannot name a mask; use small letters, digits and hyphens");
                return Err(CoreError::Development { why });
            }
            mask.check()?;
        }
        if let Some(id) = self.off.iter().find(|id| !stations::is_lamp(id)) {
            return Err(CoreError::UnknownLamp { id: id.clone() });
        }
        for (id, value) in &self.values {
            let control = stations::find(id)?;
            control.check(value)?;
            let asked = value.choice().filter(|_| control.kind == Kind::Mask).and_then(controls::mask_asked);
            if let Some((mask, _)) = asked.filter(|(mask, _)| !self.masks.contains_key(*mask)) {
                return Err(CoreError::UnknownMask { label: control.full_label(), id: mask.into() });
            }
        }
        Ok(())
    }

    /// The same with other values, and other masks and lamps that are off where there are some; each checked.
    pub fn with(
        mut self,
        values: BTreeMap<String, Value>,
        masks: Option<BTreeMap<String, Mask>>,
        off: Option<BTreeSet<String>>,
    ) -> Result<Self, CoreError> {
        self.values = values;
        if let Some(off) = off {
            self.off = off;
        }
        if let Some(masks) = masks {
            self.masks = masks;
        }
        self.check()?;
        Ok(self)
    }

    /// Drops values that equal the stock's own, and lamps of items that are gone.
    pub fn keep_sparse(&mut self, stock: &Stock) {
        self.values.retain(|id, v| stations::find(id).is_ok_and(|c| c.own_value(stock) != *v));
        let (values, stated) = (&self.values, &stock.own);
        let is_there = |item: &str| values.keys().chain(stated.keys()).any(|id| is_at(item, id));
        self.off.retain(|id| stations::switching::is_of_all(id) || is_there(id));
    }

    /// Adds a mask under the first free number; returns its id.
    pub fn add_mask(&mut self, mask: Mask) -> String {
        let id = (1u32..).map(|n| n.to_string()).find(|id| !self.masks.contains_key(id)).unwrap_or_default();
        self.masks.insert(id.clone(), mask);
        id
    }

    /// The document.
    pub fn to_json(&self) -> String {
        String::from_utf8_lossy(&json(self)).into_owned()
    }

    /// The values in force: what is off is at rest.
    pub fn values<'a>(&'a self, stock: &'a Stock) -> Values<'a> {
        self.written(stock).without(Off::new(&self.off, stations::lamp))
    }

    /// The values as they are written, whatever is off.
    pub fn written<'a>(&'a self, stock: &'a Stock) -> Values<'a> {
        Values::new(stock, &self.values, &self.masks)
    }

    /// Switches a lamp on or off.
    pub fn switch(&mut self, lamp: &str, on: bool) -> Result<(), CoreError> {
        match on {
            true => drop(self.off.remove(lamp)),
            false => drop(self.off.insert(lamp.into())),
        }
        self.check()
    }

    /// Sets a checked value; a value that equals the stock's own is not kept.
    pub fn set(&mut self, stock: &Stock, id: &str, value: Value) -> Result<(), CoreError> {
        let control = stations::find(id)?;
        control.check(&value)?;
        if value == control.own_value(stock) {
            self.values.remove(id);
        } else {
            self.values.insert(id.into(), value);
        }
        Ok(())
    }

    /// Returns a control to its own value.
    pub fn return_to_stock(&mut self, id: &str) -> Result<(), CoreError> {
        self.values.remove(stations::find(id)?.id);
        Ok(())
    }

    /// Another stock: what belongs to the picture and its light stays, what was tuned against the old stock goes.
    ///
    /// Returns the ids that were replaced.
    pub fn change_stock(&mut self, stock: &Stock) -> Vec<String> {
        let stays = |id: &str| stations::find(id).is_ok_and(Control::stays_with_the_picture);
        let replaced = self.values.keys().filter(|id| !stays(id)).cloned().collect();
        self.values.retain(|id, _| stays(id));
        self.off.retain(|lamp| stations::lamp_stays_with_the_picture(lamp));
        self.keep_sparse(stock);
        self.stock = StockRef { id: stock.id.clone(), hash: stock.content_hash() };
        self.engine = ENGINE.into();
        replaced
    }

    /// Another stock with the tuning kept as distances from the new stock's own values: differences, or ratios where
    /// the control says so. Returns the ids of values that met a limit and of those that do not act on the new stock.
    pub fn carry_to_stock(&mut self, old: &Stock, stock: &Stock) -> Vec<String> {
        let tuned = self.values.clone();
        let off = self.off.clone();
        let mut clipped = Vec::new();
        for id in self.change_stock(stock) {
            let (Ok(control), Some(value)) = (stations::find(&id), tuned.get(&id)) else { continue };
            if !(control.applies)(stock) {
                clipped.push(id);
                continue;
            }
            let own = |s: &Stock| control.own_value(s).as_number();
            let carried = match (control.kind, value.as_number(), own(old), own(stock)) {
                (Kind::Scalar { low, high, step, .. }, Some(v), Some(from), Some(to)) => {
                    let wanted = if control.ratio && from != 0.0 { to * v / from } else { to + v - from };
                    let steps = ((wanted / step).round() * step * 1e6).round() / 1e6;
                    if !(low..=high).contains(&steps) {
                        clipped.push(id.clone());
                    }
                    Value::Number(steps.clamp(low, high))
                }
                _ => value.clone(),
            };
            if carried != control.own_value(stock) {
                self.values.insert(id, carried);
            }
        }
        self.off = off;
        clipped
    }

    /// Number of values tuned at a station.
    pub fn tuned_at(&self, station: Station) -> usize {
        self.values.keys().filter(|id| stations::find(id).is_ok_and(|c| c.station == station)).count()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::Catalogue;

    #[test]
    fn sparse_and_back() {
        let stock = Catalogue::first();
        let mut development = Development::new(&stock);
        development.set(&stock, "scene.exposure", Value::Number(0.5)).unwrap();
        development.set(&stock, "film.push", Value::Number(0.0)).unwrap();
        assert_eq!(development.values.len(), 1);
        assert_eq!(development.tuned_at(Station::Scene), 1);
        assert_eq!(Development::from_json(&development.to_json()).unwrap(), development);
    }

    /// A frozen document of version 1: old work must always be readable.
    #[test]
    fn version_1_is_readable() {
        let text = include_str!("../tests/data/development-1.json");
        let development = Development::from_json(text).unwrap();
        assert_eq!(development.values["film.push"], Value::Number(1.0));
        assert_eq!(development.stock.id, "juniper");
    }

    #[test]
    fn wrong_documents_are_refused_with_a_sentence() {
        for (text, part) in [
            (r#"{"version":99,"stock":{"id":"plover"}}"#, "version 99"),
            (r#"{"version":1,"stock":{"id":"plover"},"values":{"film.pusch":1}}"#, "film.pusch"),
            (r#"{"version":1,"stock":{"id":"plover"},"values":{"film.push":7}}"#, "from -2 to 2"),
            ("{", "line 1"),
        ] {
            let error = Development::from_json(text).unwrap_err().to_string();
            assert!(error.contains(part), "{error}");
        }
    }

    #[test]
    fn tuning_is_carried_as_distance() {
        let (plover, juniper) = (Catalogue::first(), Catalogue::find("juniper").unwrap());
        let mut development = Development::new(&plover);
        let own = |stock: &Stock, id: &str| stations::find(id).unwrap().own_value(stock).as_number().unwrap();
        let twice = 2.0 * own(&plover, "film.grain.granularity");
        for (id, v) in [("film.grain.granularity", twice), ("film.push", 1.0), ("print.filter.cyan", 20.0)] {
            development.set(&plover, id, Value::Number(v)).unwrap();
        }
        let lost = development.carry_to_stock(&plover, &juniper);
        assert_eq!(lost, vec!["print.filter.cyan".to_string()], "there is no filtration in black and white");
        let kept = development.values["film.grain.granularity"].as_number().unwrap();
        assert!((kept - 2.0 * own(&juniper, "film.grain.granularity")).abs() < 0.5, "{kept}");
        assert_eq!(development.values["film.push"], Value::Number(1.0));
    }

    #[test]
    fn another_stock_keeps_what_is_the_pictures() {
        let (plover, juniper) = (Catalogue::first(), Catalogue::find("juniper").unwrap());
        let mut development = Development::new(&plover);
        development.set(&plover, "scene.exposure", Value::Number(-1.0)).unwrap();
        development.set(&plover, "scene.saturation", Value::Number(20.0)).unwrap();
        development.set(&plover, "scene.rendering", Value::Number(1.0)).unwrap();
        development.set(&plover, "film.grain.size", Value::Number(9.0)).unwrap();
        assert_eq!(development.change_stock(&juniper), ["film.grain.size", "scene.rendering"]);
        assert_eq!(development.values.len(), 2, "the light before the film is the picture's");
        assert_eq!(development.stock.hash, juniper.content_hash());
    }
}
