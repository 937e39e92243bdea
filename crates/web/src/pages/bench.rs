//! The bench: one frame, the process line, the open station.

use std::collections::BTreeSet;
use std::path::PathBuf;
use std::sync::Arc;

use actix_web::{HttpResponse, route, web};
use amber_lab::Lab;
use amber_library::{Frame, FrameSummary};
use askama::Template;

use super::html;
use crate::draw::declared::{self, inside_script};
use crate::error::WebError;
use crate::fragments::bar::{PlateView, UndoView};
use crate::fragments::bench::{OnBench, Open};
use crate::fragments::line::LineView;
use crate::fragments::output::OutputView;
use crate::fragments::presets::own_groups;
use crate::fragments::prints::PrintsView;
use crate::fragments::rail::RailView;
use crate::{Shared, blocking};

#[derive(Template)]
#[template(path = "pages/bench.html")]
struct BenchPage {
    version: &'static str,
    roll_name: String,
    /// Groups of one's own presets.
    groups: BTreeSet<String>,
    frame: FrameSummary,
    /// Other frames of the roll, those nearest to it.
    others: Vec<OtherFrame>,
    number: String,
    total: String,
    previous: Option<i64>,
    next: Option<i64>,
    output: OutputView,
    /// The page's state for its script, and what core declares, as JSON.
    state: String,
    declared: String,
    export_name: String,
    plate: String,
    prints: String,
    undo: String,
    line: String,
    bench: String,
    rail: String,
}

/// Another frame of the roll.
struct OtherFrame {
    id: i64,
    name: String,
    /// Names its picture, for its address.
    version: String,
}

impl OtherFrame {
    fn new(f: &FrameSummary) -> Self {
        Self { id: f.id, name: f.name.clone(), version: f.version() }
    }
}

#[route("/frames/{id}", method = "GET", method = "HEAD")]
pub async fn show(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<Open>,
) -> Result<HttpResponse, WebError> {
    let (id, on_bench) = (id.into_inner(), asked.on_bench());
    let page = {
        let folders = shared.settings.folders.clone();
        blocking(&shared, move |lab| page(lab, &folders, id, on_bench)).await?
    };
    html(&page)
}

fn page(lab: &Arc<Lab>, folders: &[PathBuf], id: i64, on_bench: OnBench) -> Result<BenchPage, WebError> {
    let frame = lab.library.frame(id)?;
    let (place, total, previous, next) = lab.library.place_on_roll(id)?;
    let roll = lab.library.roll(frame.summary.roll)?;
    Ok(BenchPage {
        version: crate::assets::version(),
        roll_name: roll.name,
        others: others(lab, &frame.summary)?,
        number: format!("{place:02}"),
        total: format!("{total:02}"),
        previous,
        next,
        groups: own_groups(lab)?,
        state: state(&frame, &lab.library.pins(id)?),
        declared: inside_script(&declared::declared()),
        export_name: format!("{} {}", frame.summary.name, frame.stock.name().to_lowercase()),
        output: OutputView::new(lab, folders, Some(frame.summary.width.max(frame.summary.height)))?,
        plate: PlateView::new(&frame, false).render()?,
        prints: PrintsView::new(lab, &frame, false)?.render()?,
        undo: UndoView::new(&frame, false).render()?,
        line: lab.compute(|| LineView::new(&frame, on_bench.station(), false))?.render()?,
        bench: on_bench.render(lab, &frame, false)?,
        rail: RailView::new(lab, &frame, false)?.render()?,
        frame: frame.summary,
    })
}

/// Most other frames that a dialog shows.
const MOST_OTHERS: usize = 60;

/// Frames of the roll around one.
fn others(lab: &Lab, frame: &FrameSummary) -> Result<Vec<OtherFrame>, WebError> {
    let ids: Vec<i64> = lab.library.on_sheet(frame.roll)?.into_iter().map(|f| f.id).collect();
    let at = ids.iter().position(|id| *id == frame.id).unwrap_or(0);
    let first = at.saturating_sub(MOST_OTHERS / 2).min(ids.len().saturating_sub(MOST_OTHERS + 1));
    let near: Vec<i64> = ids.into_iter().skip(first).take(MOST_OTHERS + 1).filter(|id| *id != frame.id).collect();
    Ok(lab.library.some_frames(&near)?.iter().map(OtherFrame::new).collect())
}

/// What the page's script has to know of a frame.
fn state(frame: &Frame, pins: &[[f64; 2]]) -> String {
    let f = &frame.summary;
    let framed = amber_lab::frame_size(f, &f.development, &frame.stock);
    let json = serde_json::json!({
        "id": f.id,
        "roll": f.roll,
        "mark": f.mark.id(),
        "version": f.version(),
        "revision": f.revision,
        "width": framed.width,
        "height": framed.height,
        "original": [f.width, f.height],
        "slack": framed.slack,
        "film": framed.film,
        "corner": framed.corner,
        "mount": framed.mount,
        "values": f.development.values,
        "off": f.development.off,
        "masks": f.development.masks,
        "stock": f.development.stock.id,
        "own": declared::own(&frame.stock),
        "pins": pins,
    });
    inside_script(&json)
}
