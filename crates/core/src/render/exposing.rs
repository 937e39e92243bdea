//! The light that reaches the film: composed here, once, for tiles, for the planes of spread light, and for effects
//! alone.

use std::sync::Arc;

use crate::error::CoreError;
use crate::key::{Key, key};
use crate::mask::PreparedUse;
use crate::memory::Memory;
use crate::picture::buffer::LayerExposure;
use crate::picture::{Picture, Region, Source};
use crate::prepare::{Kept, Prepare};
use crate::stations::film::{FilmResponse, FilmSettings};
use crate::stations::lens::bloom::Blooming;
use crate::stations::lens::{self, LensSettings, Light};
use crate::stations::scene::{SceneSettings, SceneStage};
use crate::stations::surface::camera::InCamera;
use crate::stations::surface::sheet::Sheets;

/// Scene and Lens in front of a film.
pub(super) struct Exposing {
    pub light: Arc<Light>,
    /// One of its effects, to be shown alone too.
    pub bloom: Option<Arc<Blooming>>,
    pub film: Arc<FilmResponse>,
    /// Where the sensitivity by hue is changed.
    hue_place: Option<PreparedUse>,
    /// The factor by which Scene's exposure multiplied the light.
    exposure_gain: f32,
    /// Sheets in the camera.
    camera: Option<InCamera>,
    /// Of a small picture in motion, the exposure of the whole.
    held: Option<(Arc<Source>, Arc<Picture<LayerExposure>>)>,
}

/// Rows of a held exposure that are made together.
const STRIP: u32 = 32;

impl Kept for Picture<LayerExposure> {
    fn bytes(&self) -> usize {
        Picture::bytes(self)
    }

    fn share(memory: &Memory) -> usize {
        memory.exposures
    }
}

impl Exposing {
    pub fn prepared(
        scene: &SceneSettings,
        optics: &LensSettings,
        settings: &FilmSettings,
        film: Arc<FilmResponse>,
        camera: Sheets,
        prepare: &Prepare,
    ) -> Result<Self, CoreError> {
        let frame = prepare.geometry(settings.gate);
        let scene_key = key(&[&"scene", &prepare.content, scene]);
        let stage = SceneStage::prepared(scene, prepare)?;
        let mut light = Light::new(stage, scene_key, frame.pitch_um * f64::from(frame.width));
        let bloom = lens::join(&mut light, optics, prepare)?;
        Ok(Self {
            light: Arc::new(light),
            bloom,
            camera: InCamera::new(camera, prepare.stock),
            film,
            hue_place: prepare.place(&settings.hue_place),
            exposure_gain: 2f64.powf(scene.exposure_stops) as f32,
            held: None,
        })
    }

    /// Of a small picture in motion, the exposure of the whole is made here, once, for halation and the tiles; `lit`
    /// names it.
    pub fn hold(&mut self, lit: Key, prepare: &Prepare) -> Result<(), CoreError> {
        if prepare.is_small_in_motion() {
            let source = prepare.source;
            let make = || Ok(Picture::by_strips(source.region(), STRIP, |strip| self.over(source, strip)));
            let whole = prepare.kept(key(&[&"exposed", &lit]), make)?;
            self.held = Some((source.clone(), whole));
        }
        Ok(())
    }

    /// Names the exposures.
    pub fn key(&self, settings: &FilmSettings, prepare: &Prepare) -> Key {
        key(&[
            &"lit",
            &self.light.key(),
            &prepare.size(),
            &settings.gate,
            &self.film.exposing_key(),
            &self.hue_place,
            &self.camera.as_ref().map(InCamera::key),
            &prepare.keeping.rough,
        ])
    }

    /// Exposure of the layers before effects of the film.
    pub fn over(&self, source: &Source, region: Region) -> Picture<LayerExposure> {
        if let Some((_, whole)) = self.held.as_ref().filter(|(held, _)| std::ptr::eq(source, held.as_ref())) {
            return whole.cut(region);
        }
        let place = self.hue_place.as_ref().map(|mask| mask.over(source, region));
        let light = self.light.over(source, region);
        let mut exposure = self.film.expose_where(light, self.exposure_gain, place.as_deref());
        if let Some(camera) = &self.camera {
            camera.expose(&self.light.frame(source), &mut exposure);
        }
        exposure
    }
}
