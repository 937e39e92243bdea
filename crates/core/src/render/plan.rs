//! What a render needs, prepared: the stages with their settings, and the keys of everything that is cached.

use std::sync::Arc;

use rayon::ThreadPool;

use super::after_print::AfterPrint;
use super::exposing::Exposing;
use super::key::{Key, key};
use super::scaled::Scaled;
use super::variations::{Axis, Variations, with_only};
use crate::cache::Cache;
use crate::controls::Values;
use crate::development::Development;
use crate::error::CoreError;
use crate::mask::{MaskCache, MaskUse, PreparedUse};
use crate::picture::{FilmGeometry, Region, Source};
use crate::stations::bath::{BathSettings, MottleStage, UnevenStage};
use crate::stations::film::grain::{GrainStage, UnresolvedGrain};
use crate::stations::film::halation::{Glow, Halation};
use crate::stations::film::{FilmResponse, FilmSettings};
use crate::stations::lens::bloom::BloomGlow;
use crate::stations::lens::softness::SoftPlanes;
use crate::stations::lens::stage::LensMasks;
use crate::stations::lens::{LensSettings, LensStage};
use crate::stations::print::acutance::Acutance;
use crate::stations::print::stage::Tables;
use crate::stations::print::strength::Strength;
use crate::stations::print::{Bend, PrintSettings, PrintStage, Viewing};
use crate::stations::scene::air::AirFacts;
use crate::stations::scene::local::Locals;
use crate::stations::scene::stage::{self, Measured};
use crate::stations::scene::structure::Bases;
use crate::stations::scene::{SceneSettings, SceneStage};
use crate::stations::years::sun::Sun;
use crate::stock::Stock;

/// Whether a render shows grain.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum GrainShown {
    /// As on the film at this scale.
    Full,
    /// Left out for speed; tones are those of the grained picture.
    Averaged,
    /// As though the film had none.
    Off,
}

/// One render.
#[derive(Debug, Clone)]
pub struct RenderRequest<'a> {
    pub scaled: &'a Scaled,
    pub stock: &'a Stock,
    pub development: &'a Development,
    /// In pixels of the scaled source.
    pub region: Region,
    pub grain: GrainShown,
    /// Keep developed tiles for the next render: for views, not for exports.
    pub keep_tiles: bool,
}

/// What is shared between renders beside tiles: made once, on the render pool.
pub(super) struct Prepared {
    pub pool: Arc<ThreadPool>,
    pub films: Cache<Key, FilmResponse>,
    pub grains: Cache<Key, Option<GrainStage>>,
    pub missing_grains: Cache<Key, Option<UnresolvedGrain>>,
    pub tables: Cache<Key, Tables>,
    pub prints: Cache<Key, PrintStage>,
    pub glows: Cache<Key, Glow>,
    pub airs: Cache<Key, AirFacts>,
    pub bases: Cache<Key, Bases>,
    pub blooms: Cache<Key, BloomGlow>,
    pub softs: Cache<Key, SoftPlanes>,
    pub masks: MaskCache,
}

impl Prepared {
    /// A mask over this picture, drawn on the render pool.
    fn mask(&self, scaled: &Scaled, place: &MaskUse) -> PreparedUse {
        self.pool.install(|| scaled.mask(place, &self.masks))
    }

    /// A prepared thing, made when it is not there: `size` says its bytes.
    fn get<V: Send + Sync>(
        &self,
        cache: &Cache<Key, V>,
        key: Key,
        make: impl FnOnce() -> Result<V, CoreError> + Send,
        size: impl FnOnce(&V) -> usize,
    ) -> Result<Arc<V>, CoreError> {
        cache.get_or_make(key, || {
            let made = self.pool.install(make)?;
            let bytes = size(&made);
            Ok((made, bytes))
        })
    }
}

/// Bytes of a film's tables, of grain at one pitch, of what of it is missing, of a print's tables: about.
const FILM_BYTES: usize = 100_000;
const GRAIN_BYTES: usize = 100_000;
const MISSING_BYTES: usize = 2_000;
const TABLE_BYTES: usize = 600_000;
const PRINT_BYTES: usize = 1_200_000;

/// The filter mosaic as it lies on this frame.
#[derive(Debug, Clone, Copy)]
pub(super) struct MosaicPlace {
    pub seed: u32,
    pub pitch_um: f64,
    pub key: Key,
}

