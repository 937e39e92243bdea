//! The bar: the stock in force, undo and redo.

use amber_library::Frame;
use askama::Template;

/// The stock in force, in the bar.
#[derive(Template)]
#[template(path = "partials/plate.html")]
pub struct PlateView {
    frame: i64,
    name: String,
    kind: &'static str,
    tuned: usize,
    off: usize,
    swapped: bool,
}

impl PlateView {
    pub fn new(frame: &Frame, swapped: bool) -> Self {
        Self {
            frame: frame.summary.id,
            name: frame.stock.name(),
            kind: frame.stock.kind.words(),
            tuned: frame.summary.development.values.len(),
            off: frame.summary.development.off.len(),
            swapped,
        }
    }
}

/// Undo and redo, in the bar.
#[derive(Template)]
#[template(path = "partials/undo.html")]
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
