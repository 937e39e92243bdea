//! The process line: the stations with what each does, drawn from the live values.

use amber_core::{CoreError, Station};
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

impl LineView {
    /// `swapped`: to be put in the place of the one that is there.
    pub fn new(frame: &Frame, open: Option<Station>, swapped: bool) -> Result<Self, CoreError> {
        let development = &frame.summary.development;
        let stations = Station::ALL
            .into_iter()
            .map(|station| StationView {
                number: station.number(),
                id: station.id(),
                name: station.name(),
                current: Some(station) == open,
                tuned: development.tuned_at(station),
                signature: signature::of(station, development, &frame.stock),
            })
            .collect();
        Ok(Self { frame: frame.summary.id, stations, swapped })
    }
}