/// Everything prepared for one request.
pub(super) struct Plan {
    /// Scene, Lens and the film that they light.
    pub exposing: Exposing,
    pub halation: Option<(Halation, Arc<Glow>)>,
    pub mottle: Option<MottleStage>,
    pub uneven: Option<UnevenStage>,
    grain: Arc<Option<GrainStage>>,
    print: Option<Arc<PrintStage>>,
    pub mosaic: Option<MosaicPlace>,
    /// Tables for effects that do not act everywhere.
    pub variations: Option<Variations>,
    /// What lies on the finished print.
    pub after: Option<AfterPrint>,
    /// Curves, colours of tones and wash over the whole print.
    pub bend: Option<Bend>,
    pub acutance: Option<Acutance>,
    pub strength: Option<Strength>,
    /// Keys of the density before and after grain; a tile's place joins them.
    pub plain_density: Key,
    pub grained_density: Key,
}

/// How far a plan has to reach.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Until {
    Light,
    Exposure,
    Density,
    Print,
}

/// The keys that hang on film and bath.
struct FilmKeys {
    /// Curves, dyes and development.
    developed: Key,
    /// The same with what weighs the light before the curves.
    response: Key,
    /// The grain that is asked for.
    grain: Key,
}

impl FilmKeys {
    /// Every setting is taken apart here: a new one does not compile before it is said what hangs on it.
    fn new(stock: &Stock, film: &FilmSettings, bath: &BathSettings) -> Self {
        let FilmSettings {
            push_stops,
            interlayer,
            curves,
            hue_stops,
            filter,
            granularity,
            grain_diameter_um,
            roughness,
            colour_share,
            grain_seed,
            zone_weights,
            // these act at a place, and join the keys of tiles and planes as a whole
            gate: _,
            hue_place: _,
            halation: _,
        } = film;
        let BathSettings { crossed, skip_bleach, time, fog_density, uneven: _ } = bath;
        let developed = key(&[
            &"developed",
            &stock.content_hash(),
            push_stops,
            interlayer,
            curves,
            &(crossed, skip_bleach, time, fog_density),
        ]);
        let response = key(&[&developed, hue_stops, filter]);
        let grain =
            key(&[&developed, granularity, grain_diameter_um, roughness, colour_share, grain_seed, zone_weights]);
        Self { developed, response, grain }
    }
}

