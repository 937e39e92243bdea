//! Matching for scripts: a frame brought to a reference, its grain, a frame seated on its stock, a stock from a chart.

use actix_web::{HttpResponse, delete, get, post, web};
use amber_lab::{Given, JobState, Taken, told};
use amber_matching::chart::ChartFile;
use serde::{Deserialize, Serialize};
use serde_json::{Value as Json, json};
use utoipa::ToSchema;

use super::Answer;
use super::frames::FrameView;
use crate::asked::{SeatAsked, With};
use crate::error::WebError;
use crate::{Shared, blocking};

#[derive(Serialize, ToSchema)]
pub struct Begun {
    /// The number of the match: how far it is, and what it found, is at `/matches/{id}`.
    #[serde(rename = "match")]
    id: u64,
}

fn begun(id: u64) -> HttpResponse {
    HttpResponse::Accepted().json(Begun { id })
}

/// Begins to look for a stock and values by which a frame comes to look like a reference.
#[utoipa::path(params(("id" = i64, Path)), request_body = With, responses((status = 202, body = Begun)))]
#[post("/frames/{id}/match")]
pub async fn begin(shared: web::Data<Shared>, id: web::Path<i64>, with: web::Json<With>) -> Answer {
    let (id, reference) = (id.into_inner(), with.reference()?);
    let job = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        lab.library.frame(reference.frame)?;
        Ok(lab.begin_match(id, frame.summary.development, reference))
    })
    .await?;
    Ok(begun(job))
}

#[derive(Deserialize, ToSchema)]
pub struct ChartAsked {
    /// A chart file (docs/stocks.md).
    csv: String,
}

/// Begins to fit a stock to a chart.
#[utoipa::path(request_body = ChartAsked, responses((status = 202, body = Begun)))]
#[post("/charts")]
pub async fn fit_stock(shared: web::Data<Shared>, asked: web::Json<ChartAsked>) -> Answer {
    let chart = ChartFile::from_csv(&asked.csv).map_err(|error| WebError::Lab(error.into()))?;
    Ok(begun(shared.lab.begin_fit(chart)))
}

/// How far a match is, and what it found.
#[utoipa::path(
    params(("id" = u64, Path)),
    responses((status = 200, body = Object, description = "state: running, done or failed; with progress, or what was \
        found"))
)]
#[get("/matches/{id}")]
pub async fn show(shared: web::Data<Shared>, id: web::Path<u64>) -> Answer {
    let job = shared.lab.found(id.into_inner()).map_err(WebError::Lab)?;
    let mut said = match job.state() {
        JobState::Running(done, all) => json!({ "state": "running", "progress": done as f64 / all as f64 }),
        JobState::Failed(why) => json!({ "state": "failed", "why": why }),
        JobState::Done(Given::Look(found)) => with_state(told::look(found)),
        JobState::Done(Given::Stock(found)) => with_state(told::fitted(found)),
    };
    said["frame"] = json!(job.frame);
    Ok(HttpResponse::Ok().json(said))
}

fn with_state(mut found: Json) -> Json {
    found["state"] = json!("done");
    found
}

/// Gives a match up.
#[utoipa::path(params(("id" = u64, Path)), responses((status = 204)))]
#[delete("/matches/{id}")]
pub async fn cancel(shared: web::Data<Shared>, id: web::Path<u64>) -> Answer {
    shared.lab.found(id.into_inner()).map_err(WebError::Lab)?.cancel();
    Ok(HttpResponse::NoContent().finish())
}

#[derive(Deserialize, ToSchema)]
pub struct Take {
    /// The revision of the frame at which it is taken.
    revision: i64,
    /// The number of the proposal, from 0.
    #[serde(default)]
    number: usize,
    /// Whether its stock is taken; without it only values are.
    #[serde(default = "yes")]
    stock: bool,
    /// The controls whose values are taken; all of the proposal where it is not said.
    #[serde(default)]
    values: Option<Vec<String>>,
}

fn yes() -> bool {
    true
}

/// Takes a proposal of a match, or a part of it, as one step of the frame's log.
#[utoipa::path(params(("id" = u64, Path)), request_body = Take, responses((status = 200, body = FrameView)))]
#[post("/matches/{id}/take")]
pub async fn take(shared: web::Data<Shared>, id: web::Path<u64>, asked: web::Json<Take>) -> Answer {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let frame = blocking(&shared, move |lab| {
        let job = lab.found(id)?;
        let proposal = job.look().and_then(|l| l.proposals.get(asked.number)).ok_or(WebError::NoPage)?;
        let frame = job.frame.ok_or(WebError::NoPage)?;
        let all = || proposal.moved.iter().map(|m| m.control.id.to_owned()).collect();
        let values = asked.values.map_or_else(all, |values| values.into_iter().collect());
        lab.take_look(frame, asked.revision, proposal, &Taken { stock: asked.stock, values })?;
        lab.thumbnails_soon(&[frame]);
        Ok(lab.library.frame(frame)?)
    })
    .await?;
    Ok(HttpResponse::Ok().json(FrameView::new(&frame.summary)))
}

#[derive(Serialize, ToSchema)]
pub struct Kept {
    /// The stock's id.
    id: String,
    name: String,
}

/// Keeps a stock that was fitted as one of one's own.
#[utoipa::path(params(("id" = u64, Path)), responses((status = 201, body = Kept)))]
#[post("/matches/{id}/stock")]
pub async fn keep(shared: web::Data<Shared>, id: web::Path<u64>) -> Answer {
    let id = id.into_inner();
    let stock = blocking(&shared, move |lab| {
        let job = lab.found(id)?;
        let fitted = job.fit().ok_or(WebError::NoPage)?;
        Ok(lab.import_stock(fitted.stock.to_json().as_bytes())?)
    })
    .await?;
    Ok(HttpResponse::Created().json(Kept { id: stock.id.clone(), name: stock.name() }))
}

#[derive(Deserialize, ToSchema)]
pub struct GrainAsked {
    #[serde(flatten)]
    with: With,
    /// Shares of width and height: left, upper, width, height; all of the reference where it is not said.
    #[serde(default)]
    patch: Option<[f64; 4]>,
    /// Long edge of the export in whose pixels both are compared.
    #[serde(default)]
    long_edge: Option<u32>,
}

/// The grain by which a frame's print shows the noise of a patch of a reference. Nothing is kept.
#[utoipa::path(params(("id" = i64, Path)), request_body = GrainAsked, responses((status = 200, body = Object)))]
#[post("/frames/{id}/grain")]
pub async fn grain(shared: web::Data<Shared>, id: web::Path<i64>, asked: web::Json<GrainAsked>) -> Answer {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let reference = asked.with.reference()?;
    let found = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let found = lab.match_grain(id, &frame.summary.development, reference, asked.patch, asked.long_edge)?;
        Ok(told::grain(&found, &frame.stock))
    })
    .await?;
    Ok(HttpResponse::Ok().json(found))
}

/// What seats a frame on its stock: a development, and what it reads. Nothing is kept.
#[utoipa::path(params(("id" = i64, Path)), request_body = SeatAsked, responses((status = 200, body = Object)))]
#[post("/frames/{id}/seat")]
pub async fn seat(shared: web::Data<Shared>, id: web::Path<i64>, asked: web::Json<SeatAsked>) -> Answer {
    let id = id.into_inner();
    let (print, marks) = (asked.print()?, asked.marks());
    let found = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        Ok(told::seating(&lab.seat(id, &frame.summary.development, &marks, true, print)?))
    })
    .await?;
    Ok(HttpResponse::Ok().json(found))
}
