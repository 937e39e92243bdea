//! Matching: looks that take a while, grain as curves, a frame seated; what of them is taken.

use std::collections::BTreeMap;

use actix_multipart::Multipart;
use actix_web::{HttpResponse, get, post, web};
use amber_core::Development;
use amber_core::Stock;
use amber_core::controls::{Control, Value};
use amber_lab::{Lab, Taken, ThumbnailSize};
use amber_matching::grain::{CONTROLS, GrainMatch};
use amber_matching::reference::{Proposal, ReferenceMatch};
use amber_matching::seat::{Reading, Seating};
use askama::Template;
use serde::Deserialize;
use serde_json::json;

use super::running::RunningView;
use crate::asked::{SeatAsked, With};
use crate::draw::noise;
use crate::error::WebError;
use crate::images::jpeg;
use crate::pages::metering::escaped;
use crate::upload::one_file;
use crate::{Shared, blocking};

fn fragment(html: String) -> HttpResponse {
    HttpResponse::Ok().content_type("text/html; charset=utf-8").body(html)
}

/// A value before and after.
struct ChangeView {
    id: &'static str,
    label: String,
    before: String,
    after: String,
    moved: bool,
}

/// The values that a proposal would change, as they are written.
fn changes<'a>(
    controls: impl Iterator<Item = &'a &'static Control>,
    stock: &Stock,
    [before, after]: [&Development; 2],
) -> Vec<ChangeView> {
    let (before, after) = (before.written(stock), after.written(stock));
    let of = |control: &&'static Control| {
        let (was, is) = (before.value(control), after.value(control));
        ChangeView {
            id: control.id,
            label: control.full_label(),
            moved: was != is,
            before: control.written(&was),
            after: control.written(&is),
        }
    };
    controls.map(of).collect()
}

/// The changed values by control, as JSON.
fn as_json(changes: &[ChangeView], stock: &Stock, proposed: &Development) -> String {
    let values = proposed.written(stock);
    let of = |c: &ChangeView| Some((c.id, values.value(amber_core::stations::find(c.id).ok()?)));
    let all: BTreeMap<&str, Value> = changes.iter().filter(|c| c.moved).filter_map(of).collect();
    serde_json::to_string(&all).unwrap_or_default()
}

/// A picture becomes a reference. Answers with its frame.
#[post("/references")]
pub async fn add_reference(shared: web::Data<Shared>, parts: Multipart) -> Result<HttpResponse, WebError> {
    let (name, bytes) = one_file(shared.settings.upload_bytes, parts).await?;
    let frame = blocking(&shared, move |lab| Ok(lab.add_reference(&name, &bytes)?)).await?;
    Ok(HttpResponse::Created().json(json!({ "id": frame })))
}

/// One answer.
struct ProposalView {
    number: usize,
    way: &'static str,
    stock: String,
    distance: String,
    values: Vec<(&'static str, String, String)>,
    best: bool,
}

/// What was found.
#[derive(Template)]
#[template(path = "partials/match_looks.html")]
pub struct LooksView {
    job: u64,
    before: String,
    proposals: Vec<ProposalView>,
    nearest: String,
}

fn distance(of: Option<(f64, usize)>) -> String {
    of.map_or("–".into(), |(d, n)| format!("{d:.1} in {n} classes"))
}

impl LooksView {
    pub fn new(job: u64, found: &ReferenceMatch) -> Self {
        let proposal = |(number, p): (usize, &Proposal)| ProposalView {
            number,
            way: p.way.label(),
            stock: p.stock.name(),
            distance: distance(p.distance),
            values: p
                .moved
                .iter()
                .map(|m| (m.control.id, m.control.full_label(), m.control.written(&m.value)))
                .collect(),
            best: number == 0,
        };
        let nearest: Vec<String> = found.ranked.iter().take(6).map(|r| r.stock.name()).collect();
        Self {
            job,
            before: distance(found.before),
            proposals: found.proposals.iter().enumerate().map(proposal).collect(),
            nearest: nearest.join(", "),
        }
    }
}

/// Begins to look for stock and tuning.
#[post("/frames/{id}/match/look")]
pub async fn begin(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    with: web::Form<With>,
) -> Result<HttpResponse, WebError> {
    let (id, reference) = (id.into_inner(), with.reference()?);
    blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        lab.library.frame(reference.frame)?;
        let job = lab.begin_match(id, frame.summary.development, reference);
        Ok(RunningView::new(job).render()?)
    })
    .await
    .map(fragment)
}

fn proposal_of(lab: &Lab, job: u64, number: usize) -> Result<Proposal, WebError> {
    let job = lab.found(job)?;
    job.look().and_then(|l| l.proposals.get(number)).cloned().ok_or(WebError::NoPage)
}

