//! The light that reaches the film: composed here, once, for tiles, for the planes of spread light, and for effects
//! alone.

use std::sync::Arc;

use crate::mask::PreparedUse;
use crate::picture::buffer::{LayerExposure, SceneLight};
use crate::picture::{Picture, Region, Source};
use crate::stations::film::FilmResponse;
use crate::stations::film::halation::{Glow, Halation};
use crate::stations::lens::LensStage;

/// Scene and Lens in front of a film.
pub(super) struct Exposing {
    pub lens: LensStage,
    pub film: Arc<FilmResponse>,
    /// Where the sensitivity by hue is changed.
    pub hue_place: Option<PreparedUse>,
    /// The factor by which Scene's exposure multiplied the light.
    pub exposure_gain: f32,
}

impl Exposing {
    /// Scene light of a rectangle of a source.
    pub fn light(&self, source: &Source, region: Region) -> Picture<SceneLight> {
        self.lens.light(source, region)
    }

    /// Exposure of the layers without halation.
    pub fn direct(&self, source: &Source, region: Region) -> Picture<LayerExposure> {
        let place = self.hue_place.as_ref().map(|mask| mask.over(source, region));
        self.film.expose_where(self.light(source, region), self.exposure_gain, place.as_deref())
    }

    /// Exposure of the layers, halation included.
    pub fn whole(
        &self,
        halation: &Option<(Halation, Arc<Glow>)>,
        source: &Source,
        region: Region,
    ) -> Picture<LayerExposure> {
        let mut exposure = self.direct(source, region);
        if let Some((halation, glow)) = halation {
            halation.apply(glow, source, &mut exposure);
        }
        exposure
    }
}
