//! The Scene station applied to a rectangle of the source.

use std::sync::Arc;

use super::air::{Air, AirFacts};
use super::colour::SceneColour;
use super::curve::SceneCurve;
use super::decoding::Decoding;
use super::light::PlainLight;
use super::local::{Applied, LocalSettings, Locals};
use super::settings::{SceneSettings, StructureSettings};
use super::structure::{Bases, Structure, Surroundings, raised};
use super::tone_balance::ToneBalance;
use crate::error::CoreError;
use crate::key::key;
use crate::mask::MaskUse;
use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region, Source};
use crate::prepare::Prepare;
use crate::stock::Stock;

/// Scene, prepared from its settings and what was measured on the picture. What is neutral is not there.
#[derive(Debug, Clone)]
pub struct SceneStage {
    plain: PlainLight,
    exposure_stops: f64,
    air: f64,
    air_facts: Option<Arc<AirFacts>>,
    structure: Option<Structure>,
    bases: Option<Arc<Bases>>,
    curve: Option<SceneCurve>,
    balance: Option<ToneBalance>,
    colour: Option<SceneColour>,
    locals: Locals,
}

/// What was measured on a picture for Scene, where it is needed.
#[derive(Debug, Clone, Default)]
pub struct Measured {
    /// Its air.
    pub air: Option<Arc<AirFacts>>,
    /// Tones of surroundings.
    pub bases: Option<Arc<Bases>>,
}

/// Whether the picture's air must be known.
pub fn needs_air(settings: &SceneSettings) -> bool {
    settings.air != 0.0 || settings.locals.iter().any(|l| l.air != 0.0)
}

/// Whether the picture's bases must be known.
pub fn needs_bases(settings: &SceneSettings) -> bool {
    let none = StructureSettings::default();
    settings.structure != none || settings.locals.iter().any(|l| l.structure() != none)
}

/// The settings on which the picture's air rests.
pub fn of_the_air(settings: &SceneSettings, own: SceneSettings) -> SceneSettings {
    SceneSettings {
        headroom_stops: settings.headroom_stops,
        rendering_exponent: settings.rendering_exponent,
        temperature_kelvin: settings.temperature_kelvin,
        tint_cc: settings.tint_cc,
        exposure_stops: 0.0,
        ..own
    }
}

/// The settings on which the picture's bases rest.
pub fn of_the_bases(settings: &SceneSettings, own: SceneSettings) -> SceneSettings {
    let locals = settings.locals.iter().filter_map(LocalSettings::of_the_air).collect();
    SceneSettings { air: settings.air, locals, ..of_the_air(settings, own) }
}

impl SceneStage {
    /// `locals` are the settings' local adjustments with their masks.
    pub fn new(settings: &SceneSettings, measured: Measured, locals: Locals) -> Self {
        let plain = PlainLight::new(settings);
        Self {
            exposure_stops: settings.exposure_stops,
            air: settings.air,
            air_facts: measured.air,
            structure: Structure::new(&settings.structure, settings.exposure_stops),
            bases: measured.bases,
            curve: SceneCurve::new(&settings.curves, &plain.decoding()),
            balance: ToneBalance::new(&settings.balance_cc),
            colour: SceneColour::new(&settings.colour),
            locals,
            plain,
        }
    }

