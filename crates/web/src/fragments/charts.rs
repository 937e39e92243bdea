//! Charts: read, written, fitted, kept as a stock.

use actix_web::{HttpResponse, post, web};
use amber_core::stock::chart::SeenBy;
use amber_lab::safe_name;
use amber_matching::chart::{ChartFile, Fields, Fit, shown};
use askama::Template;
use serde::Deserialize;
use serde_json::json;

use super::exports::saved_as;
use super::running::RunningView;
use crate::error::WebError;
use crate::{Shared, blocking};

#[derive(Deserialize)]
pub struct Typed {
    csv: String,
}

fn read(csv: &str) -> Result<ChartFile, WebError> {
    ChartFile::from_csv(csv).map_err(|error| WebError::Lab(error.into()))
}

/// What a chart file holds, for the form.
#[post("/charts/read")]
pub async fn read_chart(typed: web::Json<Typed>) -> Result<HttpResponse, WebError> {
    let file = read(&typed.csv)?;
    let kind = amber_matching::chart::KINDS.iter().find(|k| k.1 == file.kind).map_or("", |k| k.0);
    Ok(HttpResponse::Ok().json(json!({
        "kind": kind,
        "name": file.name,
        "iso": file.iso,
        "print": file.print,
        "seen": match file.chart.seen_by {
            SeenBy::Unknown => "",
            SeenBy::Scene => "scene",
            SeenBy::Camera => "camera",
        },
        "wedge": file.chart.wedge,
        "patches": file.chart.patches,
    })))
}

/// The form as a chart file.
#[post("/charts/file")]
pub async fn chart_file(typed: web::Form<Typed>) -> Result<HttpResponse, WebError> {
    let file = read(&typed.csv)?;
    let name = safe_name(&file.name).unwrap_or_else(|_| "chart".into());
    let disposition = saved_as(&format!("{name}.csv"));
    Ok(HttpResponse::Ok().content_type("text/csv; charset=utf-8").insert_header(disposition).body(file.to_csv()))
}

/// Begins to fit a stock.
#[post("/charts/fit")]
pub async fn fit_chart(shared: web::Data<Shared>, typed: web::Json<Typed>) -> Result<HttpResponse, WebError> {
    let file = read(&typed.csv)?;
    let job = shared.lab.begin_fit(file);
    let html = RunningView::new(job).render()?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(html))
}

/// Colours of patches in a picture.
#[post("/frames/{id}/patches")]
pub async fn patches(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<Fields>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let read = blocking(&shared, move |lab| Ok(lab.patches_of(id, &asked)?)).await?;
    Ok(HttpResponse::Ok().json(read))
}

#[derive(Deserialize)]
pub struct Wedge {
    fields: Fields,
    layers: usize,
    /// By step; `null` where it was not measured.
    measured: Vec<Option<Vec<f64>>>,
}

/// Densities of the steps of a wedge in a scan.
#[post("/frames/{id}/wedge")]
pub async fn wedge(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<Wedge>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let Wedge { fields, layers, measured } = asked;
    let layers = if layers == 1 { 1 } else { 3 };
    let read = blocking(&shared, move |lab| Ok(lab.wedge_of(id, &fields, layers, &measured)?)).await?;
    Ok(HttpResponse::Ok().json(read))
}

/// Keeps a fitted stock as one of one's own.
#[post("/matches/{job}/stock")]
pub async fn keep_fitted(shared: web::Data<Shared>, job: web::Path<u64>) -> Result<HttpResponse, WebError> {
    let job = job.into_inner();
    let stock = blocking(&shared, move |lab| {
        let job = lab.found(job)?;
        let fit = job.fit().ok_or(WebError::NoPage)?;
        Ok(lab.import_stock(fit.stock.to_json().as_bytes())?)
    })
    .await?;
    Ok(HttpResponse::Created().json(json!({ "id": stock.id, "name": stock.name() })))
}

/// A patch beside what the stock makes of it.
struct PatchView {
    name: String,
    measured: Option<String>,
    fitted: String,
    distance: String,
    outlier: bool,
}

/// A fitted stock.
#[derive(Template)]
#[template(path = "partials/chart_fit.html")]
pub struct FitView {
    job: u64,
    name: String,
    density: String,
    colour: String,
    minima: String,
    patches: Vec<PatchView>,
    notes: Vec<String>,
    curves: String,
}

fn hex(lab: [f64; 3]) -> String {
    let [r, g, b] = shown(lab);
    format!("#{r:02x}{g:02x}{b:02x}")
}

impl FitView {
    pub fn new(job: u64, fit: &Fit) -> Self {
        let patch = |p: &amber_matching::chart::PatchResidual| PatchView {
            name: p.name.clone(),
            measured: p.measured.map(hex),
            fitted: hex(p.fitted),
            distance: p.distance.map_or("–".into(), |d| format!("{d:.1}")),
            outlier: p.outlier,
        };
        let minima: Vec<String> = fit.layers.iter().map(|l| format!("{:.2}", l.minimum + l.curve.shape.dmin)).collect();
        Self {
            job,
            name: fit.stock.name(),
            density: format!("{:.3}", fit.density_off()),
            colour: fit.colour_off().map_or("–".into(), |off| format!("{off:.2}")),
            minima: minima.join(", "),
            patches: fit.patches.iter().map(patch).collect(),
            notes: fit.notes.clone(),
            curves: crate::draw::noise::wedge(fit),
        }
    }
}
