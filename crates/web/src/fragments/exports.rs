//! Exports: started from the dialog, shown with their progress.

use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, get, post, web};
use amber_lab::{ExportSettings, ExportState, ExportStatus, Format, Lab};
use askama::Template;
use serde::Deserialize;
use std::sync::Arc;

use crate::error::WebError;
use crate::pages::html;
use crate::{Shared, blocking};

struct JobView {
    id: u64,
    frame: i64,
    file_name: String,
    running: bool,
    done: bool,
    percent: u32,
    words: String,
}

#[derive(Template)]
#[template(path = "exports.html")]
struct ExportsView {
    jobs: Vec<JobView>,
    running: bool,
}

impl ExportsView {
    fn new(lab: &Arc<Lab>) -> Self {
        let jobs: Vec<JobView> = lab.exports().into_iter().map(job).collect();
        Self { running: jobs.iter().any(|j| j.running), jobs }
    }
}

fn job(status: ExportStatus) -> JobView {
    let (running, done, percent, words) = match &status.state {
        ExportState::Running(share) => (true, false, (share * 100.0) as u32, format!("{:.0} %", share * 100.0)),
        ExportState::Done { bytes } => (false, true, 100, format!("done, {:.1} MB", *bytes as f64 / 1e6)),
        ExportState::Stopped(why) => (false, false, 0, format!("stopped: {why}")),
    };
    JobView { id: status.id, frame: status.frame, file_name: status.file_name, running, done, percent, words }
}

#[derive(Deserialize)]
pub struct Order {
    name: String,
    format: String,
    #[serde(default)]
    quality: Option<u8>,
    #[serde(default)]
    long_edge: Option<String>,
}

#[post("/frames/{id}/exports")]
pub async fn start(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<Order>,
) -> Result<HttpResponse, WebError> {
    let (frame, form) = (id.into_inner(), form.into_inner());
    let format = match form.format.as_str() {
        "jpeg" => Format::Jpeg(form.quality.unwrap_or(92)),
        "tiff" => Format::Tiff16,
        other => return Err(WebError::Unusable(format!("there is no format '{other}'"))),
    };
    let edge = form.long_edge.as_deref().map(str::trim).filter(|t| !t.is_empty());
    let long_edge = edge
        .map(|t| {
            t.parse().map_err(|_| WebError::Unusable(format!("the long edge is a number of pixels; '{t}' is not")))
        })
        .transpose()?;
    let view = blocking(&shared, move |lab| {
        lab.start_export(ExportSettings { frame, name: form.name, format, long_edge })?;
        Ok(ExportsView::new(lab))
    })
    .await?;
    html(&view)
}

#[get("/exports")]
pub async fn list(shared: web::Data<Shared>) -> Result<HttpResponse, WebError> {
    html(&ExportsView::new(&shared.lab))
}

#[post("/exports/{id}/cancel")]
pub async fn cancel(shared: web::Data<Shared>, id: web::Path<u64>) -> Result<HttpResponse, WebError> {
    shared.lab.cancel_export(id.into_inner())?;
    html(&ExportsView::new(&shared.lab))
}

/// The finished file, to be saved by the browser.
#[get("/exports/{id}/file")]
pub async fn file(shared: web::Data<Shared>, id: web::Path<u64>) -> Result<HttpResponse, WebError> {
    let path = shared.lab.export_file(id.into_inner())?;
    let name = path.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
    let bytes = web::block(move || std::fs::read(path)).await.map_err(|_| WebError::Busy)?;
    let bytes = bytes.map_err(|e| WebError::File(name.clone(), e))?;
    let media_type = if name.ends_with(".tif") { "image/tiff" } else { "image/jpeg" };
    Ok(HttpResponse::Ok()
        .content_type(media_type)
        .insert_header(ContentDisposition {
            disposition: DispositionType::Attachment,
            parameters: vec![DispositionParam::Filename(name)],
        })
        .body(bytes))
}
