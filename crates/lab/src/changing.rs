//! Changing a frame's development: the rules of a step, and its words for the history.

use std::collections::{BTreeMap, BTreeSet};

use amber_core::controls::Value;
use amber_core::mask::Mask;
use amber_core::{Development, Stock, stations};
use amber_library::{Change, Frame, Step};

use crate::Lab;
use crate::error::LabError;

/// What a person changed of a frame since a revision.
#[derive(Debug, Clone)]
pub struct Tuned {
    pub revision: i64,
    /// All tuned values.
    pub values: BTreeMap<String, Value>,
    /// The masks that were changed, by id; none for those that were deleted.
    pub masks: BTreeMap<String, Option<Mask>>,
    /// The lamps that are off; as they were where there is none.
    pub off: Option<BTreeSet<String>>,
}

impl Tuned {
    /// The development of a frame after it.
    pub(crate) fn on(self, frame: &Frame) -> Result<Development, LabError> {
        let before = &frame.summary.development;
        let mut masks = before.masks.clone();
        for (id, mask) in self.masks {
            match mask {
                Some(mask) => drop(masks.insert(id, mask)),
                None => drop(masks.remove(&id)),
            }
        }
        let mut development = before.clone().with(self.values, Some(masks), self.off)?;
        development.keep_sparse(&frame.stock);
        Ok(development)
    }
}

/// A frame after a step, and what there is to say of it.
#[derive(Debug, Clone)]
pub struct Stepped {
    pub frame: Frame,
    pub message: String,
}

impl Lab {
    /// Keeps what was tuned as one step; without a step where nothing is different.
    pub fn tune(&self, id: i64, tuned: Tuned) -> Result<Frame, LabError> {
        let before = self.library.frame(id)?;
        let stock = before.stock.clone();
        let revision = tuned.revision;
        let development = tuned.on(&before)?;
        if development == before.summary.development && revision == before.summary.revision {
            // nothing to keep: no step, and what could be done again stays
            return Ok(before);
        }
        let label = what_changed(&before.summary.development, &development, &stock);
        Ok(self.library.commit(id, Change { revision, label, development }, &stock)?)
    }

    /// Goes back or forth in the history.
    pub fn step(&self, id: i64, revision: i64, step: Step) -> Result<Stepped, LabError> {
        let before = self.library.frame(id)?;
        let frame = self.library.step(id, revision, step)?;
        let message = match step {
            Step::Undo => before.undo.map(|label| format!("Undone: {label}")),
            Step::Redo => before.redo.map(|label| format!("Done again: {label}")),
            Step::To(_) => frame.undo.as_ref().map(|label| format!("Back at: {label}")),
        };
        Ok(Stepped { frame, message: message.unwrap_or_default() })
    }

    /// Takes a proof's values, stock and lamps back, as one step.
    pub fn take_proof(&self, id: i64, revision: i64, proof: i64) -> Result<Stepped, LabError> {
        let proof = self.library.proof(id, proof)?;
        let stock = self.library.stock_of(&proof.development)?;
        let label = format!("{} taken back", proof.name);
        let change = Change { revision, label: label.clone(), development: proof.development };
        Ok(Stepped { frame: self.library.commit(id, change, &stock)?, message: format!("{label}.") })
    }

    /// Loads another stock, with the tuning carried over as distances where that is asked for.
    pub fn load_stock(&self, id: i64, revision: i64, stock: &str, keep_tuning: bool) -> Result<Stepped, LabError> {
        let stock = self.library.find_stock(stock)?;
        let before = self.library.frame(id)?;
        let mut development = before.summary.development;
        let message = if keep_tuning {
            let clipped = development.carry_to_stock(&before.stock, &stock);
            carried(&stock, &development, &clipped)
        } else {
            let replaced = development.change_stock(&stock);
            loaded(&stock, &development, &replaced)
        };
        let change = Change { revision, label: format!("Stock {}", stock.name()), development };
        Ok(Stepped { frame: self.library.commit(id, change, &stock)?, message })
    }
}

/// A step of the history in words: "Push, pull +1.00 EV".
pub(crate) fn what_changed(before: &Development, after: &Development, stock: &Stock) -> String {
    let (old, new) = (before.written(stock), after.written(stock));
    let ids: BTreeSet<&str> = before.values.keys().chain(after.values.keys()).map(String::as_str).collect();
    let changed: Vec<_> = stations::in_order(&ids).filter(|c| old.value(c) != new.value(c)).collect();
    let masks: Vec<_> = after.masks.iter().filter(|(id, mask)| before.masks.get(*id) != Some(mask)).collect();
    let gone = before.masks.iter().find(|(id, _)| !after.masks.contains_key(*id));
    match changed.as_slice() {
        _ if gone.is_some() => format!("Mask {} deleted", gone.map_or("", |(_, mask)| &mask.name)),
        [] if before.off != after.off => switched(before, after),
        [] if masks.len() == 1 => format!("Mask {}", masks[0].1.name),
        [] if !masks.is_empty() => "Masks".into(),
        [] => "No change".into(),
        [one] => format!("{} {}", one.full_label(), one.written(&new.value(one))),
        several => several.iter().map(|c| c.full_label()).collect::<Vec<_>>().join(", "),
    }
}

/// What was switched: "Film off", "Grain on, Halation on".
fn switched(before: &Development, after: &Development) -> String {
    let words =
        |id: &String| format!("{} {}", stations::lamp_label(id), if after.off.contains(id) { "off" } else { "on" });
    before.off.symmetric_difference(&after.off).map(words).collect::<Vec<_>>().join(", ")
}

/// What a new stock kept and what it replaced.
fn loaded(stock: &Stock, development: &Development, replaced: &[String]) -> String {
    let kept = labels(development.values.keys());
    let gone = labels(replaced.iter());
    let mut message = format!("{} loaded.", stock.name());
    if !kept.is_empty() {
        message += &format!(" Kept: {kept}.");
    }
    if !gone.is_empty() {
        message += &format!(" Back to the stock's own: {gone}.");
    }
    message
}

/// What of the tuning came along.
fn carried(stock: &Stock, development: &Development, clipped: &[String]) -> String {
    let mut message = format!("{} loaded with your tuning, {} values.", stock.name(), development.values.len());
    if !clipped.is_empty() {
        message += &format!(" At a limit or not on this stock: {}.", labels(clipped.iter()));
    }
    message
}

/// The labels of controls by id, in running text.
pub(crate) fn labels<'a>(ids: impl Iterator<Item = &'a String>) -> String {
    ids.filter_map(|id| stations::find(id).ok()).map(|c| c.full_label().to_lowercase()).collect::<Vec<_>>().join(", ")
}
