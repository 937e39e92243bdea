//! Exports: started from the dialog, shown with their progress.

use std::collections::BTreeMap;
use std::sync::Arc;

use actix_files::NamedFile;
use actix_web::http::header::{Charset, ContentDisposition, DispositionParam, DispositionType, ExtendedValue};
use actix_web::{HttpRequest, HttpResponse, post, route, web};
use amber_core::text::shortened;
use amber_lab::{ExportSettings, ExportState, ExportStatus, Format, Lab};
use askama::Template;
use serde::Deserialize;

use crate::error::WebError;
use crate::pages::html;
use crate::{Shared, blocking};

struct JobView {
    id: u64,
    frame: i64,
    /// Names the frame's picture, for its address; empty where the frame is gone.
    version: String,
    file_name: String,
    running: bool,
    done: bool,
    percent: u32,
    words: String,
}

#[derive(Template)]
#[template(path = "partials/exports.html")]
struct ExportsView {
    jobs: Vec<JobView>,
    running: bool,
}

impl ExportsView {
    fn new(lab: &Arc<Lab>) -> Self {
        let mut versions = BTreeMap::new();
        let mut version = |frame: i64| -> String {
            let known = versions.entry(frame);
            known.or_insert_with(|| lab.library.frame(frame).map(|f| f.summary.version()).unwrap_or_default()).clone()
        };
        let jobs: Vec<JobView> = lab.exports().into_iter().map(|e| job(version(e.frame), e)).collect();
        Self { running: jobs.iter().any(|j| j.running), jobs }
    }
}

fn job(version: String, status: ExportStatus) -> JobView {
    let (running, done, percent, words) = match &status.state {
        ExportState::Running(share) => (true, false, (share * 100.0) as u32, format!("{:.0} %", share * 100.0)),
        ExportState::Done { bytes } => (false, true, 100, format!("done, {:.1} MB", *bytes as f64 / 1e6)),
        ExportState::Stopped(why) => (false, false, 0, format!("stopped: {why}")),
    };
    JobView { id: status.id, frame: status.frame, version, file_name: status.file_name, running, done, percent, words }
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

/// A format as forms name it.
pub fn format_of(name: &str, quality: Option<u8>) -> Result<Format, WebError> {
    match name {
        "jpeg" => Ok(Format::Jpeg(quality.unwrap_or(92))),
        "tiff" => Ok(Format::Tiff16),
        other => Err(WebError::Unusable(format!("there is no format '{}'", shortened(other)))),
    }
}

/// A long edge as it was typed; none for the full size.
pub fn long_edge_of(typed: Option<&str>) -> Result<Option<u32>, WebError> {
    let edge = typed.map(str::trim).filter(|text| !text.is_empty());
    let number = |text: &str| {
        let said = format!("the long edge is a number of pixels; '{}' is not", shortened(text));
        text.parse().map_err(|_| WebError::Unusable(said))
    };
    edge.map(number).transpose()
}

#[post("/frames/{id}/exports")]
pub async fn start(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<Order>,
) -> Result<HttpResponse, WebError> {
    let (frame, form) = (id.into_inner(), form.into_inner());
    let format = format_of(&form.format, form.quality)?;
    let long_edge = long_edge_of(form.long_edge.as_deref())?;
    let view = blocking(&shared, move |lab| {
        lab.start_export(ExportSettings { frame, name: form.name, format, long_edge })?;
        Ok(ExportsView::new(lab))
    })
    .await?;
    html(&view)
}

#[route("/exports", method = "GET", method = "HEAD")]
pub async fn list(shared: web::Data<Shared>) -> Result<HttpResponse, WebError> {
    html(&ExportsView::new(&shared.lab))
}

#[post("/exports/{id}/cancel")]
pub async fn cancel(shared: web::Data<Shared>, id: web::Path<u64>) -> Result<HttpResponse, WebError> {
    shared.lab.cancel_export(id.into_inner())?;
    html(&ExportsView::new(&shared.lab))
}

/// The finished file, to be saved by the browser: read as it is sent.
#[route("/exports/{id}/file", method = "GET", method = "HEAD")]
pub async fn file(shared: web::Data<Shared>, id: web::Path<u64>, asked: HttpRequest) -> Result<HttpResponse, WebError> {
    let path = shared.lab.export_file(id.into_inner())?;
    let name = path.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
    let file = NamedFile::open_async(&path).await.map_err(|e| WebError::File(name.clone(), e))?;
    Ok(file.set_content_disposition(saved_as(&name)).into_response(&asked))
}

/// A file to be saved under a name: as plain ASCII, and in full (RFC 6266) where that is not all of it.
pub fn saved_as(name: &str) -> ContentDisposition {
    let plain: String = name.chars().map(|c| if c.is_ascii_graphic() || c == ' ' { c } else { '_' }).collect();
    let full = (plain != name).then(|| {
        DispositionParam::FilenameExt(ExtendedValue {
            charset: Charset::Ext("UTF-8".into()),
            language_tag: None,
            value: name.as_bytes().to_vec(),
        })
    });
    let parameters = [Some(DispositionParam::Filename(plain)), full].into_iter().flatten().collect();
    ContentDisposition { disposition: DispositionType::Attachment, parameters }
}
