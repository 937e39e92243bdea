//! `amber-grain presets`: those that ship, preset files, presets made of developments.

use std::path::Path;
use std::sync::Arc;

use amber_core::development::StockRef;
use amber_core::schema::preset_schema;
use amber_core::{Catalogue, Chosen, Development, Preset, PresetName, ShippedPresets, Stock};
use amber_files::write;
use amber_lab::LabOrder;
use serde_json::{Value as Json, json};

use crate::arguments::Presets;
use crate::documents;
use crate::output;
use crate::sentence;

pub fn run(command: Option<&Presets>, as_json: bool) -> Result<(), String> {
    match command {
        None => list(as_json),
        Some(Presets::Show { id }) => {
            let shipped = ShippedPresets::find(id);
            output::print(&shipped.ok_or_else(|| format!("no preset that ships is called '{id}'"))?.to_json())
        }
        Some(Presets::Check { file }) => {
            let names: Vec<String> = documents::presets(file)?.into_iter().map(|preset| preset.name).collect();
            output::print(&format!("{}: {}. It can be used.", file.display(), names.join(", ")))
        }
        Some(Presets::Schema) => output::print(&format!("{:#}", preset_schema())),
        Some(Presets::Of { development, name, group, notes, placements, without_stock, output }) => {
            let called = PresetName { name: name.clone(), group: group.clone(), notes: notes.clone() };
            let made = of(&documents::development(development)?, &called, *placements, !without_stock)?;
            write::save(output, made.to_json().as_bytes()).map_err(|e| sentence::of(&e))
        }
    }
}

fn list(as_json: bool) -> Result<(), String> {
    let all = ShippedPresets::all();
    if as_json {
        let described = |preset: &Preset| {
            json!({
                "id": preset.id, "name": preset.name, "group": preset.group, "notes": preset.notes,
                "stock": preset.stock.as_ref().map(|stock| &stock.id), "values": preset.values.len(),
            })
        };
        let list: Vec<Json> = all.iter().map(described).collect();
        return output::print(&format!("{:#}", Json::Array(list)));
    }
    let line = |preset: &Preset| format!("{:<26} {:<18} {}", preset.id, preset.group, preset.notes);
    output::print(&all.iter().map(line).collect::<Vec<_>>().join("\n"))
}

/// A preset of what belongs to the look of a development.
fn of(development: &Development, called: &PresetName, placements: bool, stock: bool) -> Result<Preset, String> {
    let made_with = Catalogue::find(&development.stock.id).map_err(|e| sentence::of(&e))?;
    let mut development = development.clone();
    development.stock.hash = made_with.content_hash();
    let chosen = Chosen { placements, stock, ..Chosen::look_of(&development) };
    Preset::of(&development, &made_with, &chosen, called).map_err(|e| sentence::of(&e))
}

/// Presets, those that ship by their ids or files by their paths, one after the other.
pub fn named_presets(named: &[String]) -> Result<Vec<Preset>, String> {
    let mut presets = Vec::new();
    for name in named {
        match ShippedPresets::find(name) {
            Some(preset) => presets.push(preset.clone()),
            None if name.ends_with(".json") => presets.extend(documents::presets(Path::new(name))?),
            None => return Err(format!("no preset that ships is called '{name}'")),
        }
    }
    Ok(presets)
}

/// Lays presets on a development.
pub fn lay(
    development: &mut Development,
    stock: Arc<Stock>,
    named: &[String],
    strength: f64,
) -> Result<Arc<Stock>, String> {
    let order = LabOrder { presets: named_presets(named)?, strength: 100.0 * strength, ..LabOrder::default() };
    let find = |named: &StockRef| Ok(Catalogue::find(&named.id)?);
    let (laid, stock) = order.laid_on((development, stock), find).map_err(|e| sentence::of(&e))?;
    *development = laid;
    Ok(stock)
}
