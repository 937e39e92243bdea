//! The queue of exports: filled from dialogs, shown with its progress, put in order.

use std::collections::BTreeMap;
use std::sync::Arc;

use actix_files::NamedFile;
use actix_web::http::header::{Charset, ContentDisposition, DispositionParam, DispositionType, ExtendedValue};
use actix_web::{HttpRequest, HttpResponse, post, route, web};
use amber_lab::{ExportSettings, ExportState, ExportStatus, Lab};
use askama::Template;
use serde::Deserialize;

use super::output::{self, OutputForm};
use crate::error::WebError;
use crate::pages::html;
use crate::{Shared, blocking};

struct JobView {
    id: i64,
    frame: i64,
    /// Names the frame's picture, for its address; empty where the frame is gone.
    version: String,
    file_name: String,
    /// `waiting`, `running`, `done`, `failed` or `cancelled`.
    state: &'static str,
    percent: u32,
    words: String,
    /// First of several that were ordered together: their number, and how many of them are in this list.
    together: Option<(i64, usize)>,
}

#[derive(Template)]
#[template(path = "partials/exports.html")]
struct ExportsView {
    jobs: Vec<JobView>,
    /// How many wait or run.
    going: usize,
    /// How many more wait than are shown.
    more: usize,
    ended: bool,
    paused: bool,
    /// How long it takes, in words.
    left: String,
}

impl ExportsView {
    fn new(lab: &Arc<Lab>) -> Result<Self, WebError> {
        let queue = lab.exports()?;
        let mut versions = BTreeMap::new();
        let mut version = |frame: i64| -> String {
            let known = versions.entry(frame);
            known.or_insert_with(|| lab.library.frame(frame).map(|f| f.summary.version()).unwrap_or_default()).clone()
        };
        let mut sizes: BTreeMap<i64, usize> = BTreeMap::new();
        queue.exports.iter().for_each(|export| *sizes.entry(export.batch).or_default() += 1);
        let mut seen = None;
        let mut jobs = Vec::with_capacity(queue.exports.len());
        for export in queue.exports {
            let size = sizes.get(&export.batch).copied().unwrap_or(1);
            let first = seen != Some(export.batch) && size > 1;
            seen = Some(export.batch);
            let together = first.then_some((export.batch, size));
            jobs.push(JobView { together, ..job(version(export.frame), export) });
        }
        let shown = jobs.iter().filter(|job| matches!(job.state, "waiting" | "running")).count();
        Ok(Self {
            going: queue.going,
            more: queue.going.saturating_sub(shown),
            ended: queue.ended > 0,
            paused: queue.paused,
            left: queue.left_s.map(time_left).unwrap_or_default(),
            jobs,
        })
    }
}

/// "about 3 min"
fn time_left(seconds: u64) -> String {
    match seconds {
        0..=5 => "a moment".into(),
        6..=89 => format!("about {} s", seconds.div_ceil(5) * 5),
        90..=5399 => format!("about {} min", seconds.div_ceil(60)),
        _ => format!("about {:.1} h", seconds as f64 / 3600.0),
    }
}

fn job(version: String, export: ExportStatus) -> JobView {
    let (state, percent, words) = match &export.state {
        ExportState::Waiting => ("waiting", 0, "waits".into()),
        ExportState::Running(share) => ("running", (share * 100.0) as u32, format!("{:.0} %", share * 100.0)),
        ExportState::Done { bytes } => ("done", 100, format!("done, {:.1} MB", *bytes as f64 / 1e6)),
        ExportState::Failed(why) => ("failed", 0, why.clone()),
        ExportState::Cancelled => ("cancelled", 0, "cancelled".into()),
    };
    let file_name = match export.folder.as_str() {
        "" => export.file_name,
        folder => format!("{} in {folder}", export.file_name),
    };
    JobView { id: export.id, frame: export.frame, version, file_name, state, percent, words, together: None }
}

#[derive(Deserialize)]
pub struct Started {
    name: String,
    #[serde(flatten)]
    form: OutputForm,
}

/// One frame into the queue; answers with the queue.
#[post("/frames/{id}/exports")]
pub async fn start(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    started: web::Form<Started>,
) -> Result<HttpResponse, WebError> {
    let Started { name, form } = started.into_inner();
    let frame = id.into_inner();
    let output = form.output()?;
    let folder = form.folder(&shared.settings.folders)?;
    let view = blocking(&shared, move |lab| {
        output::remember(lab, &output)?;
        lab.start_export(ExportSettings { frame, name, output, folder, development: None })?;
        ExportsView::new(lab)
    })
    .await?;
    html(&view)
}

#[route("/exports", method = "GET", method = "HEAD")]
pub async fn list(shared: web::Data<Shared>) -> Result<HttpResponse, WebError> {
    html(&blocking(&shared, ExportsView::new).await?)
}

async fn changed(
    shared: &web::Data<Shared>,
    change: impl FnOnce(&Arc<Lab>) -> Result<(), WebError> + Send + 'static,
) -> Result<HttpResponse, WebError> {
    let view = blocking(shared, move |lab| {
        change(lab)?;
        ExportsView::new(lab)
    })
    .await?;
    html(&view)
}

#[post("/exports/{id}/cancel")]
pub async fn cancel(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    changed(&shared, move |lab| Ok(lab.cancel_export(id)?)).await
}

#[post("/exports/{id}/retry")]
pub async fn retry(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    changed(&shared, move |lab| Ok(lab.retry_export(id)?)).await
}

#[derive(Deserialize)]
pub struct Place {
    /// The one before which it is put; the end of the queue where none is named.
    before: Option<i64>,
}

#[post("/exports/{id}/place")]
pub async fn place(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    place: web::Json<Place>,
) -> Result<HttpResponse, WebError> {
    let (id, before) = (id.into_inner(), place.before);
    changed(&shared, move |lab| Ok(lab.library.move_export(id, before)?)).await
}

#[derive(Deserialize)]
pub struct Still {
    paused: bool,
}

#[post("/exports/pause")]
pub async fn pause(shared: web::Data<Shared>, still: web::Form<Still>) -> Result<HttpResponse, WebError> {
    let paused = still.paused;
    changed(&shared, move |lab| Ok(lab.pause_exports(paused)?)).await
}

#[post("/exports/cancel")]
pub async fn cancel_all(shared: web::Data<Shared>) -> Result<HttpResponse, WebError> {
    changed(&shared, |lab| Ok(lab.cancel_exports().map(drop)?)).await
}

#[post("/exports/forget")]
pub async fn forget(shared: web::Data<Shared>) -> Result<HttpResponse, WebError> {
    changed(&shared, |lab| Ok(lab.library.forget_exports()?)).await
}

/// The finished file, to be saved by the browser: read as it is sent.
#[route("/exports/{id}/file", method = "GET", method = "HEAD")]
pub async fn file(shared: web::Data<Shared>, id: web::Path<i64>, asked: HttpRequest) -> Result<HttpResponse, WebError> {
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
