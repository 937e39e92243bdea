//! The grain of a frame brought to the noise of a reference.

use amber_core::Development;
use amber_core::picture::reduce::{Level, size_for_long_edge};
use amber_matching::grain::{Enlarged, GrainMatch, GrainMeasure, match_grain, own_noise};

use super::reference::{Patch, ReferenceOf};
use crate::Lab;
use crate::error::LabError;
use crate::hands::Hands;
use crate::sources::Care;
use crate::waiting::{self, Waiting};

impl Lab {
    /// The grain by which a frame's print shows the noise of a patch of a reference; `long_edge` is that of the export
    /// in whose pixels both are compared, full size where it is absent. Nothing is kept.
    pub fn match_grain(
        &self,
        frame: i64,
        development: &Development,
        of: ReferenceOf,
        patch: Option<Patch>,
        long_edge: Option<u32>,
    ) -> Result<GrainMatch, LabError> {
        let reference = self.reference_patch(of, patch)?;
        let renderer = &self.renderer;
        let aim = self.compute(|| GrainMeasure::of(&reference, reference.region()))?;
        let stock = self.library.stock_of(development)?;
        let summary = self.library.frame(frame)?.summary;
        let waiting = Waiting::here();
        let over = || waiting.is_over();
        let hands = Hands { pool: renderer.pool(), over: &over };
        let full = self.source_of(&summary, Level::FULL, development, &stock, Care::Settled, hands)?;
        let edge = long_edge.unwrap_or(u32::MAX);
        let (width, height) = size_for_long_edge(edge, full.full_width, full.full_height);
        let exported = if width == full.full_width { full } else { self.compute(|| full.reduced(width, height)) };
        let own = own_noise(renderer, &exported, &stock, development, None, waiting::until(&over))?;
        let enlarged = Enlarged { film: exported.film, scale: f64::from(width) / f64::from(exported.full_width) };
        waiting.check()?;
        Ok(match_grain(renderer, &stock, development, enlarged, &aim, own.as_ref())?)
    }
}
