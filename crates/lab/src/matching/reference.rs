//! The picture that another is to look like.

use amber_core::picture::reduce::Level;
use amber_core::render::{Finish, GrainShown, RenderRequest};
use amber_core::{Region, Source};
use amber_library::FrameSummary;

use amber_matching::chart::{Fields, read_patches, read_wedge};

use crate::Lab;
use crate::error::LabError;
use crate::hands::Hands;
use crate::sources::Care;
use crate::waiting::{self, Waiting};

/// What of a frame is looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ReferenceAs {
    /// The picture as it came: a scan, a photograph.
    Original,
    /// As it is developed here.
    Print,
}

/// A reference.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ReferenceOf {
    pub frame: i64,
    pub shown: ReferenceAs,
}

/// The roll in which pictures are kept that were loaded as references.
const ROLL: &str = "References";

/// Long edge at which a picture of a chart is read.
const CHART: u32 = 1600;

/// A rectangle in shares of width and height: left, upper, width, height.
pub type Patch = [f64; 4];

/// The rectangle in pixels.
pub(super) fn in_pixels(patch: Patch, width: u32, height: u32) -> Region {
    let at = |share: f64, side: u32| (share.clamp(0.0, 1.0) * f64::from(side)).round() as u32;
    let [x, y] = [at(patch[0], width), at(patch[1], height)];
    let [right, bottom] = [at(patch[0] + patch[2], width), at(patch[1] + patch[3], height)];
    Region::new(x, y, right.saturating_sub(x), bottom.saturating_sub(y))
}

impl Lab {
    /// Loads a picture as a reference; it comes onto the roll of references. Gives its frame.
    pub fn add_reference(&self, file_name: &str, bytes: &[u8]) -> Result<i64, LabError> {
        let rolls = self.library.rolls()?;
        let there = rolls.iter().find(|r| r.name == ROLL).map(|r| r.id);
        let roll = there.map_or_else(|| self.library.add_roll(ROLL, crate::now()), Ok)?;
        let added = self.import(roll, file_name, bytes);
        if added.is_err() && there.is_none() {
            self.library.remove_empty_roll(roll)?;
        }
        added
    }

    /// The frames that may be references: those of a roll, and those that were loaded for it.
    pub fn possible_references(&self, roll: i64) -> Result<Vec<FrameSummary>, LabError> {
        let rolls = self.library.rolls()?;
        let loaded = rolls.iter().filter(|r| r.name == ROLL && r.id != roll).map(|r| r.id);
        let mut frames = Vec::new();
        for roll in loaded.chain([roll]) {
            frames.extend(self.library.frames(roll)?);
        }
        Ok(frames)
    }

    /// A rectangle of a reference at full size.
    pub(super) fn reference_patch(&self, of: ReferenceOf, patch: Option<Patch>) -> Result<Source, LabError> {
        let whole = |source: &Source| patch.map_or(source.region(), |p| in_pixels(p, source.width(), source.height()));
        self.reference_at(of, Level::FULL, &whole)
    }

    /// A reference reduced.
    pub(super) fn reference_small(&self, of: ReferenceOf, long_edge: u32) -> Result<Source, LabError> {
        let frame = self.library.frame(of.frame)?.summary;
        self.reference_at(of, Level::covering(long_edge, frame.width, frame.height), &Source::region)
    }

    fn reference_at(
        &self,
        of: ReferenceOf,
        level: Level,
        region: &dyn Fn(&Source) -> Region,
    ) -> Result<Source, LabError> {
        let frame = self.library.frame(of.frame)?;
        let waiting = Waiting::here();
        let over = || waiting.is_over();
        let hands = Hands { pool: self.renderer.pool(), over: &over };
        if of.shown == ReferenceAs::Original {
            let scaled = self.sources.at(&self.library, &frame.summary, level, hands)?;
            let region = region(&scaled.source);
            let rows =
                (region.y..region.bottom()).flat_map(|y| scaled.source.row(y, region.x, region.width).into_owned());
            return Source::new(region.width, region.height, rows.collect()).ok_or(LabError::EmptyPatch);
        }
        let development = &frame.summary.development;
        let scaled = self.source_of(&frame.summary, level, development, &frame.stock, Care::Settled, hands)?;
        let region = region(&scaled.source);
        let request = RenderRequest {
            scaled: &scaled,
            stock: &frame.stock,
            development,
            region,
            grain: GrainShown::Full,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let shown = self.renderer.display_8_bit(&request, waiting::until(&over))?;
        Source::of_8_bit(region.width, region.height, shown).ok_or(LabError::EmptyPatch)
    }
}

impl Lab {
    /// Colours of the patches of a chart in a picture (CIE Lab under D50).
    pub fn patches_of(&self, frame: i64, fields: &Fields) -> Result<Vec<[f64; 3]>, LabError> {
        Ok(read_patches(&self.charted(frame)?, fields)?)
    }

    /// Densities of the steps of a wedge in a scan, by those of them that were measured.
    pub fn wedge_of(
        &self,
        frame: i64,
        fields: &Fields,
        layers: usize,
        measured: &[Option<Vec<f64>>],
    ) -> Result<Vec<Vec<f64>>, LabError> {
        Ok(read_wedge(&self.charted(frame)?, fields, layers, measured)?)
    }

    fn charted(&self, frame: i64) -> Result<Source, LabError> {
        self.reference_small(ReferenceOf { frame, shown: ReferenceAs::Original }, CHART)
    }
}
