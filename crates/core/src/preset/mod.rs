//! Presets: a named part of a development, only the values that its maker chose.
//!
//! A preset states values by control id, whole lists (the sequence of baths, the sheets), lamps, and a stock where it
//! was made with one. [`Preset::of`] takes it from a development, [`Development::lay`] lays it on another.

mod catalogue;
mod choosing;
mod laying;

use std::collections::{BTreeMap, BTreeSet};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::controls::{self, Kind, Value};
use crate::development::{ENGINE, StockRef};
use crate::error::CoreError;
use crate::mask::{MOST_MASKS, Mask};
use crate::stations;
use crate::stock::Stock;
use crate::text::{is_plain, json_in_lines, slug};

pub use catalogue::ShippedPresets;
pub use choosing::{Chosen, is_ticked};
pub use laying::Laid;

/// Version of the document's form.
pub const VERSION: u32 = 1;
/// Most presets of a bundle.
pub const MOST_IN_BUNDLE: usize = 1000;
/// Most letters of a name, a group, the notes.
const LONGEST: [usize; 3] = [60, 40, 600];
/// Most letters of an id.
const LONGEST_ID: usize = 64;

/// A named part of a development.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Preset {
    /// Version of the document.
    pub version: u32,
    /// Version of the program that made it.
    #[serde(default)]
    pub engine: String,
    /// Small letters, digits and hyphens; made from the name where it is empty.
    #[serde(default)]
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Where it stands on the board.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub group: String,
    /// What there is to know of it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub notes: String,
    /// The stock that it loads; the frame's stays where there is none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stock: Option<StockRef>,
    /// Values by control id.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub values: BTreeMap<String, Value>,
    /// Paths of the lists that it replaces as a whole: their items stand among the values.
    #[serde(default, skip_serializing_if = "BTreeSet::is_empty")]
    pub lists: BTreeSet<String>,
    /// Lamps by id: whether each is on.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub lamps: BTreeMap<String, bool>,
    /// Masks that its values ask for.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub masks: BTreeMap<String, Mask>,
    /// The stock's data, where it is one of somebody's own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stock_data: Option<Box<Stock>>,
}

/// What a person calls a preset of theirs.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct PresetName {
    /// What people call it.
    pub name: String,
    /// Where it stands on the board.
    pub group: String,
    /// What there is to know of it.
    pub notes: String,
}

/// Several presets in one file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Bundle {
    /// Version of the document.
    pub version: u32,
    /// The presets, in order.
    pub presets: Vec<Preset>,
}

fn wrong(why: impl Into<String>) -> CoreError {
    CoreError::PresetFile { why: why.into() }
}

impl Preset {
    /// One without values.
    pub fn empty(called: &PresetName) -> Self {
        Self {
            version: VERSION,
            engine: ENGINE.into(),
            id: slug(&called.name, "preset"),
            name: called.name.trim().into(),
            group: called.group.trim().into(),
            notes: called.notes.trim().into(),
            stock: None,
            values: BTreeMap::new(),
            lists: BTreeSet::new(),
            lamps: BTreeMap::new(),
            masks: BTreeMap::new(),
            stock_data: None,
        }
    }

    /// This preset under another name; its id stays.
    pub fn renamed(&self, called: &PresetName) -> Result<Self, CoreError> {
        let Self { name, group, notes, .. } = Self::empty(called);
        let renamed = Self { name, group, notes, ..self.clone() };
        renamed.check()?;
        Ok(renamed)
    }

    /// Reads a file with one preset or a bundle of them, and checks every value. The error names the line or the field
    /// that is wrong.
    pub fn read(text: &str) -> Result<Vec<Self>, CoreError> {
        #[derive(Deserialize)]
        struct Head {
            version: u32,
            #[serde(default)]
            presets: Option<serde::de::IgnoredAny>,
        }
        let invalid = |e: serde_json::Error| wrong(e.to_string());
        let head: Head = serde_json::from_str(text).map_err(invalid)?;
        check_version(head.version)?;
        let mut presets = match head.presets {
            Some(_) => serde_json::from_str::<Bundle>(text).map_err(invalid)?.presets,
            None => vec![serde_json::from_str(text).map_err(invalid)?],
        };
        if presets.len() > MOST_IN_BUNDLE {
            return Err(wrong(format!("it has {} presets; {MOST_IN_BUNDLE} is the most", presets.len())));
        }
        for preset in &mut presets {
            preset.complete();
            preset.check()?;
        }
        Ok(presets)
    }

    /// What a file may leave out.
    fn complete(&mut self) {
        if self.id.is_empty() {
            self.id = slug(&self.name, "preset");
        }
    }

    /// Checks every field. The error names the one that is wrong.
    pub fn check(&self) -> Result<(), CoreError> {
        check_version(self.version)?;
        let words = [("name", &self.name), ("group", &self.group), ("notes", &self.notes)];
        for ((field, text), most) in words.into_iter().zip(LONGEST) {
            if text.chars().count() > most || !is_plain(&text.replace('\n', " ")) {
                return Err(wrong(format!("{field}: at most {most} letters, and no control characters")));
            }
        }
        if self.name.trim().is_empty() {
            return Err(wrong("name: a preset needs one"));
        }
        let is_id = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
        if self.id.is_empty() || self.id.len() > LONGEST_ID || !self.id.chars().all(is_id) {
            return Err(wrong(format!("id: small letters, digits and hyphens, at most {LONGEST_ID}")));
        }
        self.check_values().map_err(|why| wrong(format!("{}: {why}", self.name)))?;
        match (&self.stock, &self.stock_data) {
            (Some(named), Some(data)) if named.id != data.id || named.hash != data.content_hash() => {
                Err(wrong("stock_data: it is not the stock that is named"))
            }
            (None, Some(_)) => Err(wrong("stock_data: there is no stock for it")),
            (_, Some(data)) => Stock::from_json(&data.to_json()).map(drop).map_err(|e| wrong(e.to_string())),
            _ => Ok(()),
        }
    }

