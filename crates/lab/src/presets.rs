//! Presets at work: made of a frame, shown on a frame, laid on frames.

use std::sync::Arc;

use amber_core::preset::Laid;
use amber_core::{Chosen, Development, Preset, PresetName, Stock, stations};
use amber_library::{Frame, FrameSummary};

use crate::Lab;
use crate::changing::labels;
use crate::error::LabError;
use crate::together::Applied;

/// A preset on a frame, before it is kept.
#[derive(Debug, Clone)]
pub struct Laying {
    pub development: Development,
    pub stock: Arc<Stock>,
    pub laid: Laid,
}

/// One value of a preset before and after an update, in words; none where it is not stated.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PresetChange {
    pub label: String,
    pub before: Option<String>,
    pub after: Option<String>,
}

impl Lab {
    /// Keeps what was chosen of a frame as a preset of the user's own.
    pub fn keep_preset(&self, frame: i64, chosen: &Chosen, called: &PresetName) -> Result<Preset, LabError> {
        let preset = self.preset_of(&self.library.frame(frame)?, chosen, called)?;
        let ids = self.library.add_presets(vec![preset])?;
        Ok(self.library.preset(ids.first().map_or("", String::as_str))?.0)
    }

    fn preset_of(&self, frame: &Frame, chosen: &Chosen, called: &PresetName) -> Result<Preset, LabError> {
        let preset = Preset::of(&frame.summary.development, &frame.stock, chosen, called)?;
        if preset.is_empty() { Err(LabError::EmptyPreset) } else { Ok(preset) }
    }

    /// What a preset would be with its values taken from a frame anew: the same things, as they are there.
    pub fn updated_preset(&self, id: &str, frame: i64) -> Result<(Preset, Vec<PresetChange>), LabError> {
        let (before, _) = self.library.preset(id)?;
        let called = PresetName { name: before.name.clone(), group: before.group.clone(), notes: before.notes.clone() };
        let frame = self.library.frame(frame)?;
        let after = Preset { id: before.id.clone(), ..self.preset_of(&frame, &Chosen::like(&before), &called)? };
        let changes = changes(&before, &after);
        Ok((after, changes))
    }

    /// Takes a preset's values from a frame anew.
    pub fn update_preset(&self, id: &str, frame: i64) -> Result<Preset, LabError> {
        let (after, _) = self.updated_preset(id, frame)?;
        self.library.replace_preset(&after)?;
        Ok(after)
    }

    /// Reads presets from a file, one or a bundle, and keeps all of them or none. Gives their ids.
    pub fn import_presets(&self, bytes: &[u8]) -> Result<Vec<String>, LabError> {
        let text = std::str::from_utf8(bytes).map_err(|_| LabError::NotText)?;
        Ok(self.library.add_presets(Preset::read(text)?)?)
    }

    /// The stock that a preset loads, if it loads one.
    fn stock_of_preset(&self, preset: &Preset) -> Result<Option<Arc<Stock>>, LabError> {
        Ok(match (&preset.stock, &preset.stock_data) {
            (None, _) => None,
            (_, Some(data)) => Some(Arc::new(Stock::clone(data))),
            (Some(named), None) => {
                let named = Development { stock: named.clone(), ..Development::new(&amber_core::Catalogue::first()) };
                Some(self.library.stock_of(&named)?)
            }
        })
    }

    /// A preset laid on a frame, so far of the way; nothing is kept.
    pub fn with_preset(
        &self,
        frame: &FrameSummary,
        old: &Arc<Stock>,
        preset: &Preset,
        strength: f64,
    ) -> Result<Laying, LabError> {
        let new = self.stock_of_preset(preset)?.unwrap_or_else(|| old.clone());
        let mut development = frame.development.clone();
        let laid = development.lay(old, &new, preset, strength)?;
        let stock = if development.stock == frame.development.stock { old.clone() } else { new };
        Ok(Laying { development, stock, laid })
    }

