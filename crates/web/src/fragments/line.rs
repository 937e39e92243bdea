//! The process line: the stations with what each does, drawn from the live values.

use amber_core::{CoreError, Development, Station, Stock};
use amber_library::Frame;
use askama::Template;

use crate::draw::signature;

/// One station on the line.
pub struct StationView {
    pub number: usize,
    pub id: &'static str,
    pub name: &'static str,
    pub current: bool,
    pub tuned: usize,
    pub on: bool,
    /// All of it in words: "3 Film, 2 tuned, off".
    pub said: String,
    pub without: &'static str,
    /// SVG drawn from the live values.
    pub signature: String,
}

/// The process line.
#[derive(Template)]
#[template(path = "partials/line.html")]
pub struct LineView {
    frame: i64,
    stations: Vec<StationView>,
    swapped: bool,
}

impl StationView {
    fn new(station: Station, open: Option<Station>, development: &Development, stock: &Stock) -> Self {
        let (tuned, on) = (development.tuned_at(station), !development.off.contains(station.id()));
        let mut said = format!("{} {}", station.number(), station.name());
        if tuned > 0 {
            said += &format!(", {tuned} tuned");
        }
        if !on {
            said += ", off";
        }
        Self {
            number: station.number(),
            id: station.id(),
            name: station.name(),
            current: Some(station) == open,
            tuned,
            on,
            said,
            without: station.without(),
            signature: signature::of(station, development, stock),
        }
    }
}

impl LineView {
    /// `swapped`: to be put in the place of the one that is there.
    pub fn new(frame: &Frame, open: Option<Station>, swapped: bool) -> Result<Self, CoreError> {
        let view = |station| StationView::new(station, open, &frame.summary.development, &frame.stock);
        let stations = Station::ALL.into_iter().map(view).collect();
        Ok(Self { frame: frame.summary.id, stations, swapped })
    }
}
