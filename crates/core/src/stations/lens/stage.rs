//! The Lens station applied to a rectangle of the source.

use std::sync::Arc;

use super::bloom::{Bloom, BloomGlow};
use super::falloff::Falloff;
use super::flash::Flash;
use super::fringes::Fringes;
use super::settings::LensSettings;
use super::shake::Shake;
use super::softness::{SoftPlaces, SoftPlanes, Softness};
use crate::mask::PreparedUse;
use crate::picture::buffer::SceneLight;
use crate::picture::{FilmGeometry, Picture, Region, Source};
use crate::stations::scene::SceneStage;

/// Scene and Lens, prepared for frames that fill a gate. What is neutral is not there.
#[derive(Debug, Clone)]
pub struct LensStage {
    scene: SceneStage,
    settings: LensSettings,
    masks: LensMasks,
    /// Width on the film of the frame, in um.
    width_um: f64,
    flash: Option<Flash>,
    bloom: Option<(Bloom, Arc<BloomGlow>)>,
    falloff: Option<Falloff>,
    /// Softness with its wide blurs.
    soft: Option<(Softness, Arc<SoftPlanes>)>,
}

/// The masks of the settings' places, prepared.
#[derive(Debug, Clone, Default)]
pub struct LensMasks {
    pub softness: Option<PreparedUse>,
    pub shake: Option<PreparedUse>,
    pub bloom: Option<PreparedUse>,
}

/// What looks beyond its pixel, for a frame of one scale.
struct Optics {
    geometry: FilmGeometry,
    fringes: Option<Fringes>,
    shake: Option<Shake>,
}

impl LensStage {
    /// Without what has to be made for the whole frame: see [`LensStage::bloomed`] and [`LensStage::softened`].
    pub fn new(settings: &LensSettings, masks: LensMasks, scene: SceneStage, frame: FilmGeometry) -> Self {
        Self {
            scene,
            settings: settings.clone(),
            masks,
            width_um: frame.pitch_um * f64::from(frame.width),
            flash: Flash::new(&settings.flash),
            bloom: None,
            falloff: Falloff::new(&settings.falloff),
            soft: None,
        }
    }

    pub fn scene(&self) -> &SceneStage {
        &self.scene
    }

    /// The bloom that is asked for.
    pub fn bloom(&self) -> Option<Bloom> {
        Bloom::new(&self.settings.bloom)
    }

    /// With the glow of a small picture.
    pub fn bloomed(self, bloom: Bloom, glow: Arc<BloomGlow>) -> Self {
        Self { bloom: Some((bloom, glow)), ..self }
    }

    /// The glow of the small picture.
    pub fn glow(&self, bloom: &Bloom, small: &Source) -> BloomGlow {
        let region = small.region();
        let glowing = |source: &Source| bloom.glowing(&self.lit(source, region));
        let mut all = glowing(small);
        if !small.peaks().is_empty() {
            // small lamps are weighed for themselves: each pixel that holds one is its bright part and the rest
            let (bright, rest) = (glowing(&small.of_peaks(true)), glowing(&small.of_peaks(false)));
            for p in small.peaks() {
                let at = p.index as usize;
                for k in 0..3 {
                    all.plane_mut(k)[at] = p.share * bright.plane(k)[at] + (1.0 - p.share) * rest.plane(k)[at];
                }
            }
        }
        bloom.glow(&all)
    }

    /// The light that bloom lays over a region, alone; `None` where there is no bloom.
    pub fn bloom_alone(&self, source: &Source, region: Region) -> Option<Picture<SceneLight>> {
        let (bloom, glow) = self.bloom.as_ref()?;
        let mut laid = bloom.alone(glow, [source.width(), source.height()], region);
        if let Some(mask) = self.masks.bloom.as_ref().map(|mask| mask.over(source, region)) {
            for index in 0..3 {
                laid.plane_mut(index).iter_mut().zip(&mask).for_each(|(v, m)| *v *= m);
            }
        }
        Some(laid)
    }

    /// A frame on the film.
    fn geometry(&self, frame: &Source) -> FilmGeometry {
        let pitch_um = self.width_um / f64::from(frame.width());
        FilmGeometry { pitch_um, width: frame.width(), height: frame.height() }
    }

    /// Softness for a frame, where it is asked for.
    pub fn softness(&self, frame: &Source) -> Option<Softness> {
        let places = SoftPlaces { lens: self.masks.softness.clone(), local: self.scene.locals().softness() };
        Softness::new(&self.settings.softness, places, self.geometry(frame).pitch_um)
    }

    /// The wide blurs of a frame.
    pub fn soft_planes(&self, softness: &Softness, frame: &Source) -> SoftPlanes {
        softness
            .planes(frame, self.geometry(frame).pitch_um, &|source: &Source, region: Region| self.lit(source, region))
    }

    /// With the wide blurs of a frame.
    pub fn softened(self, softness: Softness, planes: Arc<SoftPlanes>) -> Self {
        Self { soft: Some((softness, planes)), ..self }
    }

    /// Light before the optics: scene, flash, bloom.
    fn lit(&self, source: &Source, region: Region) -> Picture<SceneLight> {
        let frame = [source.width(), source.height()];
        let mut light = self.scene.light(source, region);
        if let Some(flash) = &self.flash {
            flash.apply(frame, &mut light);
        }
        if let Some((bloom, glow)) = &self.bloom {
            let place = self.masks.bloom.as_ref().map(|mask| mask.over(source, region));
            bloom.apply(glow, frame, place.as_deref(), &mut light);
        }
        light
    }

    /// Light at the film over a rectangle of a source, which must lie inside.
    pub fn light(&self, source: &Source, region: Region) -> Picture<SceneLight> {
        let frame = [source.width(), source.height()];
        let geometry = self.geometry(source);
        let optics = Optics {
            fringes: Fringes::new(&self.settings.fringes, geometry.pitch_um, frame),
            shake: Shake::new(&self.settings.shake, geometry.pitch_um),
            geometry,
        };
        let mut light = self.seen(&optics, source, region);
        if let Some(falloff) = &self.falloff {
            falloff.apply(frame, &mut light);
        }
        light
    }

    /// Through the optics: each asks the one before for as much more as it reaches.
    fn seen(&self, optics: &Optics, source: &Source, region: Region) -> Picture<SceneLight> {
        let whole = source.region();
        let drawn = |region: Region| -> Picture<SceneLight> {
            match &self.soft {
                Some((softness, planes)) => {
                    let reach = softness.reach(optics.geometry.pitch_um);
                    softness.apply(
                        planes,
                        source,
                        optics.geometry,
                        &self.lit(source, region.grown(reach, &whole)),
                        region,
                    )
                }
                None => self.lit(source, region),
            }
        };
        let fringed = |region: Region| match &optics.fringes {
            Some(fringes) => fringes.apply(&drawn(region.grown(fringes.reach(), &whole)), region),
            None => drawn(region),
        };
        match &optics.shake {
            Some(shake) => {
                let still = fringed(region.grown(shake.reach(), &whole));
                let shaken = shake.apply(&still, region);
                let Some(mask) = &self.masks.shake else { return shaken };
                let mut held = still.cut(region);
                held.mix(&shaken, &mask.over(source, region));
                held
            }
            None => fringed(region),
        }
    }
}
