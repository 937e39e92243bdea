//! The grain of a frame brought to the noise of a reference.

use amber_core::Development;
use amber_core::picture::reduce::{Level, size_for_long_edge};
use amber_matching::grain::{Enlarged, GrainMatch, GrainMeasure, match_grain, own_noise};

use super::reference::{Patch, ReferenceOf};
use crate::Lab;
use crate::error::LabError;
use crate::hands::Hands;
use crate::sources::Care;
use crate::waiting::Waiting;

/// Long edge at which a frame's size on its film is asked for.
const SMALL: u32 = 240;

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
        let level = Level::covering(SMALL, summary.width, summary.height);
        let waiting = Waiting::here();
        let over = || waiting.is_over();
        let hands = Hands { pool: renderer.pool(), over: &over };
        let small = self.source_of(&summary, level, development, &stock, Care::Quick, hands)?;
        let edge = long_edge.unwrap_or(u32::MAX);
        let (width, _) = size_for_long_edge(edge, small.full_width, small.full_height);
        let scale = f64::from(width) / f64::from(small.full_width);
        let own = own_noise(small.facts.noise(), scale, &stock, development)?;
        let enlarged = Enlarged { film: small.film, scale };
        waiting.check()?;
        Ok(match_grain(renderer, &stock, development, enlarged, &aim, own.as_ref())?)
    }
}
