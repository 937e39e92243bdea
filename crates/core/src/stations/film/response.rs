//! The response of a film as a whole: from scene light to density, prepared once and applied to tiles.

use multiversion::multiversion;

use super::as_developed::as_developed;
use super::curve::CharacteristicCurve;
use super::hue_sensitivity::HueSensitivity;
use super::interlayer::Interlayer;
use super::layer_matrix::layer_matrix;
use super::near_infrared::InfraredEstimate;
use super::placement::{MID_GREY, grey_log_exposure, placed_curves};
use super::push::{self, Development};
use super::settings::FilmSettings;
use crate::colour::space::{SRGB_LUMINANCE, WIDE_TO_SRGB};
use crate::key::{Key, key};
use crate::memory::Memory;
use crate::numeric::matrix::dot;
use crate::numeric::{Sampled, log_exp};
use crate::picture::Picture;
use crate::picture::buffer::{LayerDensity, LayerExposure, SceneLight};
use crate::prepare::Kept;
use crate::stations::bath::BathSettings;
use crate::stock::{CurveShape, Stock};

/// Lowest relative layer exposure: five decades under mid grey, base and fog for every film.
const EXPOSURE_FLOOR: f32 = 1e-5;
/// Range of log10 exposures that the tables cover, and their samples.
const TABLE: (f64, f64, usize) = (-6.0, 5.0, 5633);
/// Pixels that are developed together: their rows stay in the processor's nearest memory.
const BATCH: usize = 1024;
/// Density range that fog leaves at least.
const LEAST_RANGE: f64 = 0.3;

/// A film as it will be exposed and developed.
#[derive(Debug, Clone)]
pub struct FilmResponse {
    /// The stock as tuned and as its bath makes it.
    pub stock: Stock,
    hues: Option<HueSensitivity>,
    infrared: Option<InfraredEstimate>,
    rows: Vec<[f32; 3]>,
    wide_to_srgb: [[f32; 3]; 3],
    /// Added to log10(E): the metered point, the stock's exposure offset, the rating.
    offset: f32,
    interlayer: Option<Interlayer>,
    tables: Vec<Sampled>,
    /// The developed curves, for prints, grain and drawings.
    pub curves: Vec<CharacteristicCurve>,
    /// log10 exposure of an 18 % grey in every layer.
    pub grey: f64,
    /// Development in stops of push.
    pub developed_stops: f64,
}

/// A curve with fog: density where no light fell, or that is missing from a slide's blacks.
fn fogged(curve: CharacteristicCurve, fog: f64) -> CharacteristicCurve {
    let s = curve.shape;
    let shape = if curve.reversal {
        CurveShape { dmax: (s.dmax - fog).max(s.dmin + LEAST_RANGE), ..s }
    } else {
        let dmin = s.dmin + fog;
        CurveShape { dmin, dmax: s.dmax.max(dmin + LEAST_RANGE), ..s }
    };
    CharacteristicCurve { shape, ..curve }
}

impl Kept for FilmResponse {
    /// About.
    fn bytes(&self) -> usize {
        100_000
    }

    fn share(memory: &Memory) -> usize {
        memory.films
    }
}

impl FilmResponse {
    /// With settings, in a bath.
    pub fn new(stock: &Stock, settings: &FilmSettings, bath: &BathSettings) -> Self {
        let stock = as_developed(stock, settings, bath);
        let development = Development::new(settings.push_stops, bath.time);
        let stops = development.developed_stops;
        let curves: Vec<_> = push::developed(placed_curves(&stock), stock.kind, stops)
            .into_iter()
            .map(|c| fogged(c, bath.fog_density))
            .collect();
        let grey = grey_log_exposure() + 2f64.log10() * stock.ev + development.log_exposure();
        let sampled = |f: &dyn Fn(f64) -> f64| Sampled::new(TABLE.0, TABLE.1, TABLE.2, f);
        let interlayer = (curves.len() == 3)
            .then(|| {
                let green = curves[1];
                let driver = sampled(&|x| match green.reversal {
                    true => green.shape.dmax - green.density(x),
                    false => green.density(x) - green.shape.dmin,
                });
                Interlayer::new(&stock, driver, grey)
            })
            .flatten();
        Self {
            hues: HueSensitivity::new(settings.hue_stops),
            infrared: stock.nir.as_ref().map(InfraredEstimate::new),
            rows: layer_matrix(&stock, &settings.filter).into_iter().map(|r| r.map(|v| v as f32)).collect(),
            wide_to_srgb: WIDE_TO_SRGB.to_f32(),
            offset: (grey - MID_GREY.log10()) as f32,
            interlayer,
            tables: curves.iter().map(|c| sampled(&|x| c.density(x))).collect(),
            curves,
            grey,
            developed_stops: stops,
            stock,
        }
    }