    /// With what was measured on the picture, which is kept: it does not depend on exposure, nor on what acts after it.
    pub fn prepared(settings: &SceneSettings, prepare: &Prepare) -> Result<Self, CoreError> {
        let own = || SceneSettings::own(prepare.stock);
        let locals = |settings: &SceneSettings| {
            Locals::new(&settings.locals, settings.exposure_stops, &|place: &MaskUse| prepare.mask(place))
        };
        let light = |settings: &SceneSettings, measured: Measured| {
            let small = prepare.small();
            Self::new(settings, measured, locals(settings)).light(small, small.region())
        };
        let mut measured = Measured::default();
        if needs_air(settings) {
            let of_it = of_the_air(settings, own());
            let air_key = key(&[&"air", &prepare.content, &of_it]);
            measured.air = Some(prepare.kept(air_key, || Ok(AirFacts::of(&light(&of_it, Measured::default()))))?);
        }
        if needs_bases(settings) {
            let of_them = of_the_bases(settings, own());
            let known = measured.clone();
            let bases_key = key(&[&"bases", &prepare.content, &of_them]);
            measured.bases = Some(prepare.kept(bases_key, || Ok(Bases::of(&light(&of_them, known))))?);
        }
        Ok(Self::new(settings, measured, locals(settings)))
    }

    /// What needs no measuring and no mask.
    pub fn unmeasured(settings: &SceneSettings) -> Self {
        Self::new(settings, Measured::default(), Locals::default())
    }

    /// Measures the small picture and prepares, without local adjustments.
    pub fn measured(settings: &SceneSettings, stock: &Stock, small: &Source) -> Self {
        let settings = SceneSettings { locals: Vec::new(), ..settings.clone() };
        let own = || SceneSettings::own(stock);
        let light = |settings: &SceneSettings, measured: Measured| {
            Self::new(settings, measured, Locals::default()).light(small, small.region())
        };
        let mut measured = Measured::default();
        if needs_air(&settings) {
            measured.air = Some(Arc::new(AirFacts::of(&light(&of_the_air(&settings, own()), Measured::default()))));
        }
        if needs_bases(&settings) {
            measured.bases = Some(Arc::new(Bases::of(&light(&of_the_bases(&settings, own()), measured.clone()))));
        }
        Self::new(&settings, measured, Locals::default())
    }

    /// How the camera's rendering is taken back.
    pub fn decoding(&self) -> Decoding {
        self.plain.decoding()
    }

    /// By how many stops the light was exposed.
    pub fn exposure_stops(&self) -> f64 {
        self.exposure_stops
    }

    /// The local adjustments.
    pub fn locals(&self) -> &Locals {
        &self.locals
    }

    /// Scene light of a rectangle of the source, which must lie inside.
    pub fn light(&self, source: &Source, region: Region) -> Picture<SceneLight> {
        let frame = [source.width(), source.height()];
        let local = self.locals.over(source, region);
        let mut light = self.plain.light(source, region);
        if let Some(facts) = &self.air_facts {
            match (local.air(self.air), Air::new(self.air, self.exposure_stops)) {
                (Some(each), _) => {
                    Air::apply_each(facts, &each, self.exposure_stops as f32, frame, &mut light);
                }
                (None, Some(air)) => air.apply(facts, frame, &mut light),
                (None, None) => {}
            }
        }
        self.surroundings(&local, frame, &mut light);
        local.light(&mut light);
        if let Some(curve) = &self.curve {
            curve.apply(&mut light);
        }
        if let Some(balance) = &self.balance {
            balance.apply(&mut light);
        }
        if let Some(colour) = &self.colour {
            colour.apply(&mut light);
        }
        local.colour(&mut light);
        light
    }

    /// Zone placement, local contrast and detail, of the whole and local ones.
    fn surroundings(&self, local: &Applied, frame: [u32; 2], light: &mut Picture<SceneLight>) {
        let Some(bases) = &self.bases else { return };
        if self.structure.is_none() && local.structures().next().is_none() {
            return;
        }
        let around = Surroundings::of(light, bases, frame, self.exposure_stops as f32);
        let mut stops = match &self.structure {
            Some(structure) => structure.stops(&around),
            None => vec![0.0; light.region.pixels()],
        };
        for (structure, mask) in local.structures() {
            let more = structure.stops(&around);
            stops.iter_mut().zip(&more).zip(mask).for_each(|((s, v), m)| *s += m * v);
        }
        raised(light, &stops);
    }
}
