//! Presets: made of a frame by ticking its parts, brought in, taken out, named, deleted.

use std::collections::BTreeSet;
use std::sync::Arc;

use actix_web::{HttpResponse, delete, post, route, web};
use amber_core::controls::{Column, Control};
use amber_core::preset::{Bundle, is_ticked};
use amber_core::{Chosen, PresetName, Station, stations};
use amber_lab::{Lab, PresetChange, safe_name};
use amber_library::Frame;
use askama::Template;
use serde::Deserialize;
use serde_json::json;

use super::exports::saved_as;
use super::selection::Ticked;
use super::stocks::Pin;
use crate::error::WebError;
use crate::{Shared, blocking};

/// One thing that can be ticked.
struct PartView {
    /// `control`, `list` or `lamp`.
    kind: &'static str,
    id: String,
    label: String,
    value: String,
    ticked: bool,
    tuned: bool,
    /// It belongs to the one picture.
    specific: bool,
}

/// A group of a station.
struct PartsGroup {
    label: &'static str,
    parts: Vec<PartView>,
    tuned: usize,
}

/// The parts of a station.
struct PartsAt {
    name: &'static str,
    groups: Vec<PartsGroup>,
    tuned: usize,
    all: usize,
}

/// A development as a tree of stations, groups and values to be ticked.
#[derive(Template)]
#[template(path = "partials/parts.html")]
struct PartsView {
    stock: String,
    stations: Vec<PartsAt>,
    placements: bool,
}

impl PartsView {
    fn new(frame: &Frame) -> Self {
        let development = &frame.summary.development;
        let values = development.written(&frame.stock);
        let chosen = Chosen::look_of(development);
        let of_control = |control: &'static Control| {
            let tuned = development.values.contains_key(control.id);
            PartView {
                kind: "control",
                id: control.id.into(),
                label: control.full_label(),
                value: control.written(&values.value(control)),
                ticked: tuned && is_ticked(control),
                tuned,
                specific: control.picture_specific,
            }
        };
        let mut placements = false;
        let mut station = |station: Station| {
            let group = |column: &'static Column| {
                let stands = |c: &&'static Control| c.column.id == column.id && (c.applies)(&frame.stock);
                let mut parts: Vec<PartView> = stations::all().filter(stands).map(of_control).collect();
                for lamp in column.lamps.iter().filter(|lamp| development.off.contains(lamp.id)) {
                    parts.insert(0, lamp_part(lamp.id, lamp.label, true));
                }
                for list in stations::LISTS {
                    let is_here = list.members.first().is_some_and(|member| member.column.id == column.id);
                    let keys = values.keys(list);
                    if is_here && !keys.is_empty() {
                        placements |= !list.is_the_pictures();
                        parts.insert(
                            0,
                            PartView {
                                kind: "list",
                                id: list.path.into(),
                                label: format!("{}s", list.label),
                                value: keys.len().to_string(),
                                ticked: chosen.lists.contains(list.path),
                                tuned: true,
                                specific: list.is_the_pictures(),
                            },
                        );
                    }
                }
                PartsGroup { label: column.label, tuned: parts.iter().filter(|part| part.tuned).count(), parts }
            };
            let mut groups: Vec<PartsGroup> =
                stations::columns(station).iter().map(group).filter(|group| !group.parts.is_empty()).collect();
            if development.off.contains(station.id()) {
                let parts = vec![lamp_part(station.id(), station.name(), true)];
                groups.insert(0, PartsGroup { label: "Switched", parts, tuned: 1 });
            }
            PartsAt {
                name: station.name(),
                tuned: groups.iter().map(|group| group.tuned).sum(),
                all: groups.iter().map(|group| group.parts.len()).sum(),
                groups,
            }
        };
        let stations = Station::ALL.into_iter().map(&mut station).collect();
        Self { stock: frame.stock.name(), stations, placements }
    }
}

fn lamp_part(id: &str, label: &str, ticked: bool) -> PartView {
    PartView {
        kind: "lamp",
        id: id.into(),
        label: format!("{label} off"),
        value: String::new(),
        ticked,
        tuned: true,
        specific: false,
    }
}

/// What a preset, or a copy, can take of a frame.
#[route("/frames/{id}/parts", method = "GET", method = "HEAD")]
pub async fn parts_of(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    let tree = blocking(&shared, move |lab| Ok(PartsView::new(&lab.library.frame(id)?).render()?)).await?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(tree))
}

#[derive(Deserialize)]
pub struct Kept {
    name: String,
    #[serde(default)]
    group: String,
    #[serde(default)]
    notes: String,
    parts: Ticked,
}

/// Keeps what was ticked as a preset.
#[post("/frames/{id}/presets")]
pub async fn keep(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<Kept>,
) -> Result<HttpResponse, WebError> {
    let (id, Kept { name, group, notes, parts }) = (id.into_inner(), asked.into_inner());
    let called = PresetName { name, group, notes };
    let preset = blocking(&shared, move |lab| Ok(lab.keep_preset(id, &parts.into(), &called)?)).await?;
    Ok(HttpResponse::Created().json(json!({ "id": preset.id, "name": preset.name })))
}