    /// The stock's own values, in its own bath.
    pub fn own(stock: &Stock) -> Self {
        Self::new(stock, &FilmSettings::own(stock), &BathSettings::own(stock))
    }

    /// 1 or 3.
    pub fn layers(&self) -> usize {
        self.curves.len()
    }

    /// Names all that weighs light before the curves. What is done in the bath is not in it: light that is pushed, or
    /// falls on another curve, is the same light.
    pub fn exposing_key(&self) -> Key {
        key(&[&"exposing", &self.rows, &self.hues, &self.infrared])
    }

    /// Linear exposure of each layer (mid grey 0.18). Colours outside the gamut in which the spectral uplift is valid
    /// are first drawn in towards their own luminance.
    ///
    /// `exposure_gain` is the factor by which Scene's exposure has multiplied the light: the estimate of infrared looks
    /// at the camera's picture without it.
    pub fn expose(&self, light: Picture<SceneLight>, exposure_gain: f32) -> Picture<LayerExposure> {
        self.expose_where(light, exposure_gain, None)
    }

    /// [`FilmResponse::expose`] with the sensitivity by hue changed only where `place`, pixel by pixel, says.
    pub fn expose_where(
        &self,
        mut light: Picture<SceneLight>,
        exposure_gain: f32,
        place: Option<&[f32]>,
    ) -> Picture<LayerExposure> {
        match (&self.hues, place) {
            (Some(hues), None) => hues.apply(&mut light),
            (Some(hues), Some(place)) => hues.apply_where(place, &mut light),
            (None, _) => {}
        }
        let region = light.region;
        match self.rows.as_slice() {
            [r, g, b] => {
                if let Some(planes) = light.three_mut() {
                    expose_three(planes, &self.wide_to_srgb, [r, g, b]);
                }
                light.into_quantity()
            }
            [row, ..] => {
                let mut out = vec![0.0; region.pixels()];
                let planes = [light.plane(0), light.plane(1), light.plane(2)];
                match &self.infrared {
                    Some(infrared) => {
                        expose_infrared(planes, &mut out, &self.wide_to_srgb, row, infrared, exposure_gain)
                    }
                    None => expose_one(planes, &mut out, &self.wide_to_srgb, row),
                }
                Picture::from_planes(region, vec![out])
            }
            [] => light.into_quantity(),
        }
    }

    /// Density of each layer, before unevenness and grain.
    pub fn develop(&self, mut exposure: Picture<LayerExposure>) -> Picture<LayerDensity> {
        for index in 0..exposure.plane_count() {
            log_exposure(exposure.plane_mut(index), self.offset);
        }
        if let Some([red, green, blue]) = exposure.three_mut() {
            let batches = red.chunks_mut(BATCH).zip(green.chunks_mut(BATCH)).zip(blue.chunks_mut(BATCH));
            let mut scratch = [[0.0f32; BATCH]; 3];
            for ((r, g), b) in batches {
                if let Some(effect) = &self.interlayer {
                    effect.apply([r, g, b], &mut scratch);
                }
                for (table, row) in self.tables.iter().zip([r, g, b]) {
                    table.map(row);
                }
            }
        } else {
            self.tables[0].map(exposure.plane_mut(0));
        }
        exposure.into_quantity()
    }

    /// Log10 exposure (relative to the metered point) of a linear layer exposure.
    pub fn log_exposure_of(&self, exposure: f64) -> f64 {
        exposure.max(EXPOSURE_FLOOR as f64).log10() + self.offset as f64
    }
}

/// One pixel drawn into the uplift's gamut: linear sRGB without negatives, luminance kept.
#[inline(always)]
fn into_uplift_gamut(rgb: [f32; 3]) -> [f32; 3] {
    let [r, g, b] = rgb;
    let w = SRGB_LUMINANCE.map(|v| v as f32);
    let y = (w[0] * r + w[1] * g + w[2] * b).max(0.0);
    let lowest = r.min(g).min(b);
    let share = if lowest < 0.0 { y / (y - lowest) } else { 1.0 };
    [(y + share * (r - y)).max(0.0), (y + share * (g - y)).max(0.0), (y + share * (b - y)).max(0.0)]
}

