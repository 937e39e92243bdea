//! The Scene station applied to a rectangle of the source.

use std::sync::Arc;

use super::air::{Air, AirFacts};
use super::colour::SceneColour;
use super::curve::SceneCurve;
use super::decoding::Decoding;
use super::light::PlainLight;
use super::settings::{SceneSettings, StructureSettings};
use super::structure::{Bases, Structure};
use super::tone_balance::ToneBalance;
use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region, Source};
use crate::stock::Stock;

/// Scene, prepared from its settings and what was measured on the picture. What is neutral is not there.
#[derive(Debug, Clone)]
pub struct SceneStage {
    plain: PlainLight,
    air: Option<(Air, Arc<AirFacts>)>,
    structure: Option<(Structure, Arc<Bases>)>,
    curve: Option<SceneCurve>,
    balance: Option<ToneBalance>,
    colour: Option<SceneColour>,
}

/// Whether the picture's air must be known.
pub fn needs_air(settings: &SceneSettings) -> bool {
    settings.air != 0.0
}

/// Whether the picture's bases must be known.
pub fn needs_bases(settings: &SceneSettings) -> bool {
    settings.structure != StructureSettings::default()
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
    SceneSettings { air: settings.air, ..of_the_air(settings, own) }
}

/// Light of the small picture with its air as set, at no exposure.
pub fn unexposed(settings: &SceneSettings, air: Option<Arc<AirFacts>>, small: &Source) -> Picture<SceneLight> {
    let mut light = PlainLight::new(settings).light(small, small.region());
    if let Some((air, facts)) = Air::new(settings.air, 0.0).zip(air) {
        air.apply(&facts, [small.width(), small.height()], &mut light);
    }
    light
}

impl SceneStage {
    /// `air` and `bases` as measured on the picture, where they are needed.
    pub fn new(settings: &SceneSettings, air: Option<Arc<AirFacts>>, bases: Option<Arc<Bases>>) -> Self {
        let exposure = settings.exposure_stops;
        let plain = PlainLight::new(settings);
        Self {
            air: Air::new(settings.air, exposure).zip(air),
            structure: Structure::new(&settings.structure, exposure).zip(bases),
            curve: SceneCurve::new(&settings.curves, &plain.decoding()),
            balance: ToneBalance::new(&settings.balance_cc),
            colour: SceneColour::new(&settings.colour),
            plain,
        }
    }

    /// Measures the small picture and prepares.
    pub fn measured(settings: &SceneSettings, stock: &Stock, small: &Source) -> Self {
        let own = || SceneSettings::own(stock);
        let air =
            needs_air(settings).then(|| Arc::new(AirFacts::of(&unexposed(&of_the_air(settings, own()), None, small))));
        let bases = needs_bases(settings)
            .then(|| Arc::new(Bases::of(&unexposed(&of_the_bases(settings, own()), air.clone(), small))));
        Self::new(settings, air, bases)
    }

    /// How the camera's rendering is taken back.
    pub fn decoding(&self) -> Decoding {
        self.plain.decoding()
    }

    /// Scene light of a rectangle of the source, which must lie inside.
    pub fn light(&self, source: &Source, region: Region) -> Picture<SceneLight> {
        let frame = [source.width(), source.height()];
        let mut light = self.plain.light(source, region);
        if let Some((air, facts)) = &self.air {
            air.apply(facts, frame, &mut light);
        }
        if let Some((structure, bases)) = &self.structure {
            structure.apply(bases, frame, &mut light);
        }
        if let Some(curve) = &self.curve {
            curve.apply(&mut light);
        }
        if let Some(balance) = &self.balance {
            balance.apply(&mut light);
        }
        if let Some(colour) = &self.colour {
            colour.apply(&mut light);
        }
        light
    }
}
