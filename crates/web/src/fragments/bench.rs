//! The process line, the bench under it, the stock plate, the readings.

use actix_web::{HttpResponse, get, web};
use amber_core::Station;
use amber_core::controls;
use amber_core::{Catalogue, CoreError};
use amber_lab::FilmReading;
use amber_library::Frame;
use askama::Template;

use crate::draw::{chart, control::ControlView, signature};
use crate::error::WebError;
use crate::pages::bench::Open;
use crate::{Shared, blocking};

/// One station on the line.
pub struct StationView {
    pub number: usize,
    pub id: &'static str,
    pub name: &'static str,
    pub built: bool,
    pub current: bool,
    pub tuned: usize,
    /// SVG drawn from the live values.
    pub signature: String,
}

/// The process line.
#[derive(Template)]
#[template(path = "line.html")]
pub struct LineView {
    frame: i64,
    stations: Vec<StationView>,
    swapped: bool,
}

impl LineView {
    /// `swapped`: to be put in the place of the one that is there.
    pub fn new(frame: &Frame, open: Station, swapped: bool) -> Result<Self, CoreError> {
        let development = &frame.summary.development;
        let stations = Station::ALL
            .into_iter()
            .map(|station| StationView {
                number: station.number(),
                id: station.id(),
                name: station.name(),
                built: controls::is_built(station),
                current: station == open,
                tuned: development.tuned_at(station),
                signature: signature::of(station, development, &frame.stock),
            })
            .collect();
        Ok(Self { frame: frame.summary.id, stations, swapped })
    }
}

/// A stock to be chosen.
pub struct StockTile {
    pub id: String,
    pub name: String,
    pub kind: &'static str,
    pub speed: String,
    pub chosen: bool,
}

/// One column of the bench.
pub struct Group {
    pub name: &'static str,
    pub controls: Vec<ControlView>,
}

/// The open station's controls.
#[derive(Template)]
#[template(path = "station.html")]
pub struct BenchView {
    frame: i64,
    revision: i64,
    station: &'static str,
    name: &'static str,
    upright: bool,
    stocks: Vec<StockTile>,
    groups: Vec<Group>,
    note: String,
    swapped: bool,
}

impl BenchView {
    pub fn new(frame: &Frame, station: Station, swapped: bool) -> Result<Self, CoreError> {
        let values = frame.summary.development.values(&frame.stock);
        let mut groups: Vec<Group> = Vec::new();
        for control in controls::all().filter(|c| c.station == station && (c.applies)(&frame.stock)) {
            let view = ControlView::new(control, &values);
            match groups.iter_mut().find(|g| g.name == control.group) {
                Some(group) => group.controls.push(view),
                None => groups.push(Group { name: control.group, controls: vec![view] }),
            }
        }
        let note = match station {
            Station::Print if groups.is_empty() => {
                "A slide is the picture itself: it is looked at, not printed. What remains is its exposure, in Scene."
            }
            _ => "",
        };
        let stocks = if station == Station::Film { tiles(frame) } else { Vec::new() };
        Ok(Self {
            frame: frame.summary.id,
            revision: frame.summary.revision,
            station: station.id(),
            name: station.name(),
            upright: frame.summary.height > frame.summary.width,
            stocks,
            groups,
            note: note.into(),
            swapped,
        })
    }
}

fn tiles(frame: &Frame) -> Vec<StockTile> {
    let tile = |stock: &std::sync::Arc<amber_core::Stock>| StockTile {
        id: stock.id.clone(),
        name: stock.name(),
        kind: stock.kind.words(),
        speed: format!("ISO {}", stock.iso),
        chosen: stock.id == frame.stock.id,
    };
    Catalogue::all().iter().map(tile).collect()
}

/// The stock in force, in the bar.
#[derive(Template)]
#[template(path = "plate.html")]
pub struct PlateView {
    frame: i64,
    name: String,
    kind: &'static str,
    tuned: usize,
    swapped: bool,
}

impl PlateView {
    pub fn new(frame: &Frame, swapped: bool) -> Self {
        Self {
            frame: frame.summary.id,
            name: frame.stock.name(),
            kind: frame.stock.kind.words(),
            tuned: frame.summary.development.values.len(),
            swapped,
        }
    }
}

/// Undo and redo, in the bar.
#[derive(Template)]
#[template(path = "undo.html")]
pub struct UndoView {
    undo: Option<String>,
    redo: Option<String>,
    swapped: bool,
}

impl UndoView {
    pub fn new(frame: &Frame, swapped: bool) -> Self {
        Self { undo: frame.undo.clone(), redo: frame.redo.clone(), swapped }
    }
}

/// One zone of the readings.
pub struct ZoneView {
    pub name: &'static str,
    /// Height in an SVG of 34.
    pub y: String,
    pub height: String,
    pub grey: String,
    pub x: usize,
    pub share: String,
}

/// The readings at the right.
#[derive(Template)]
#[template(path = "rail.html")]
pub struct RailView {
    chart: String,
    zones: Vec<ZoneView>,
    swapped: bool,
}

const ZONES: [&str; 11] = ["0", "I", "II", "III", "IV", "V", "VI", "VII", "VIII", "IX", "X"];

impl RailView {
    pub fn new(reading: &FilmReading, swapped: bool) -> Self {
        let most = reading.zones.iter().copied().fold(1e-9, f64::max);
        let zones = ZONES
            .iter()
            .zip(reading.zones)
            .enumerate()
            .map(|(i, (name, share))| {
                let height = 34.0 * (share / most).sqrt();
                let grey = 8 + i * 238 / 10;
                ZoneView {
                    name,
                    y: format!("{:.1}", 34.0 - height),
                    height: format!("{:.1}", height.max(0.5)),
                    grey: format!("rgb({grey},{grey},{grey})"),
                    x: i * 18 + 1,
                    share: format!("{:.0} %", 100.0 * share),
                }
            })
            .collect();
        Self { chart: chart::film(reading), zones, swapped }
    }
}

/// Opens a station: the line and the bench anew.
#[get("/frames/{id}/bench")]
pub async fn open_station(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<Open>,
) -> Result<HttpResponse, WebError> {
    let (id, station) = (id.into_inner(), asked.station());
    let parts = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let line = LineView::new(&frame, station, true)?.render()?;
        Ok(BenchView::new(&frame, station, true)?.render()? + &line)
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(parts))
}
