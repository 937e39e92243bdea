//! Grain laid on layer density.

use super::ahead::FieldsAhead;
use super::covariance::{Emulsion, GrainShape};
use super::field::{LayerField, unit_fields};
use super::kernel::GrainKernel;
use super::pixel_map::PixelMap;
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::memory::Memory;
use crate::numeric::parallel::made_of;
use crate::numeric::smooth::smoothstep;
use crate::picture::buffer::LayerDensity;
use crate::picture::{Picture, Region};
use crate::prepare::Kept;
use crate::stations::film::settings::FilmSettings;
use crate::stations::film::{CharacteristicCurve, FilmResponse};
use crate::stock::ABOVE_DMAX;
use crate::stock::Stock;

/// Density range that the zone weights span, above fog.
const ZONE_RANGE: f64 = 1.56;

/// One layer's grain at one pitch.
#[derive(Debug, Clone)]
struct LayerGrain {
    kernel: GrainKernel,
    map: PixelMap,
    mix: Vec<f32>,
}

/// The grain of a film at one pitch, prepared once.
#[derive(Debug)]
pub struct GrainStage {
    layers: Vec<LayerGrain>,
    seed: u32,
    key: Key,
    ahead: FieldsAhead,
}

impl GrainStage {
    /// `None` when the granularity is 0.
    pub fn new(settings: &FilmSettings, film: &FilmResponse, seed: u32, pitch_um: f64) -> Option<Self> {
        (settings.granularity > 0.0).then(|| Self::of(settings, film, seed, pitch_um))
    }

    /// Of a granularity over 0.
    pub(crate) fn of(settings: &FilmSettings, film: &FilmResponse, seed: u32, pitch_um: f64) -> Self {
        let stock = &film.stock;
        let FilmSettings { granularity, grain_diameter_um, roughness, colour_share, grain_seed, zone_weights, .. } =
            settings;
        let asked = (granularity, grain_diameter_um, roughness, colour_share, grain_seed, zone_weights);
        let key = key(&[&"grain", &asked, &seed, &pitch_um]);
        let count = film.layers();
        let layers = made_of(count, &|index| {
            let shape = layer_shape(film, settings, index);
            let curve = &film.curves[index];
            let emulsion = Emulsion::new(shape).reading_as_stated();
            let lattice = emulsion.on_lattice(pitch_um);
            let weight = |d: f64| zone_weight(&settings.zone_weights, curve, d);
            let map = PixelMap::new(shape.log_radius_sigma(), curve.shape.dmax + ABOVE_DMAX, |d| {
                lattice.relative_variance(d).sqrt() * weight(d)
            });
            LayerGrain {
                kernel: GrainKernel::new(&lattice),
                map,
                mix: noise_mix(stock, settings.colour_share, count, index),
            }
        });
        let seed = seed ^ settings.grain_seed.wrapping_mul(0x9E37_79B1);
        Self { layers, seed, key, ahead: FieldsAhead::default() }
    }

    /// The unit fields of all layers over a rectangle of the film.
    fn fields(&self, on_film: Region) -> Vec<Vec<f32>> {
        let fields: Vec<LayerField> =
            self.layers.iter().map(|l| LayerField { kernel: &l.kernel, mix: &l.mix }).collect();
        unit_fields(&fields, self.seed, on_film)
    }

    /// Makes the fields of rectangles of the film before they are asked for, as long as it may go on.
    pub(crate) fn make_ahead(&self, on_film: impl Iterator<Item = Region>, go_on: &dyn Fn() -> bool) {
        self.ahead.make(on_film, |region| self.fields(region), go_on);
    }

    /// How many rectangles were made ahead and not asked for yet.
    #[cfg(test)]
    pub(crate) fn fields_ahead(&self) -> usize {
        self.ahead.count()
    }

    /// Lets go of the fields that were made ahead and that nobody asked for.
    pub(crate) fn let_go(&self) {
        self.ahead.clear();
    }
}

impl Kept for GrainStage {
    /// About.
    fn bytes(&self) -> usize {
        100_000
    }

    fn share(memory: &Memory) -> usize {
        memory.grains
    }
}

impl Effect<LayerDensity> for GrainStage {
    fn key(&self) -> Key {
        self.key
    }

    /// The lattice is the film's: a crop under the enlarger keeps its grain.
    fn apply(&self, frame: &FilmFrame, mut density: Picture<LayerDensity>, part: Region) -> Picture<LayerDensity> {
        let on_film = Region { x: part.x + frame.corner[0], y: part.y + frame.corner[1], ..part };
        let planes = self.ahead.take(on_film).unwrap_or_else(|| self.fields(on_film));
        for (index, field) in planes.iter().enumerate() {
            self.layers[index].map.add(field, density.plane_mut(index));
        }
        density
    }
}

/// A layer's grain after development: more of it coarsens the grain.
pub(super) fn layer_shape(film: &FilmResponse, settings: &FilmSettings, index: usize) -> GrainShape {
    let profile = &film.stock.grain;
    let stops = film.developed_stops;
    let growth = if stops > 0.0 { 1.20f64 } else { 1.12 };
    GrainShape {
        granularity: settings.granularity * growth.powf(stops) * profile.layer_ratio[index],
        diameter_um: settings.grain_diameter_um * 1.07f64.powf(stops) * profile.diameter_ratio[index],
        roughness: (settings.roughness + 0.06 * stops).clamp(0.0, 1.0),
        blur_um: profile.blur_um,
    }
}

/// Weights of the layers' white noise in one layer's: `colour_share` of its record's own, the rest the mean of all
/// records, variance kept.
///
/// Mixing noise before the filter keeps every layer's own granularity and texture; only the colour of the grain
/// changes.
fn noise_mix(stock: &Stock, colour_share: f64, count: usize, index: usize) -> Vec<f32> {
    if count == 1 {
        return vec![1.0];
    }
    let records: Vec<usize> = (0..count).map(|layer| stock.record_of(layer)).collect();
    let kept: std::collections::BTreeSet<usize> = records.iter().copied().collect();
    let common = (1.0 - colour_share) / kept.len() as f64;
    let mut weights: Vec<f64> = (0..count).map(|r| if kept.contains(&r) { common } else { 0.0 }).collect();
    weights[records[index]] += colour_share;
    let length = weights.iter().map(|w| w * w).sum::<f64>().sqrt();
    weights.into_iter().map(|w| (w / length) as f32).collect()
}

/// Weight of the grain at a density by the tone of the scene that lies there.
pub(super) fn zone_weight(weights: &[f64; 3], curve: &CharacteristicCurve, density: f64) -> f64 {
    let shape = &curve.shape;
    let thin = ((density - shape.dmin) / ZONE_RANGE.min(shape.dmax - shape.dmin)).clamp(0.0, 1.0);
    // on a negative the shadows are thin, on a slide the lights
    let tone = if curve.reversal { 1.0 - thin } else { thin };
    let (shadow, light) = (1.0 - smoothstep(tone, 0.0, 0.5), smoothstep(tone, 0.5, 1.0));
    shadow * weights[0] + (1.0 - shadow - light) * weights[1] + light * weights[2]
}
