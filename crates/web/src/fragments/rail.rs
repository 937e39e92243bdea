//! The readings at the right.

use amber_lab::Lab;
use amber_library::Frame;
use askama::Template;

use crate::draw::chart;
use crate::draw::exposures::ZONE_NAMES;
use crate::error::WebError;

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
#[template(path = "partials/rail.html")]
pub struct RailView {
    chart: String,
    single: bool,
    zones: Vec<ZoneView>,
    tones: String,
    blown: String,
    blocked: String,
    banding: String,
    swapped: bool,
}

impl RailView {
    pub fn new(lab: &Lab, frame: &Frame, swapped: bool) -> Result<Self, WebError> {
        let readings = lab.kept_readings(frame)?;
        let (reading, print) = &*readings;
        let most = reading.zones.iter().copied().fold(1e-9, f64::max);
        let zones = ZONE_NAMES
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
        let values = frame.summary.development.values(&frame.stock);
        let percent = |share: f64| format!("{:.1} %", 100.0 * share);
        Ok(Self {
            chart: chart::film(reading, &values),
            single: reading.layers.len() == 1,
            zones,
            tones: chart::tones(&print.lightness),
            blown: percent(print.blown),
            blocked: percent(print.blocked),
            banding: percent(print.banding),
            swapped,
        })
    }
}
