//! All that was changed, each value under its station.

use amber_core::controls::Control;
use amber_core::stations;
use amber_core::{Development, Station};
use amber_library::Frame;
use askama::Template;

use crate::draw::control::ControlView;

/// Tuned values that are not the one picture's.
pub fn kept_in_a_stock(frame: &Frame) -> usize {
    let ids = frame.summary.development.values.keys();
    ids.filter(|id| stations::find(id).is_ok_and(|c| !c.picture_specific)).count()
}

/// The tuned values of one station.
pub struct ChangedAt {
    pub number: usize,
    pub name: &'static str,
    pub controls: Vec<ControlView>,
}

/// The tuned controls of a station in the order of the bench; members of lists come last.
fn tuned_at(development: &Development, station: Station) -> Vec<&'static Control> {
    let ids = development.values.keys().map(String::as_str).collect();
    stations::in_order(&ids).filter(|c| c.station == station).collect()
}

/// Everything that was tuned, each value under its station.
#[derive(Template)]
#[template(path = "partials/changes.html")]
pub struct ChangesView {
    pub(super) stations: Vec<ChangedAt>,
    pub(super) tuned: usize,
    pub(super) keepable: usize,
    /// What is switched off, in words; empty for nothing.
    off: String,
    stock: String,
    swapped: bool,
}

impl ChangesView {
    pub fn new(frame: &Frame, swapped: bool) -> Self {
        let development = &frame.summary.development;
        let values = development.written(&frame.stock);
        let in_force = development.values(&frame.stock);
        let view = |c| ControlView { off: in_force.is_off(c), ..ControlView::alone(c, &values) };
        let stations = Station::ALL
            .into_iter()
            .map(|station| ChangedAt {
                number: station.number(),
                name: station.name(),
                controls: tuned_at(development, station).into_iter().map(view).collect(),
            })
            .collect();
        let (tuned, keepable) = (development.values.len(), kept_in_a_stock(frame));
        let off = development.off.iter().map(|id| stations::lamp_label(id)).collect::<Vec<_>>().join(", ");
        Self { stations, tuned, keepable, off, stock: frame.stock.name(), swapped }
    }
}
