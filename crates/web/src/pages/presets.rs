//! The board of presets: every one of them laid on this very picture.

use std::collections::BTreeSet;
use std::sync::Arc;

use actix_web::{HttpResponse, route, web};
use amber_core::{Preset, ShippedPresets, stations};
use amber_lab::{Lab, preset_version};
use amber_library::{Frame, FrameSummary};
use askama::Template;
use serde::Deserialize;

use super::board::{ShelfView, TileView, put};
use super::html;
use crate::error::WebError;
use crate::fragments::bar::PlateView;
use crate::fragments::presets::own_groups;
use crate::fragments::selection::{share, whole};
use crate::{Shared, blocking};

const PINNED: &str = "Pinned";
const MINE: &str = "Mine";

#[derive(Template)]
#[template(path = "pages/presets.html")]
struct PresetBoard {
    version: &'static str,
    frame: i64,
    frame_name: String,
    roll: i64,
    roll_name: String,
    upright: bool,
    content: String,
    plate: String,
    shelves: Vec<ShelfView>,
    total: usize,
    own: usize,
    /// The one that was laid last.
    chosen: String,
    /// Groups of one's own, for the form in which one is named.
    groups: BTreeSet<String>,
}

impl PresetBoard {
    const THING: &str = "preset";
    const THINGS: &str = "presets";
    const TRY: &str = "Try a group, a name or a stock.";
}

#[route("/frames/{id}/presets", method = "GET", method = "HEAD")]
pub async fn show(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    let page = blocking(&shared, move |lab| page(lab, id)).await?;
    html(&page)
}

fn page(lab: &Arc<Lab>, id: i64) -> Result<PresetBoard, WebError> {
    let frame = lab.library.frame(id)?;
    let roll = lab.library.roll(frame.summary.roll)?;
    let own = lab.library.own_presets()?;
    let shelves = shelves(&own, &lab.library.pinned_presets()?, &frame.summary);
    Ok(PresetBoard {
        version: crate::assets::version(),
        frame: id,
        frame_name: frame.summary.name.clone(),
        roll: roll.id,
        roll_name: roll.name,
        upright: frame.summary.height > frame.summary.width,
        content: frame.summary.content.clone(),
        plate: PlateView::new(&frame, false).render()?,
        total: shelves.iter().map(|shelf| shelf.tiles.len()).sum(),
        own: own.len(),
        chosen: frame.summary.presets.last().cloned().unwrap_or_default(),
        shelves,
        groups: own_groups(lab)?,
    })
}

/// Pinned ones first, then one's own by their groups, then those that ship.
fn shelves(own: &[Preset], pinned: &[String], frame: &FrameSummary) -> Vec<ShelfView> {
    let mut shelves: Vec<ShelfView> = Vec::new();
    let mut add = |name: &str, preset: &Preset| put(&mut shelves, name, tile(preset, pinned, frame));
    for id in pinned {
        let found = own.iter().find(|preset| preset.id == *id).or_else(|| ShippedPresets::find(id));
        found.into_iter().for_each(|preset| add(PINNED, preset));
    }
    let others = |preset: &&Preset| !pinned.contains(&preset.id);
    for preset in own.iter().filter(others) {
        add(if preset.group.is_empty() { MINE } else { &preset.group }, preset);
    }
    ShippedPresets::all().iter().filter(others).for_each(|preset| add(&preset.group, preset));
    shelves
}

fn tile(preset: &Preset, pinned: &[String], frame: &FrameSummary) -> TileView {
    let stock = preset.stock.as_ref().map(|stock| stock.id.clone()).unwrap_or_default();
    let words = format!("{} {} {} {stock}", preset.name, preset.group, preset.notes);
    TileView {
        id: preset.id.clone(),
        name: preset.name.clone(),
        note: about(preset),
        figure: String::new(),
        chosen: frame.presets.contains(&preset.id),
        pinned: pinned.contains(&preset.id),
        version: preset_version(frame, preset, 1.0),
        words: words.to_lowercase(),
    }
}

/// "Plover, 6 values".
fn about(preset: &Preset) -> String {
    let stock = preset.stock.as_ref().and_then(|stock| amber_core::Catalogue::find(&stock.id).ok());
    let own = preset.stock_data.as_ref().map(|data| data.name());
    let alone = preset.values.keys().filter(|id| stations::list_of(id).is_none()).count() + preset.lists.len();
    let values = match alone {
        0 => String::new(),
        1 => "1 value".into(),
        n => format!("{n} values"),
    };
    let parts = [own.or_else(|| stock.map(|stock| stock.name())).unwrap_or_default(), values];
    parts.into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join(", ")
}

/// A value that a preset sets, and what stands there now.
struct SetView {
    label: String,
    value: String,
    /// What it replaces; empty where nothing was tuned.
    before: String,
}

/// The values of a station.
struct SetAt {
    name: &'static str,
    values: Vec<SetView>,
}

#[derive(Template)]
#[template(path = "partials/preset_look.html")]
struct PresetLook {
    frame: i64,
    id: String,
    name: String,
    group: String,
    notes: String,
    /// The stock that it loads; empty for none.
    stock: String,
    stations: Vec<SetAt>,
    lamps: String,
    pinned: bool,
    own: bool,
    version: String,
    percent: f64,
}

#[derive(Deserialize)]
pub struct How {
    #[serde(default = "whole")]
    strength: f64,
}

#[route("/frames/{id}/presets/{preset}/close", method = "GET", method = "HEAD")]
pub async fn close_look(
    shared: web::Data<Shared>,
    path: web::Path<(i64, String)>,
    how: web::Query<How>,
) -> Result<HttpResponse, WebError> {
    let (id, preset) = path.into_inner();
    let strength = share(how.strength)?;
    let look = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let (preset, own) = lab.library.preset(&preset)?;
        look(lab, &frame, &preset, own, strength)
    })
    .await?;
    html(&look)
}

fn look(lab: &Lab, frame: &Frame, preset: &Preset, own: bool, strength: f64) -> Result<PresetLook, WebError> {
    let before = &frame.summary.development;
    let ids = preset.values.keys().map(String::as_str).collect();
    let mut at: Vec<SetAt> = Vec::new();
    for control in stations::in_order(&ids) {
        let value = preset.values.get(control.id).map(|value| control.written(value)).unwrap_or_default();
        let tuned = before.values.get(control.id).map(|value| control.written(value)).unwrap_or_default();
        let set =
            SetView { label: control.full_label(), before: if tuned == value { String::new() } else { tuned }, value };
        match at.iter_mut().find(|station| station.name == control.station.name()) {
            Some(station) => station.values.push(set),
            None => at.push(SetAt { name: control.station.name(), values: vec![set] }),
        }
    }
    let lamp = |(id, on): (&String, &bool)| format!("{} {}", stations::lamp_label(id), if *on { "on" } else { "off" });
    let laying = lab.with_preset(&frame.summary, &frame.stock, preset, 1.0)?;
    Ok(PresetLook {
        frame: frame.summary.id,
        id: preset.id.clone(),
        name: preset.name.clone(),
        group: preset.group.clone(),
        notes: preset.notes.clone(),
        stock: if preset.stock.is_some() { laying.stock.name() } else { String::new() },
        stations: at,
        lamps: preset.lamps.iter().map(lamp).collect::<Vec<_>>().join(", "),
        pinned: lab.library.pinned_presets()?.contains(&preset.id),
        own,
        version: preset_version(&frame.summary, preset, strength),
        percent: (strength * 100.0).round(),
    })
}
