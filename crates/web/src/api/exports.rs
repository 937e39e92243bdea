//! The queue of exports.

use actix_files::NamedFile;
use actix_web::{HttpRequest, HttpResponse, get, post, web};
use amber_lab::{ExportState, ExportStatus, LabOrder, Output};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Answer;
use crate::error::WebError;
use crate::{Shared, blocking};

#[derive(Serialize, ToSchema)]
pub struct ExportView {
    id: i64,
    frame: i64,
    /// Those that were ordered together share it; their ZIP is at `/batches/{batch}/zip`.
    batch: i64,
    file: String,
    /// waiting, running, done, failed or cancelled.
    state: &'static str,
    /// Share done, 0 to 1.
    progress: f64,
    bytes: Option<u64>,
    /// Why it failed, in words.
    why: Option<String>,
}

impl ExportView {
    fn new(export: ExportStatus) -> Self {
        let (state, progress, bytes, why) = match export.state {
            ExportState::Waiting => ("waiting", 0.0, None, None),
            ExportState::Running(share) => ("running", share, None, None),
            ExportState::Done { bytes } => ("done", 1.0, Some(bytes), None),
            ExportState::Failed(why) => ("failed", 0.0, None, Some(why)),
            ExportState::Cancelled => ("cancelled", 0.0, None, None),
        };
        let ExportStatus { id, frame, batch, file_name, .. } = export;
        Self { id, frame, batch, file: file_name, state, progress, bytes, why }
    }
}

#[derive(Serialize, ToSchema)]
pub struct QueueView {
    exports: Vec<ExportView>,
    /// How many wait or run, those that are not in the list included.
    going: usize,
    paused: bool,
    /// Seconds until all are done, where that is known.
    left_s: Option<u64>,
}

#[derive(Deserialize, ToSchema)]
pub struct NewExports {
    frames: Vec<i64>,
    /// A lab order that is kept, by its name; or say how it is to be:
    #[serde(default)]
    order: Option<String>,
    /// Names of the files, without ending.
    #[serde(default)]
    pattern: Option<String>,
    /// Presets that are laid on the way out, by their ids.
    #[serde(default)]
    presets: Vec<String>,
    /// Format, size and what is attached: the `output` of a lab order.
    #[serde(default)]
    #[schema(value_type = Object)]
    output: Output,
}

#[derive(Serialize, ToSchema)]
pub struct Ordered {
    batch: i64,
    exports: Vec<i64>,
}

#[derive(Deserialize, ToSchema)]
pub struct Still {
    paused: bool,
}

/// The queue: what runs and waits, then what has ended.
#[utoipa::path(responses((status = 200, body = QueueView)))]
#[get("/exports")]
pub async fn list(shared: web::Data<Shared>) -> Answer {
    let queue = blocking(&shared, |lab| Ok(lab.exports()?)).await?;
    Ok(HttpResponse::Ok().json(QueueView {
        exports: queue.exports.into_iter().map(ExportView::new).collect(),
        going: queue.going,
        paused: queue.paused,
        left_s: queue.left_s,
    }))
}

/// Puts frames in the queue, all of them or none.
#[utoipa::path(request_body = NewExports, responses((status = 201, body = Ordered)))]
#[post("/exports")]
pub async fn order(shared: web::Data<Shared>, new: web::Json<NewExports>) -> Answer {
    let new = new.into_inner();
    let exports = blocking(&shared, move |lab| {
        let order = match &new.order {
            Some(name) => LabOrder::from_json(&lab.library.order(name)?)?,
            None => {
                let presets = new.presets.iter().map(|id| Ok(lab.library.preset(id)?.0));
                let order = LabOrder { output: new.output, ..LabOrder::default() };
                let presets = presets.collect::<Result<_, WebError>>()?;
                LabOrder { pattern: new.pattern.unwrap_or(order.pattern.clone()), presets, ..order }
            }
        };
        Ok(lab.run_order(&order, &new.frames, None)?)
    })
    .await?;
    Ok(HttpResponse::Created().json(Ordered { batch: exports[0], exports }))
}

/// One export.
#[utoipa::path(params(("id" = i64, Path)), responses((status = 200, body = ExportView)))]
#[get("/exports/{id}")]
pub async fn show(shared: web::Data<Shared>, id: web::Path<i64>) -> Answer {
    let id = id.into_inner();
    let export = blocking(&shared, move |lab| Ok(lab.export(id)?)).await?;
    Ok(HttpResponse::Ok().json(ExportView::new(export)))
}

/// The finished file.
#[utoipa::path(params(("id" = i64, Path)), responses((status = 200, body = Vec<u8>)))]
#[get("/exports/{id}/file")]
pub async fn file(shared: web::Data<Shared>, id: web::Path<i64>, asked: HttpRequest) -> Answer {
    let path = shared.lab.export_file(id.into_inner())?;
    let name = path.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
    let file = NamedFile::open_async(&path).await.map_err(|e| WebError::File(name, e))?;
    Ok(file.into_response(&asked))
}

/// Takes one out of the queue.
#[utoipa::path(params(("id" = i64, Path)), responses((status = 200, body = ExportView)))]
#[post("/exports/{id}/cancel")]
pub async fn cancel(shared: web::Data<Shared>, id: web::Path<i64>) -> Answer {
    let id = id.into_inner();
    let export = blocking(&shared, move |lab| {
        lab.cancel_export(id)?;
        Ok(lab.export(id)?)
    })
    .await?;
    Ok(HttpResponse::Ok().json(ExportView::new(export)))
}

/// Tries one again that failed or was cancelled.
#[utoipa::path(params(("id" = i64, Path)), responses((status = 200, body = ExportView)))]
#[post("/exports/{id}/retry")]
pub async fn retry(shared: web::Data<Shared>, id: web::Path<i64>) -> Answer {
    let id = id.into_inner();
    let export = blocking(&shared, move |lab| {
        lab.retry_export(id)?;
        Ok(lab.export(id)?)
    })
    .await?;
    Ok(HttpResponse::Ok().json(ExportView::new(export)))
}

/// Lets the queue stand still, or go on.
#[utoipa::path(request_body = Still, responses((status = 204)))]
#[post("/exports/pause")]
pub async fn pause(shared: web::Data<Shared>, still: web::Json<Still>) -> Answer {
    blocking(&shared, move |lab| Ok(lab.pause_exports(still.paused)?)).await?;
    Ok(HttpResponse::NoContent().finish())
}
