//! A frame and its development.

use actix_web::{HttpResponse, get, patch, post, put, web};
use amber_core::Development;
use amber_core::text::shortened;
use amber_library::{Change, FrameSummary, Mark, Step};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::Answer;
use crate::error::WebError;
use crate::{Shared, blocking};

#[derive(Serialize, ToSchema)]
pub struct FrameView {
    id: i64,
    roll: i64,
    position: i64,
    name: String,
    /// Content hash (BLAKE3) of the original.
    original: String,
    format: String,
    width: u32,
    height: u32,
    /// Grows with every change; a change is made at a revision.
    revision: i64,
    exported: bool,
    /// keep, maybe, drop, or nothing.
    mark: String,
    note: String,
    stock: String,
    /// A development document, as `amber-grain schema` describes it.
    #[schema(value_type = Object)]
    development: Development,
}

impl FrameView {
    pub fn new(frame: &FrameSummary) -> Self {
        Self {
            id: frame.id,
            roll: frame.roll,
            position: frame.position,
            name: frame.name.clone(),
            original: frame.content.clone(),
            format: frame.format.clone(),
            width: frame.width,
            height: frame.height,
            revision: frame.revision,
            exported: frame.exported,
            mark: frame.mark.id().into(),
            note: frame.note.clone(),
            stock: frame.development.stock.id.clone(),
            development: frame.development.clone(),
        }
    }
}

#[derive(Deserialize, ToSchema)]
pub struct Changed {
    /// The revision at which it is made: refused where the frame has moved on since.
    revision: i64,
    /// What the step is called in the log.
    #[serde(default)]
    label: Option<String>,
    /// A development document.
    #[schema(value_type = Object)]
    development: Development,
}

/// A frame.
#[utoipa::path(params(("id" = i64, Path)), responses((status = 200, body = FrameView)))]
#[get("/frames/{id}")]
pub async fn show(shared: web::Data<Shared>, id: web::Path<i64>) -> Answer {
    let id = id.into_inner();
    let frame = blocking(&shared, move |lab| Ok(lab.library.frame(id)?)).await?;
    Ok(HttpResponse::Ok().json(FrameView::new(&frame.summary)))
}

#[derive(Default, Deserialize, ToSchema)]
#[serde(default, deny_unknown_fields)]
pub struct Described {
    name: Option<String>,
    /// keep, maybe, drop, or nothing.
    mark: Option<String>,
    note: Option<String>,
}

/// Names, marks or notes a frame; what is not said stays.
#[utoipa::path(params(("id" = i64, Path)), request_body = Described, responses((status = 200, body = FrameView)))]
#[patch("/frames/{id}")]
pub async fn describe(shared: web::Data<Shared>, id: web::Path<i64>, said: web::Json<Described>) -> Answer {
    let (id, Described { name, mark, note }) = (id.into_inner(), said.into_inner());
    let frame = blocking(&shared, move |lab| {
        lab.library.frame(id)?;
        if let Some(word) = mark.as_deref().filter(|word| Mark::named(word).id() != *word) {
            return Err(WebError::Unusable(format!("there is no mark '{}'", shortened(word))));
        }
        if let Some(name) = name {
            lab.library.rename_frame(id, &name)?;
        }
        if let Some(note) = note {
            lab.library.write_note(id, &note)?;
        }
        if let Some(mark) = mark {
            lab.library.mark(vec![id], Mark::named(&mark))?;
        }
        Ok(lab.library.frame(id)?)
    })
    .await?;
    Ok(HttpResponse::Ok().json(FrameView::new(&frame.summary)))
}

#[derive(Deserialize, ToSchema)]
pub struct AtRevision {
    revision: i64,
}

/// Takes the last step of a frame back.
#[utoipa::path(params(("id" = i64, Path)), request_body = AtRevision, responses((status = 200, body = FrameView)))]
#[post("/frames/{id}/undo")]
pub async fn undo(shared: web::Data<Shared>, id: web::Path<i64>, at: web::Json<AtRevision>) -> Answer {
    let (id, revision) = (id.into_inner(), at.revision);
    let frame = blocking(&shared, move |lab| Ok(lab.library.step(id, revision, Step::Undo)?)).await?;
    Ok(HttpResponse::Ok().json(FrameView::new(&frame.summary)))
}

/// Develops a frame otherwise, as one step of its log.
#[utoipa::path(params(("id" = i64, Path)), request_body = Changed, responses((status = 200, body = FrameView)))]
#[put("/frames/{id}/development")]
pub async fn set(shared: web::Data<Shared>, id: web::Path<i64>, change: web::Json<Changed>) -> Answer {
    let (id, Changed { revision, label, development }) = (id.into_inner(), change.into_inner());
    let frame = blocking(&shared, move |lab| {
        development.check()?;
        let stock = lab.library.stock_of(&development)?;
        let mut development = development;
        development.stock.hash = stock.content_hash();
        development.keep_sparse(&stock);
        let label = label.unwrap_or_else(|| "Set by a script".into()).chars().take(120).collect();
        let frame = lab.library.commit(id, Change { revision, label, development }, &stock)?;
        lab.thumbnails_soon(&[id]);
        Ok(frame)
    })
    .await?;
    Ok(HttpResponse::Ok().json(FrameView::new(&frame.summary)))
}

#[derive(Deserialize, IntoParams)]
pub struct Strength {
    /// How far of the way, in per cent.
    #[serde(default = "crate::fragments::selection::whole")]
    strength: f64,
}

/// Lays a preset on a frame.
#[utoipa::path(
    params(("id" = i64, Path), ("preset" = String, Path), Strength),
    responses((status = 200, body = FrameView)),
)]
#[post("/frames/{id}/presets/{preset}")]
pub async fn lay(shared: web::Data<Shared>, path: web::Path<(i64, String)>, strength: web::Query<Strength>) -> Answer {
    let ((id, preset), strength) = (path.into_inner(), strength.strength);
    if !(0.0..=100.0).contains(&strength) {
        return Err(WebError::Unusable("a strength goes from 0 to 100".into()).into());
    }
    let frame = blocking(&shared, move |lab| {
        lab.lay_preset(&preset, &[id], strength / 100.0)?;
        lab.thumbnails_soon(&[id]);
        Ok(lab.library.frame(id)?)
    })
    .await?;
    Ok(HttpResponse::Ok().json(FrameView::new(&frame.summary)))
}