impl Plan {
    pub fn new(request: &RenderRequest, until: Until, prepared: &Prepared) -> Result<Self, CoreError> {
        let (stock, scaled) = (request.stock, request.scaled);
        let values: Values = request.development.values(stock);
        let scene = SceneSettings::read(&values);
        let film = FilmSettings::read(&values);
        let bath = BathSettings::read(&values);
        let print = PrintSettings::read(&values);
        let keys = FilmKeys::new(stock, &film, &bath);

        let response = prepared.get(
            &prepared.films,
            keys.response,
            || Ok(FilmResponse::new(stock, &film, &bath)),
            |_| FILM_BYTES,
        )?;
        let full_pitch = FilmGeometry::filling(film.gate, scaled.film[0], scaled.film[1]).pitch_um;
        let here = scaled.geometry(film.gate);
        let seed = request.development.seed;
        let shown = request.grain == GrainShown::Full && until >= Until::Density;
        let grain_key = key(&[&"grain", &keys.grain, &seed, &here.pitch_um, &shown]);
        let grain = prepared.get(
            &prepared.grains,
            grain_key,
            || Ok(shown.then(|| GrainStage::new(&film, &response, seed, here.pitch_um)).flatten()),
            |_| GRAIN_BYTES,
        )?;
        let table =
            |print: &PrintSettings| Self::print_stage(request, prepared, &keys, &film, print, &response, full_pitch);
        let print_stage = if until == Until::Print { Some(table(&print)?) } else { None };
        let ready = |place: &MaskUse| prepared.mask(scaled, place);
        let (mut variations, mut after) = (None, None);
        if let Some(stage) = print_stage.as_deref() {
            let make = |axes: &[Axis], acts: usize| table(&with_only(&print, axes, acts));
            variations = Variations::new(Self::axes(&print, seed, &ready), make)?;
            let ground = stage.single_at(stock.plate.is_none());
            after = AfterPrint::new(&print, seed, ground, &ready);
        }

        let optics = LensSettings::read(&values);
        let lens = Self::lens_stage(request, &scene, &optics, here, prepared)?;
        let size = (scaled.source.width(), scaled.source.height());
        let lit = key(&[&scaled.content, &size, &scene, &optics, &film.gate, &keys.response, &film.hue_place]);
        let exposing = Exposing {
            lens,
            film: response.clone(),
            hue_place: film.hue_place.as_ref().map(|place| prepared.mask(scaled, place)),
            exposure_gain: 2f64.powf(scene.exposure_stops) as f32,
        };
        let halation = Halation::new(&response.stock, &film.halation).filter(|_| until >= Until::Exposure);
        let halation = match halation {
            Some(halation) => {
                let glow_key = key(&[&"glow", &lit, &here.pitch_um, &halation.key()]);
                let expose = |source: &Source, region: Region| exposing.direct(source, region);
                let make = || Ok(Glow::new(&halation, &scaled.source, here.pitch_um, &expose));
                let glow = prepared.get(&prepared.glows, glow_key, make, Glow::bytes)?;
                Some((halation, glow))
            }
            None => None,
        };
        let bend = if until == Until::Print { Bend::new(&print.finish, &print.tone) } else { None };
        let fitted = bend.as_ref().is_some_and(Bend::fits);
        let plain_density = key(&[&lit, &film.halation, &film.gate, &bath, &seed]);
        let grained_density = key(&[&plain_density, &grain_key]);
        let mosaic_seen = request.grain == GrainShown::Full && response.stock.screen.is_some();
        Ok(Self {
            halation,
            mottle: response.stock.mottle.as_ref().map(|m| MottleStage::new(m, seed, here.pitch_um)),
            uneven: UnevenStage::new(&bath.uneven, seed, here),
            mosaic: mosaic_seen.then(|| MosaicPlace {
                seed,
                pitch_um: here.pitch_um,
                key: key(&[&"mosaic", &seed, &here, &response.stock.screen]),
            }),
            variations,
            after,
            bend,
            acutance: Acutance::new(&print.acutance, here.pitch_um),
            strength: Strength::new(print.strength, exposing.lens.scene().decoding(), fitted),
            exposing,
            grain,
            print: print_stage,
            plain_density,
            grained_density,
        })
    }

    /// What of toning and age does not act everywhere.
    fn axes(print: &PrintSettings, seed: u32, ready: &dyn Fn(&MaskUse) -> PreparedUse) -> Vec<Axis> {
        let (tone, years) = (&print.tone, &print.years);
        let baths = tone.places.baths.as_ref().filter(|_| !tone.baths.is_empty());
        let age = years.places.age.as_ref().filter(|_| !years.losses.is_none());
        let sun = Sun::new(&years.sun, seed).map(|sun| Axis::Sun(sun, years.places.sun.as_ref().map(ready)));
        let masked = [baths.map(|place| Axis::Baths(ready(place))), age.map(|place| Axis::Age(ready(place))), sun];
        masked.into_iter().flatten().collect()
    }

    /// Scene and Lens, with what the optics need of the whole frame.
    fn lens_stage(
        request: &RenderRequest,
        scene: &SceneSettings,
        optics: &LensSettings,
        frame: FilmGeometry,
        prepared: &Prepared,
    ) -> Result<LensStage, CoreError> {
        let scaled = request.scaled;
        let ready = |place: &Option<MaskUse>| place.as_ref().map(|place| prepared.mask(scaled, place));
        let places = &optics.places;
        let masks =
            LensMasks { softness: ready(&places.softness), shake: ready(&places.shake), bloom: ready(&places.bloom) };
        let mut lens = LensStage::new(optics, masks, Self::scene_stage(request, scene, prepared)?, frame);
        let lit = key(&[&"lit", &scaled.content, scene, &optics.flash, &optics.bloom, &places.bloom]);
        if let Some(bloom) = lens.bloom() {
            let make = || Ok(lens.glow(&bloom, &scaled.facts.small));
            let glow = prepared.get(&prepared.blooms, key(&[&"bloom", &lit]), make, BloomGlow::bytes)?;
            lens = lens.bloomed(bloom, glow);
        }
        if let Some(softness) = lens.softness(&scaled.source) {
            let size = (scaled.source.width(), scaled.source.height());
            let widths = (&softness.widths_um(), frame.pitch_um);
            let soft_key = key(&[&"soft", &lit, &size, &widths]);
            let make = || Ok(lens.soft_planes(&softness, &scaled.source));
            let planes = prepared.get(&prepared.softs, soft_key, make, SoftPlanes::bytes)?;
            lens = lens.softened(softness, planes);
        }
        Ok(lens)
    }

