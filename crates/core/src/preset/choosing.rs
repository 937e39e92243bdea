//! What a preset takes from a development.

use std::collections::BTreeSet;

use super::{Preset, PresetName};
use crate::controls::{Control, Kind, mask_asked};
use crate::development::Development;
use crate::error::CoreError;
use crate::stations;
use crate::stock::{Catalogue, Stock};

/// The parts of a development that were chosen.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Chosen {
    /// Controls by id, those of list items included only with their list.
    pub controls: BTreeSet<String>,
    /// Lists by path.
    pub lists: BTreeSet<String>,
    /// Lamps by id.
    pub lamps: BTreeSet<String>,
    /// The stock too.
    pub stock: bool,
    /// Of items, what belongs to the one picture too: placements, seeds, masks.
    pub placements: bool,
}

/// Whether a tuned control belongs to the look unless somebody says otherwise: it is not the one picture's.
pub fn is_ticked(control: &Control) -> bool {
    !control.picture_specific && stations::list_of(control.id).is_none_or(|list| !list.is_the_pictures())
}

impl Chosen {
    /// What belongs to the look of a development and not to its picture: what was tuned, lists, lamps, the stock.
    pub fn look_of(development: &Development) -> Self {
        let mut chosen = Self { stock: true, ..Self::default() };
        for id in development.values.keys() {
            match (stations::list_of(id), stations::find(id)) {
                (Some(list), _) if !list.is_the_pictures() => drop(chosen.lists.insert(list.path.into())),
                (None, Ok(control)) if is_ticked(control) => drop(chosen.controls.insert(id.clone())),
                _ => {}
            }
        }
        chosen.lamps = development.off.iter().filter(|lamp| stations::switching::is_of_all(lamp)).cloned().collect();
        chosen
    }

    /// All of a development, what belongs to the picture included.
    pub fn all_of(development: &Development) -> Self {
        let mut chosen = Self { placements: true, ..Self::look_of(development) };
        for id in development.values.keys() {
            match stations::list_of(id) {
                Some(list) => drop(chosen.lists.insert(list.path.into())),
                None => drop(chosen.controls.insert(id.clone())),
            }
        }
        chosen
    }

    /// What an earlier preset states: to take the same things again.
    pub fn like(preset: &Preset) -> Self {
        let stands_alone = |id: &&String| stations::list_of(id).is_none();
        let of_items = |id: &String| stations::list_of(id).is_some();
        let specific = |id: &String| stations::find(id).is_ok_and(|c| c.picture_specific);
        Self {
            controls: preset.values.keys().filter(stands_alone).cloned().collect(),
            lists: preset.lists.clone(),
            lamps: preset.lamps.keys().cloned().collect(),
            stock: preset.stock.is_some(),
            placements: preset.values.keys().any(|id| of_items(id) && specific(id)),
        }
    }
}

impl Preset {
    /// What was chosen of a development, under a name. A chosen value that is the stock's own is stated too.
    pub fn of(
        development: &Development,
        stock: &Stock,
        chosen: &Chosen,
        called: &PresetName,
    ) -> Result<Self, CoreError> {
        let mut preset = Self::empty(called);
        let values = development.written(stock);
        for id in &chosen.controls {
            let control = stations::find(id)?;
            if stations::list_of(id).is_none() {
                preset.values.insert(id.clone(), values.value(control));
            }
        }
        for path in &chosen.lists {
            let list = stations::list(path).ok_or_else(|| CoreError::UnknownControl { id: path.clone() })?;
            preset.lists.insert(path.clone());
            for (id, value) in stock.own.iter().chain(&development.values) {
                let member = stations::find(id).ok().filter(|_| list.key_of(id).is_some());
                if member.is_some_and(|control| chosen.placements || !control.picture_specific) {
                    preset.values.insert(id.clone(), value.clone());
                }
            }
        }
        let of_lists = |lamp: &&String| stations::list_of(lamp).is_some_and(|list| chosen.lists.contains(list.path));
        let lamps = chosen.lamps.iter().chain(development.off.iter().filter(of_lists));
        preset.lamps = lamps.map(|lamp| (lamp.clone(), !development.off.contains(lamp))).collect();
        for (id, value) in &preset.values {
            let is_mask = stations::find(id).is_ok_and(|control| control.kind == Kind::Mask);
            let asked = value.choice().filter(|_| is_mask).and_then(mask_asked);
            if let Some((mask, kept)) = asked.and_then(|(id, _)| Some((id, development.masks.get(id)?))) {
                preset.masks.insert(mask.into(), kept.clone());
            }
        }
        if chosen.stock {
            preset.stock = Some(development.stock.clone());
            let is_built_in = Catalogue::find(&stock.id).is_ok_and(|built_in| *built_in == *stock);
            preset.stock_data = (!is_built_in).then(|| Box::new(stock.clone()));
        }
        preset.check()?;
        Ok(preset)
    }
}