    fn check_values(&self) -> Result<(), String> {
        let said = |field: &str, e: CoreError| format!("{field}: {e}");
        if self.masks.len() > MOST_MASKS {
            return Err(format!("masks: {MOST_MASKS} is the most"));
        }
        for (id, mask) in &self.masks {
            if !controls::is_mask_id(id) {
                return Err(format!("masks: '{}' cannot name a mask", crate::text::shortened(id)));
            }
            mask.check().map_err(|e| said("masks", e))?;
        }
        if let Some(path) = self.lists.iter().find(|path| stations::list(path).is_none()) {
            return Err(format!("lists: there is no list called '{}'", crate::text::shortened(path)));
        }
        if let Some(id) = self.lamps.keys().find(|id| !stations::is_lamp(id)) {
            return Err(said("lamps", CoreError::UnknownLamp { id: id.clone() }));
        }
        for (id, value) in &self.values {
            let control = stations::find(id).map_err(|e| said("values", e))?;
            control.check(value).map_err(|e| said(id, e))?;
            let list = stations::list_of(id).filter(|list| !self.lists.contains(list.path));
            if let Some(list) = list {
                return Err(format!("{id}: an item needs its list, '{}', among the lists", list.path));
            }
            let asked = value.choice().filter(|_| control.kind == Kind::Mask).and_then(controls::mask_asked);
            if let Some((mask, _)) = asked.filter(|(mask, _)| !self.masks.contains_key(*mask)) {
                return Err(said(id, CoreError::UnknownMask { label: control.full_label(), id: mask.into() }));
            }
        }
        Ok(())
    }

    /// The document, in lines.
    pub fn to_json(&self) -> String {
        json_in_lines(self)
    }

    /// Whether it does nothing at all.
    pub fn is_empty(&self) -> bool {
        self.stock.is_none() && self.values.is_empty() && self.lists.is_empty() && self.lamps.is_empty()
    }
}

impl Bundle {
    /// Some presets as one document.
    pub fn of(presets: Vec<Preset>) -> Self {
        Self { version: VERSION, presets }
    }

    /// The document, in lines.
    pub fn to_json(&self) -> String {
        json_in_lines(self)
    }
}

fn check_version(found: u32) -> Result<(), CoreError> {
    match found {
        1..=VERSION => Ok(()),
        _ => Err(wrong(format!(
            "it has version {found}; this Amber Grain reads up to version {VERSION}. Use a newer Amber Grain"
        ))),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn wrong_files_are_refused_with_the_field() {
        for (text, part) in [
            ("{", "line 1"),
            (r#"{"version":9,"name":"A"}"#, "version 9"),
            (r#"{"version":0,"name":"A"}"#, "version 0"),
            (r#"{"version":1,"name":" "}"#, "name: a preset needs one"),
            (r#"{"version":1,"name":"a\u0007b"}"#, "name:"),
            (r#"{"version":1,"name":"A","id":"../x"}"#, "id:"),
            (r#"{"version":1,"name":"A","values":{"film.pusch":1}}"#, "film.pusch"),
            (r#"{"version":1,"name":"A","values":{"film.push":7}}"#, "film.push: Push, pull goes from -2 to 2"),
            (r#"{"version":1,"name":"A","values":{"tone.bath.1.time":7}}"#, "needs its list, 'tone.bath'"),
            (r#"{"version":1,"name":"A","lists":["tone.tub"]}"#, "tone.tub"),
            (r#"{"version":1,"name":"A","lamps":{"nothing":true}}"#, "nothing"),
            (r#"{"version":1,"name":"A","values":{"years.mask":"4"}}"#, "years.mask"),
            (r#"{"version":1,"name":"A","shell":"rm"}"#, "shell"),
            (r#"{"version":1,"presets":[{"version":1,"name":"A"},{"version":1,"nome":"B"}]}"#, "nome"),
        ] {
            let error = Preset::read(text).unwrap_err().to_string();
            assert!(error.contains(part), "{text}: {error}");
        }
        let deep = "[".repeat(100_000);
        assert!(Preset::read(&deep).is_err());
    }

    #[test]
    fn one_or_several_are_read_as_they_were_written() {
        let called = |name: &str| PresetName { name: name.into(), ..PresetName::default() };
        let mut one = Preset::empty(&called("Evening walk"));
        one.values.insert("film.push".into(), Value::Number(0.1 + 0.2));
        assert_eq!(one.id, "evening-walk");
        assert_eq!(Preset::read(&one.to_json()).unwrap(), std::slice::from_ref(&one));
        let two = vec![one.clone(), Preset::empty(&called("Another"))];
        assert_eq!(Preset::read(&Bundle::of(two.clone()).to_json()).unwrap(), two);
    }
}