    /// What was measured for Scene is kept: it does not depend on exposure, nor on what acts after it.
    fn scene_stage(
        request: &RenderRequest,
        scene: &SceneSettings,
        prepared: &Prepared,
    ) -> Result<SceneStage, CoreError> {
        let scaled = request.scaled;
        let (content, small) = (&scaled.content, &scaled.facts.small);
        let own = || SceneSettings::own(request.stock);
        let locals = |settings: &SceneSettings| {
            let ready = |place: &MaskUse| prepared.mask(scaled, place);
            Locals::new(&settings.locals, settings.exposure_stops, &ready)
        };
        let light = |settings: &SceneSettings, measured: Measured| {
            SceneStage::new(settings, measured, locals(settings)).light(small, small.region())
        };
        let mut measured = Measured::default();
        if stage::needs_air(scene) {
            let settings = stage::of_the_air(scene, own());
            let make = || Ok(AirFacts::of(&light(&settings, Measured::default())));
            let air_key = key(&[&"air", content, &settings]);
            measured.air = Some(prepared.get(&prepared.airs, air_key, make, AirFacts::bytes)?);
        }
        if stage::needs_bases(scene) {
            let settings = stage::of_the_bases(scene, own());
            let known = measured.clone();
            let make = || Ok(Bases::of(&light(&settings, known)));
            let bases_key = key(&[&"bases", content, &settings]);
            measured.bases = Some(prepared.get(&prepared.bases, bases_key, make, Bases::bytes)?);
        }
        Ok(SceneStage::new(scene, measured, locals(scene)))
    }

    /// The exact tables do not depend on grain: a moving grain control only smooths them anew.
    fn print_stage(
        request: &RenderRequest,
        prepared: &Prepared,
        keys: &FilmKeys,
        film: &FilmSettings,
        print: &PrintSettings,
        response: &FilmResponse,
        full_pitch: f64,
    ) -> Result<Arc<PrintStage>, CoreError> {
        let exact_key = key(&[&"exact print", &keys.developed, &print.of_the_table()]);
        let make = || Ok(Tables::new(&Viewing::new(response, print)?, response));
        let exact = prepared.get(&prepared.tables, exact_key, make, |_| TABLE_BYTES)?;
        let this_pitch = request.scaled.geometry(film.gate).pitch_um;
        let shown_pitch = match request.grain {
            GrainShown::Off => None,
            GrainShown::Full => Some(Some(this_pitch)),
            GrainShown::Averaged => Some(None),
        };
        // what grain is not resolved does not depend on the print either
        let missing_key = key(&[&"missing grain", &keys.grain, &full_pitch, &shown_pitch]);
        let make = || Ok(shown_pitch.and_then(|p| UnresolvedGrain::new(film, response, full_pitch, p)));
        let missing = prepared.get(&prepared.missing_grains, missing_key, make, |_| MISSING_BYTES)?;
        let make = || {
            Ok(PrintStage::new(match missing.as_ref() {
                Some(grain) => exact.smoothed(response, grain),
                None => Tables::clone(&exact),
            }))
        };
        prepared.get(&prepared.prints, key(&[&"print", &exact_key, &missing_key]), make, |_| PRINT_BYTES)
    }

    pub fn film(&self) -> &FilmResponse {
        &self.exposing.film
    }

    pub fn grain(&self) -> Option<&GrainStage> {
        self.grain.as_ref().as_ref()
    }

    /// The print; of plans that reach it.
    pub fn print(&self) -> Result<&PrintStage, CoreError> {
        self.print.as_deref().ok_or(CoreError::NotPrinted)
    }

    /// Whether what was made of the print lies in the display's gamut already.
    pub fn is_fitted(&self) -> bool {
        self.strength.is_some()
            || self.bend.as_ref().is_some_and(Bend::fits)
            || self.after.as_ref().is_some_and(AfterPrint::fits)
    }
}