/// What would change of a preset if it were taken from a frame anew.
#[derive(Template)]
#[template(path = "partials/preset_changes.html")]
struct ChangesOfPreset {
    name: String,
    frame_name: String,
    changes: Vec<PresetChange>,
}

#[route("/presets/{preset}/changes/{frame}", method = "GET", method = "HEAD")]
pub async fn changes(shared: web::Data<Shared>, path: web::Path<(String, i64)>) -> Result<HttpResponse, WebError> {
    let (preset, frame) = path.into_inner();
    let view = blocking(&shared, move |lab| {
        let (preset, changes) = lab.updated_preset(&preset, frame)?;
        let frame_name = lab.library.frame(frame)?.summary.name;
        Ok(ChangesOfPreset { name: preset.name, frame_name, changes }.render()?)
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(view))
}

#[post("/presets/{preset}/changes/{frame}")]
pub async fn update(shared: web::Data<Shared>, path: web::Path<(String, i64)>) -> Result<HttpResponse, WebError> {
    let (preset, frame) = path.into_inner();
    let preset = blocking(&shared, move |lab| Ok(lab.update_preset(&preset, frame)?)).await?;
    Ok(HttpResponse::Ok().json(json!({ "id": preset.id, "name": preset.name })))
}

/// A file with presets, one or a bundle, becomes presets of one's own.
#[post("/presets")]
pub async fn import(shared: web::Data<Shared>, file: web::Bytes) -> Result<HttpResponse, WebError> {
    let ids = blocking(&shared, move |lab| Ok(lab.import_presets(&file)?)).await?;
    Ok(HttpResponse::Created().json(json!({ "ids": ids })))
}

/// All of one's own in one file.
#[route("/presets/file", method = "GET", method = "HEAD")]
pub async fn bundle(shared: web::Data<Shared>) -> Result<HttpResponse, WebError> {
    let own = blocking(&shared, |lab| Ok(lab.library.own_presets()?)).await?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header(saved_as("My presets.json"))
        .body(Bundle::of(own).to_json()))
}

#[route("/presets/{id}/file", method = "GET", method = "HEAD")]
pub async fn as_file(shared: web::Data<Shared>, id: web::Path<String>) -> Result<HttpResponse, WebError> {
    let (preset, _) = blocking(&shared, move |lab| Ok(lab.library.preset(&id)?)).await?;
    let name = safe_name(&preset.name).unwrap_or_else(|_| preset.id.clone());
    let disposition = saved_as(&format!("{name}.json"));
    Ok(HttpResponse::Ok().content_type("application/json").insert_header(disposition).body(preset.to_json()))
}

#[post("/presets/{id}/pin")]
pub async fn pin(
    shared: web::Data<Shared>,
    id: web::Path<String>,
    form: web::Form<Pin>,
) -> Result<HttpResponse, WebError> {
    blocking(&shared, move |lab| Ok(lab.library.pin_preset(&id, form.pinned)?)).await?;
    Ok(HttpResponse::NoContent().finish())
}

#[derive(Deserialize)]
pub struct Named {
    name: String,
    #[serde(default)]
    group: String,
    #[serde(default)]
    notes: String,
}

#[post("/presets/{id}")]
pub async fn rename(
    shared: web::Data<Shared>,
    id: web::Path<String>,
    form: web::Form<Named>,
) -> Result<HttpResponse, WebError> {
    let Named { name, group, notes } = form.into_inner();
    let called = PresetName { name, group, notes: notes.replace("\r\n", "\n") };
    blocking(&shared, move |lab| {
        let preset = lab.library.preset(&id)?.0.renamed(&called)?;
        Ok(lab.library.replace_preset(&preset)?)
    })
    .await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Deletes a preset; it can be taken back.
#[delete("/presets/{id}")]
pub async fn remove(shared: web::Data<Shared>, id: web::Path<String>) -> Result<HttpResponse, WebError> {
    dropped(&shared, id.into_inner(), true).await
}

#[post("/presets/{id}/restore")]
pub async fn restore(shared: web::Data<Shared>, id: web::Path<String>) -> Result<HttpResponse, WebError> {
    dropped(&shared, id.into_inner(), false).await
}

async fn dropped(shared: &web::Data<Shared>, id: String, dropped: bool) -> Result<HttpResponse, WebError> {
    blocking(shared, move |lab: &Arc<Lab>| Ok(lab.library.drop_preset(&id, dropped)?)).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// The groups that presets of one's own stand in, for the form in which one is named.
pub fn own_groups(lab: &Lab) -> Result<BTreeSet<String>, WebError> {
    let own = lab.library.own_presets()?;
    Ok(own.into_iter().map(|preset| preset.group).filter(|group| !group.is_empty()).collect())
}
