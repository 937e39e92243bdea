//! The roll as a contact sheet: the page has the order of its frames, their cells come as they are seen.

use std::collections::BTreeMap;

use actix_web::http::header;
use actix_web::{HttpResponse, post, route, web};
use amber_core::controls::Kind;
use amber_core::{ShippedPresets, stations};
use amber_lab::{Lab, now};
use amber_library::{OnSheet, Roll};
use askama::Template;
use serde::Deserialize;
use serde_json::json;

use super::html;
use crate::draw::declared::inside_script;
use crate::error::WebError;
use crate::fragments::output::OutputView;
use crate::fragments::sheet::{OffView, SheetQuery};
use crate::{Shared, blocking};

/// What the sheet can be narrowed to: an id, what people read, how many.
struct Narrow {
    id: String,
    label: String,
    frames: usize,
}

#[derive(Template)]
#[template(path = "pages/roll.html")]
struct RollPage {
    version: &'static str,
    rolls: Vec<Roll>,
    roll: Roll,
    stocks: Vec<Narrow>,
    presets: Vec<Narrow>,
    /// Numbers of the frames in their order, and of all, for the page's script.
    state: String,
    off: String,
    upload_mib: usize,
    output: OutputView,
    /// Lab orders by name.
    orders: Vec<String>,
    /// Presets that can be laid on the way out, and formats to which can be cut: ids and names.
    all_presets: Vec<[String; 2]>,
    formats: Vec<[&'static str; 2]>,
    /// A password is asked for: one can sign out.
    guarded: bool,
}

#[route("/", method = "GET", method = "HEAD")]
pub async fn home(shared: web::Data<Shared>) -> Result<HttpResponse, WebError> {
    let roll = blocking(&shared, |lab| {
        if let Some(roll) = lab.library.rolls()?.first() {
            return Ok(roll.id);
        }
        Ok(lab.library.add_roll("First roll", now())?)
    })
    .await?;
    Ok(to_roll(roll))
}

fn to_roll(id: i64) -> HttpResponse {
    HttpResponse::SeeOther().insert_header((header::LOCATION, format!("/rolls/{id}"))).finish()
}

#[route("/rolls/{id}", method = "GET", method = "HEAD")]
pub async fn show(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<SheetQuery>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let upload_mib = shared.settings.upload_bytes >> 20;
    let guarded = shared.settings.password.is_some();
    let folders = shared.settings.folders.clone();
    let page = blocking(&shared, move |lab| {
        let roll = lab.library.roll(id)?;
        let all = lab.library.on_sheet(id)?;
        let ids: Vec<i64> = all.iter().map(|frame| frame.id).collect();
        lab.thumbnails_soon(&ids);
        let (stocks, presets) = (stocks(lab, &all), presets(lab, &all));
        let shown = asked.of(all);
        Ok(RollPage {
            version: crate::assets::version(),
            rolls: lab.library.rolls()?,
            roll,
            stocks,
            presets,
            state: inside_script(&json!({ "ids": shown, "all": ids.len() })),
            off: OffView::new(lab, id)?.render()?,
            upload_mib,
            output: OutputView::new(lab, &folders, None)?,
            orders: lab.library.orders()?.into_iter().map(|(name, _)| name).collect(),
            all_presets: all_presets(lab)?,
            formats: formats(),
            guarded,
        })
    })
    .await?;
    html(&page)
}

/// How many frames have each of some things, in the order of what people read.
fn counted<'a>(ids: impl Iterator<Item = &'a String>, label: impl Fn(&str) -> String) -> Vec<Narrow> {
    let mut counts: BTreeMap<&String, usize> = BTreeMap::new();
    ids.for_each(|id| *counts.entry(id).or_default() += 1);
    let narrow = |(id, frames): (&String, usize)| Narrow { id: id.clone(), label: label(id), frames };
    let mut all: Vec<Narrow> = counts.into_iter().map(narrow).collect();
    all.sort_by_key(|narrow| narrow.label.to_lowercase());
    all
}

fn stocks(lab: &Lab, frames: &[OnSheet]) -> Vec<Narrow> {
    let name = |id: &str| lab.library.find_stock(id).map_or_else(|_| id.to_owned(), |stock| stock.name());
    counted(frames.iter().map(|frame| &frame.stock).filter(|id| !id.is_empty()), name)
}

fn presets(lab: &Lab, frames: &[OnSheet]) -> Vec<Narrow> {
    let name = |id: &str| lab.library.preset(id).map_or_else(|_| id.to_owned(), |(preset, _)| preset.name);
    counted(frames.iter().flat_map(|frame| &frame.presets), name)
}

/// Ids and names: one's own first, then those that ship.
fn all_presets(lab: &Lab) -> Result<Vec<[String; 2]>, WebError> {
    let own = lab.library.own_presets()?;
    let all = own.iter().chain(ShippedPresets::all());
    Ok(all.map(|preset| [preset.id.clone(), preset.name.clone()]).collect())
}

/// Formats to which a picture can be cut.
fn formats() -> Vec<[&'static str; 2]> {
    match stations::find("lens.format").map(|control| control.kind) {
        Ok(Kind::Choice(choices)) => choices.iter().skip(1).map(|choice| [choice.id, choice.label]).collect(),
        _ => Vec::new(),
    }
}

#[derive(Deserialize)]
pub struct Named {
    name: String,
}

#[post("/rolls")]
pub async fn add(shared: web::Data<Shared>, form: web::Form<Named>) -> Result<HttpResponse, WebError> {
    let id = blocking(&shared, move |lab| Ok(lab.library.add_roll(&form.name, now())?)).await?;
    Ok(to_roll(id))
}

#[post("/rolls/{id}/name")]
pub async fn rename(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<Named>,
) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    blocking(&shared, move |lab| Ok(lab.library.rename_roll(id, &form.name)?)).await?;
    Ok(to_roll(id))
}