/// The print of a proposal.
#[get("/matches/{job}/prints/{number}")]
pub async fn print_of_proposal(
    shared: web::Data<Shared>,
    path: web::Path<(u64, usize)>,
) -> Result<HttpResponse, WebError> {
    let (job, number) = path.into_inner();
    blocking(&shared, move |lab| {
        let proposal = proposal_of(lab, job, number)?;
        let frame = lab.found(job)?.frame.ok_or(WebError::NoPage)?;
        let frame = lab.library.frame(frame)?.summary;
        let picture = lab.thumbnail_of(&frame, &proposal.development, &proposal.stock, ThumbnailSize::Sheet)?;
        Ok((picture, false))
    })
    .await
    .map(jpeg)
}

#[derive(Deserialize)]
pub struct Take {
    revision: i64,
    number: usize,
    stock: bool,
    values: std::collections::BTreeSet<String>,
}

/// Takes a proposal, or parts of it.
#[post("/matches/{job}/take")]
pub async fn take_proposal(
    shared: web::Data<Shared>,
    job: web::Path<u64>,
    asked: web::Json<Take>,
) -> Result<HttpResponse, WebError> {
    let (job, asked) = (job.into_inner(), asked.into_inner());
    let message = blocking(&shared, move |lab| {
        let proposal = proposal_of(lab, job, asked.number)?;
        let frame = lab.found(job)?.frame.ok_or(WebError::NoPage)?;
        let taken = Taken { stock: asked.stock, values: asked.values };
        let stepped = lab.take_look(frame, asked.revision, &proposal, &taken)?;
        lab.thumbnails_soon(&[frame]);
        Ok(stepped.message)
    })
    .await?;
    Ok(HttpResponse::Ok().json(json!({ "message": message })))
}

#[derive(Deserialize)]
pub struct GrainAsked {
    #[serde(flatten)]
    with: With,
    /// Shares of width and height: left, upper, width, height.
    patch: Option<[f64; 4]>,
    long_edge: Option<u32>,
}

/// The grain that was found.
#[derive(Template)]
#[template(path = "partials/match_grain.html")]
struct GrainView {
    by_tone: String,
    by_lag: String,
    aim: [String; 2],
    reached: [String; 2],
    changes: Vec<ChangeView>,
    proposed: String,
    any: bool,
    none: bool,
}

impl GrainView {
    fn new(found: &GrainMatch, before: &Development, stock: &Stock) -> Self {
        let controls: Vec<&'static Control> = CONTROLS.into_iter().filter(|c| (c.applies)(stock)).collect();
        let changes = changes(controls.iter(), stock, [before, &found.proposed]);
        let words = |m: &amber_matching::grain::GrainMeasure| {
            [format!("{:.2} %", 100.0 * m.sigma()), format!("{:.2} px", m.length_px())]
        };
        Self {
            by_tone: noise::by_tone(&found.aim, &found.reached, &found.before),
            by_lag: noise::by_lag(&found.aim, &found.reached, &found.before),
            aim: words(&found.aim),
            reached: words(&found.reached),
            proposed: as_json(&changes, stock, &found.proposed),
            any: changes.iter().any(|c| c.moved),
            none: found.aim.sigma() < 0.5 / 255.0,
            changes,
        }
    }
}

/// The grain that meets the noise of a patch.
#[post("/frames/{id}/match/grain")]
pub async fn grain(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<GrainAsked>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let reference = asked.with.reference()?;
    blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let development = &frame.summary.development;
        let found = lab.match_grain(id, development, reference, asked.patch, asked.long_edge)?;
        Ok(GrainView::new(&found, development, &frame.stock).render()?)
    })
    .await
    .map(fragment)
}

/// What seating proposes.
#[derive(Template)]
#[template(path = "partials/match_seat.html")]
struct SeatView {
    notes: Vec<String>,
    changes: Vec<ChangeView>,
    proposed: String,
    picture: String,
    any: bool,
    mid_grey: String,
    black: [String; 2],
    bare: [String; 2],
}

impl SeatView {
    fn new(frame: i64, found: Seating, before: &Development, stock: &Stock) -> Self {
        let changes = changes(found.controls.iter(), stock, [before, &found.proposed]);
        let proposed = as_json(&changes, stock, &found.proposed);
        let share =
            |of: fn(&Reading) -> f64| [&found.before, &found.after].map(|r| format!("{:.1} %", 100.0 * of(r).max(0.0)));
        Self {
            picture: format!("/frames/{frame}/tuned?values={}", escaped(&proposed)),
            any: changes.iter().any(|c| c.moved),
            mid_grey: format!("{:+.1}", (10.0 * found.mid_grey_off_zones).round() / 10.0 + 0.0).replace('-', "−"),
            black: share(|r| r.black),
            bare: share(|r| r.bare),
            notes: found.notes,
            changes,
            proposed,
        }
    }
}

/// What seats the frame on its stock.
#[post("/frames/{id}/match/seat")]
pub async fn seat_frame(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<SeatAsked>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let (print, marks) = (asked.print()?, asked.marks());
    blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let development = &frame.summary.development;
        let found = lab.seat(id, development, &marks, true, print)?;
        Ok(SeatView::new(id, found, development, &frame.stock).render()?)
    })
    .await
    .map(fragment)
}