    /// Lays a preset on frames, so far of the way: one step of each, all of them or none.
    pub fn lay_preset(&self, id: &str, frames: &[i64], strength: f64) -> Result<Applied, LabError> {
        let (preset, _) = self.library.preset(id)?;
        let percent = (100.0 * strength).round();
        let partly = if percent < 100.0 { format!(" at {percent} %") } else { String::new() };
        self.lay_on(&preset, frames, strength, &format!("Preset {}{partly}", preset.name), Some(id))
    }

    /// Copies what was chosen of a frame's development to others.
    pub fn copy_development(&self, from: i64, chosen: &Chosen, to: &[i64]) -> Result<Applied, LabError> {
        let frame = self.library.frame(from)?;
        let name = format!("Copied from {}", frame.summary.name);
        let called = PresetName { name: "Copied".into(), ..PresetName::default() };
        let copied = self.preset_of(&frame, chosen, &called)?;
        let others: Vec<i64> = to.iter().copied().filter(|id| *id != from).collect();
        self.lay_on(&copied, &others, 1.0, &name, None)
    }

    pub(crate) fn lay_on(
        &self,
        preset: &Preset,
        frames: &[i64],
        strength: f64,
        label: &str,
        id: Option<&str>,
    ) -> Result<Applied, LabError> {
        let mut laid = Laid::default();
        let applied = self.together(
            frames,
            label,
            |frame, stock| {
                let laying = self.with_preset(frame, stock, preset, strength)?;
                for (all, one) in [
                    (&mut laid.replaced, &laying.laid.replaced),
                    (&mut laid.gone, &laying.laid.gone),
                    (&mut laid.idle, &laying.laid.idle),
                ] {
                    all.extend(one.iter().filter(|id| !all.contains(id)).cloned().collect::<Vec<_>>());
                }
                // nothing of the way is no step
                Ok((strength > 0.0).then_some((laying.development, laying.stock)))
            },
            id,
        )?;
        Ok(Applied { message: format!("{}{}", applied.message, said(&laid)), ..applied })
    }
}

/// What laying a preset did, in words.
fn said(laid: &Laid) -> String {
    let lists = |id: &String| stations::list(id).map(|list| format!("{}s", list.label.to_lowercase()));
    let words = |ids: &[String]| {
        let names: Vec<String> = ids.iter().filter_map(lists).collect();
        let controls = labels(ids.iter());
        [names.join(", "), controls].into_iter().filter(|text| !text.is_empty()).collect::<Vec<_>>().join(", ")
    };
    let mut message = String::new();
    for (ids, what) in
        [(&laid.replaced, "Replaced"), (&laid.gone, "Back to the stock's own"), (&laid.idle, "Not on this stock")]
    {
        if !ids.is_empty() {
            message += &format!(" {what}: {}.", words(ids));
        }
    }
    message
}

/// What is different between two states of a preset.
fn changes(before: &Preset, after: &Preset) -> Vec<PresetChange> {
    let written = |preset: &Preset, id: &str| {
        let control = stations::find(id).ok()?;
        preset.values.get(id).map(|value| control.written(value))
    };
    let ids: std::collections::BTreeSet<&str> =
        before.values.keys().chain(after.values.keys()).map(String::as_str).collect();
    let stock = |preset: &Preset| preset.stock.as_ref().map(|stock| stock.id.clone());
    let of_stock = PresetChange { label: "Stock".into(), before: stock(before), after: stock(after) };
    let values = stations::in_order(&ids).map(|control| PresetChange {
        label: control.full_label(),
        before: written(before, control.id),
        after: written(after, control.id),
    });
    let lamp = |preset: &Preset, id: &String| preset.lamps.get(id).map(|on| if *on { "on" } else { "off" }.to_owned());
    let lamps = before.lamps.keys().map(|id| PresetChange {
        label: stations::lamp_label(id),
        before: lamp(before, id),
        after: lamp(after, id),
    });
    std::iter::once(of_stock).chain(values).chain(lamps).filter(|change| change.before != change.after).collect()
}

/// What a frame's picture under a preset depends on, for its address.
pub fn preset_version(frame: &FrameSummary, preset: &Preset, strength: f64) -> String {
    let all = format!("{} {} {strength}", frame.version(), preset.to_json());
    blake3::hash(all.as_bytes()).to_hex()[..16].to_owned()
}
