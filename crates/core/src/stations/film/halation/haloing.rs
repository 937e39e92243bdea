//! Halation with the spread light of its frame.

use std::sync::Arc;

use super::super::settings::HalationSettings;
use super::{Glow, Halation};
use crate::effect::{Effect, FilmFrame};
use crate::error::CoreError;
use crate::key::{Key, key};
use crate::memory::Memory;
use crate::picture::buffer::LayerExposure;
use crate::picture::{Picture, Region, Source};
use crate::prepare::{Kept, Prepare};
use crate::stock::Stock;

impl Kept for Glow {
    fn bytes(&self) -> usize {
        self.planes_bytes()
    }

    fn share(memory: &Memory) -> usize {
        memory.glows
    }
}

/// Prepared for a frame.
pub struct Haloing {
    halation: Halation,
    glow: Arc<Glow>,
    settings: HalationSettings,
}

impl Haloing {
    /// `expose` gives the exposures that come to it, of a rectangle of a (reduced) source; `exposed` names them.
    pub fn prepared(
        stock: &Stock,
        settings: &HalationSettings,
        pitch_um: f64,
        exposed: Key,
        expose: &(impl Fn(&Source, Region) -> Picture<LayerExposure> + Sync),
        prepare: &Prepare,
    ) -> Result<Option<Self>, CoreError> {
        let Some(halation) = Halation::new(stock, settings) else { return Ok(None) };
        let glow_key = key(&[&"glow", &exposed, &pitch_um, &halation.key()]);
        let glow = prepare.kept(glow_key, || Ok(Glow::new(&halation, prepare.source, pitch_um, expose)))?;
        Ok(Some(Self { halation, glow, settings: settings.clone() }))
    }

    /// With spread light made beforehand.
    pub fn with(halation: Halation, settings: &HalationSettings, glow: Glow) -> Self {
        Self { halation, glow: Arc::new(glow), settings: settings.clone() }
    }

    /// Light that the layers get back, by layer (empty where a layer gets none).
    pub fn returned(&self, source: &Source, exposure: &Picture<LayerExposure>) -> Vec<Vec<f32>> {
        self.halation.returned(&self.glow, source, exposure)
    }
}

impl Effect<LayerExposure> for Haloing {
    fn key(&self) -> Key {
        key(&[&"halation", &self.settings, &self.halation.key()])
    }

    fn apply(&self, frame: &FilmFrame, mut exposure: Picture<LayerExposure>, _part: Region) -> Picture<LayerExposure> {
        for (layer, light) in self.returned(frame.source, &exposure).iter().enumerate() {
            exposure.plane_mut(layer).iter_mut().zip(light).for_each(|(e, k)| *e += k);
        }
        exposure
    }
}
