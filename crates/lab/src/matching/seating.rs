//! Frames seated on their stocks.

use amber_core::Development;
use amber_matching::seat::{Asked, Mark, PrintSize, Seating, seat};

use crate::Lab;
use crate::error::LabError;

/// Long edge at which a frame is looked at.
const LONG_EDGE: u32 = 480;

impl Lab {
    /// What seats a frame on its stock; nothing is kept.
    pub fn seat(
        &self,
        frame: i64,
        development: &Development,
        marks: &[Mark],
        find_face: bool,
        print: Option<PrintSize>,
    ) -> Result<Seating, LabError> {
        let stock = self.library.stock_of(development)?;
        let small = self.measured_at(frame, development, &stock, LONG_EDGE)?;
        let asked = Asked { small: &small.source, development, stock: &stock, marks, find_face, print };
        Ok(self.compute(|| seat(&asked))?)
    }
}