#[multiversion(targets("x86_64+avx2"))]
fn expose_three(planes: [&mut [f32]; 3], to_srgb: &[[f32; 3]; 3], rows: [&[f32; 3]; 3]) {
    let [red, green, blue] = planes;
    for ((r, g), b) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()) {
        let srgb = [dot(&to_srgb[0], *r, *g, *b), dot(&to_srgb[1], *r, *g, *b), dot(&to_srgb[2], *r, *g, *b)];
        let [x, y, z] = into_uplift_gamut(srgb);
        *r = dot(rows[0], x, y, z).max(EXPOSURE_FLOOR);
        *g = dot(rows[1], x, y, z).max(EXPOSURE_FLOOR);
        *b = dot(rows[2], x, y, z).max(EXPOSURE_FLOOR);
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn expose_one(planes: [&[f32]; 3], out: &mut [f32], to_srgb: &[[f32; 3]; 3], row: &[f32; 3]) {
    let [red, green, blue] = planes;
    for (((e, r), g), b) in out.iter_mut().zip(red).zip(green).zip(blue) {
        let srgb = [dot(&to_srgb[0], *r, *g, *b), dot(&to_srgb[1], *r, *g, *b), dot(&to_srgb[2], *r, *g, *b)];
        let [x, y, z] = into_uplift_gamut(srgb);
        *e = dot(row, x, y, z).max(EXPOSURE_FLOOR);
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn expose_infrared(
    planes: [&[f32]; 3],
    out: &mut [f32],
    to_srgb: &[[f32; 3]; 3],
    row: &[f32; 3],
    infrared: &InfraredEstimate,
    gain: f32,
) {
    let [red, green, blue] = planes;
    let per_gain = 1.0 / gain;
    for (((e, r), g), b) in out.iter_mut().zip(red).zip(green).zip(blue) {
        let srgb = [dot(&to_srgb[0], *r, *g, *b), dot(&to_srgb[1], *r, *g, *b), dot(&to_srgb[2], *r, *g, *b)];
        let [x, y, z] = into_uplift_gamut(srgb);
        let invisible = gain * infrared.near_infrared([x * per_gain, y * per_gain, z * per_gain]);
        *e = infrared.mix(dot(row, x, y, z), invisible).max(EXPOSURE_FLOOR);
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn log_exposure(plane: &mut [f32], offset: f32) {
    for e in plane {
        *e = log_exp::log2(e.max(EXPOSURE_FLOOR)) * log_exp::LOG10_OF_2 + offset;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;
    use crate::stock::Catalogue;

    fn develop_grey(stock: &Stock, light: f32) -> Vec<f32> {
        let film = FilmResponse::own(stock);
        let planes = vec![vec![light]; 3];
        let density = film.develop(film.expose(Picture::from_planes(Region::whole(1, 1), planes), 1.0));
        density.planes().iter().map(|p| p[0]).collect()
    }

    /// Light that is named alike is exposed alike, and what is done in the bath does not name it otherwise.
    #[test]
    fn the_bath_does_not_change_the_light() {
        let exposed = |film: &FilmResponse| {
            let planes = vec![vec![0.02, 0.3, 1.7], vec![0.2, 0.1, 2.5], vec![0.05, 0.4, 0.9]];
            film.expose(Picture::from_planes(Region::whole(3, 1), planes), 1.0)
        };
        for stock in Catalogue::all() {
            let own = FilmResponse::own(stock);
            let (mut pushed, mut filtered) = (FilmSettings::own(stock), FilmSettings::own(stock));
            pushed.push_stops = 1.5;
            let bath = BathSettings { time: 1.4, fog_density: 0.2, ..BathSettings::own(stock) };
            let pushed = FilmResponse::new(stock, &pushed, &bath);
            assert_ne!(own.curves[0].shape, pushed.curves[0].shape, "{}", stock.id);
            assert_eq!(own.exposing_key(), pushed.exposing_key(), "{}", stock.id);
            assert!(exposed(&own).planes() == exposed(&pushed).planes(), "{}", stock.id);
            filtered.hue_stops[0] = 0.5;
            let filtered = FilmResponse::new(stock, &filtered, &BathSettings::own(stock));
            assert_ne!(own.exposing_key(), filtered.exposing_key(), "{}", stock.id);
        }
    }

    /// Neutral exposures pass the interlayer effect unchanged: each layer's density is that of its own curve.
    #[test]
    fn neutrals_follow_their_own_curves() {
        for stock in Catalogue::all().iter().filter(|s| s.scene_kelvin.is_none()) {
            let film = FilmResponse::own(stock);
            for stop in -8..5 {
                let light = 0.18 * 2f64.powi(stop);
                let x = film.log_exposure_of(light);
                for (d, curve) in develop_grey(stock, light as f32).iter().zip(&film.curves) {
                    assert!((*d as f64 - curve.density(x)).abs() < 2e-5, "{} {stop}", stock.id);
                }
            }
        }
    }

    /// Common practice, no source: zones are a stop apart, one stop is 0.301 log exposure.
    #[test]
    fn one_stop_is_0_301() {
        let film = FilmResponse::own(&Catalogue::first());
        let gain = film.log_exposure_of(0.36) - film.log_exposure_of(0.18);
        assert!((gain - std::f64::consts::LOG10_2).abs() < 1e-5);
    }
}
