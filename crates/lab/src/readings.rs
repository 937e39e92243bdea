//! Readings of a frame: the film's curves and where this picture's exposures lie on them, the tones that a curve bends.

use std::sync::Arc;

use amber_core::colour::transfer::encode_srgb;
use amber_core::picture::buffer::LayerExposure;
use amber_core::render::{Finish, GrainShown, RenderRequest};
use amber_core::stations::bath::BathSettings;
use amber_core::stations::film::placement::MID_GREY;
use amber_core::stations::film::{FilmResponse, FilmSettings};
use amber_core::stations::print::{PrintTone, grey_ramp};
use amber_core::stations::scene::{SceneSettings, SceneStage};
use amber_core::{Development, Picture};
use amber_library::Frame;

use crate::Lab;
use crate::error::LabError;
use crate::plane::{BANDING, BLOCKED, BLOWN, Measured};
use crate::sources::short;
use crate::waiting::{self, Waiting};

/// A curve as points over the chart's exposures.
#[derive(Debug, Clone)]
pub struct CurveReading {
    /// Density as tuned, and as the stock has it.
    pub now: Vec<f64>,
    pub stock: Vec<f64>,
    /// Where toe, middle and shoulder of the curve lie: step on the chart and density.
    pub handles: [[f64; 2]; 3],
    /// Density falls with exposure.
    pub reversal: bool,
}

/// Shares of the density range at which the handles of toe, middle and shoulder sit.
const HANDLES: [f64; 3] = [0.08, 0.5, 0.92];

/// The film chart: density over scene exposure in zones 0..X.
#[derive(Debug, Clone)]
pub struct FilmReading {
    /// One per layer; red-, green-, blue-sensitive, or the only one.
    pub layers: Vec<CurveReading>,
    /// Share of the picture by exposure, over the same axis.
    pub exposures: Vec<f64>,
    /// Share of the picture in each zone, 0..X.
    pub zones: [f64; 11],
}

/// The print: how its tones are spread, and what is lost at the ends.
#[derive(Debug, Clone)]
pub struct PrintReading {
    /// Share of the picture by L* from 0 to 100, [`HISTOGRAM_BINS`] bins.
    pub lightness: Vec<f64>,
    /// Shares of the picture that are bare paper, solid black, or in danger of banding.
    pub blown: f64,
    pub blocked: f64,
    pub banding: f64,
}

/// A curve of the bench on which the picture's tones are laid.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum CurveOf {
    Scene,
    Print,
}

/// Bins of [`Lab::tones_before`].
pub const TONE_BINS: usize = 64;

/// Share of the picture by tone (encoded, 0 to 1): of the three channels together, of red, green and blue.
pub type ToneSpread = [Vec<f64>; 4];

/// Bins of the print's histogram.
pub const HISTOGRAM_BINS: usize = 64;

/// Exposures of the chart: zone -0.5 to 10.5 in steps of a tenth.
pub const CHART_STEPS: usize = 111;
pub(crate) const FIRST_ZONE: f64 = -0.5;
pub(crate) const ZONE_STEP: f64 = 0.1;
/// About what the readings of a frame take, and most bytes of those that are remembered.
const READING_BYTES: usize = 16 << 10;
pub(crate) const READINGS_BYTES: usize = 8 << 20;
/// Long edge of the picture that is measured.
const MEASURED_EDGE: u32 = 320;

impl Lab {
    /// The film chart: quick enough to follow a control that moves.
    pub fn film_reading(&self, frame: i64, development: &Development) -> Result<FilmReading, LabError> {
        let stock = self.library.stock_of(development)?;
        let values = development.values(&stock);
        let film = || FilmResponse::new(&stock, &FilmSettings::read(&values), &BathSettings::read(&values));
        let (now, own) = self.compute(|| (film(), FilmResponse::own(&stock)));
        // log exposure at the film of a zone: zone V is mid grey, zones are a stop apart
        let at = |step: usize| (FIRST_ZONE + ZONE_STEP * step as f64 - 5.0) * 2f64.log10();
        let layers = (0..now.layers())
            .map(|i| {
                let points =
                    |film: &FilmResponse| (0..CHART_STEPS).map(|s| film.curves[i].density(film.grey + at(s))).collect();
                let curve = &now.curves[i];
                let range = curve.shape.dmax - curve.shape.dmin;
                let handles = HANDLES.map(|share| {
                    let zones = (curve.exposure(curve.shape.dmin + share * range) - now.grey) / 2f64.log10();
                    // kept on the chart, where the curve runs out of it
                    let step = ((zones + 5.0 - FIRST_ZONE) / ZONE_STEP).clamp(2.0, (CHART_STEPS - 3) as f64);
                    [step, curve.density(now.grey + at(step.round() as usize))]
                });
                CurveReading { now: points(&now), stock: points(&own), handles, reversal: curve.reversal }
            })
            .collect();
        let (exposures, zones) = spread_of_exposures(&self.exposure(frame, development, &stock, MEASURED_EDGE)?);
        Ok(FilmReading { layers, exposures, zones })
    }

    /// Both readings of a frame as it is kept, remembered while it stays so.
    pub fn kept_readings(&self, frame: &Frame) -> Result<Arc<(FilmReading, PrintReading)>, LabError> {
        let (id, development) = (frame.summary.id, &frame.summary.development);
        let state = format!("{} {}", frame.summary.version(), frame.stock.content_hash());
        self.readings.get_or_make(short(&state), || {
            let both = (self.film_reading(id, development)?, self.print_reading(id, development)?);
            Ok((both, READING_BYTES))
        })
    }

    /// The print of a grey scale.
    pub fn grey_ramp(&self, development: &Development, count: usize) -> Result<Vec<PrintTone>, LabError> {
        let stock = self.library.stock_of(development)?;
        let values = development.values(&stock);
        Ok(self.compute(|| {
            let film = FilmResponse::new(&stock, &FilmSettings::read(&values), &BathSettings::read(&values));
            grey_ramp(&film, &values, count)
        })?)
    }

    /// How the tones that a curve bends are spread, before it bends them.
    pub fn tones_before(&self, frame: i64, development: &Development, of: CurveOf) -> Result<ToneSpread, LabError> {
        let stock = self.library.stock_of(development)?;
        let scaled = self.measured_at(frame, development, &stock, MEASURED_EDGE)?;
        let region = scaled.source.region();
        let mut spread: ToneSpread = std::array::from_fn(|_| vec![0.0; TONE_BINS]);
        let mut count = |pixel: [f64; 3]| {
            for (k, tone) in pixel.into_iter().enumerate() {
                let bin = (tone * TONE_BINS as f64).clamp(0.0, (TONE_BINS - 1) as f64) as usize;
                spread[0][bin] += 1.0 / (3 * region.pixels()) as f64;
                spread[k + 1][bin] += 1.0 / region.pixels() as f64;
            }
        };
        match of {
            CurveOf::Scene => {
                let own = SceneSettings::own(&stock);
                let settings = SceneSettings::read(&development.values(&stock));
                let before = SceneSettings {
                    curves: own.curves,
                    balance_cc: own.balance_cc,
                    colour: own.colour,
                    locals: Vec::new(),
                    ..settings
                };
                let (stage, light) = self.compute(|| {
                    let stage = SceneStage::measured(&before, &stock, &scaled.source);
                    let light = stage.light(&scaled.source, region);
                    (stage, light)
                });
                let decoding = stage.decoding();
                for i in 0..region.pixels() {
                    let rendered = [0, 1, 2].map(|k| decoding.render([light.plane(k)[i]; 3])[0]);
                    count(rendered.map(|v| encode_srgb(f64::from(v).clamp(0.0, 1.0))));
                }
            }
            CurveOf::Print => {
                let mut plain = development.clone();
                plain.values.retain(|id, _| !id.starts_with("print.curve."));
                let request = RenderRequest {
                    scaled: &scaled,
                    stock: &stock,
                    development: &plain,
                    region,
                    grain: GrainShown::Off,
                    keep_tiles: false,
                    finish: Finish::SCREEN,
                };
                let waiting = Waiting::here();
                let codes = self.renderer.display_8_bit(&request, waiting::until(&|| waiting.is_over()))?;
                codes.chunks_exact(3).for_each(|p| count([0, 1, 2].map(|k| f64::from(p[k]) / 255.0)));
            }
        }
        Ok(spread)
    }

    /// How the print's tones are spread, and what is lost.
    pub fn print_reading(&self, frame: i64, development: &Development) -> Result<PrintReading, LabError> {
        let stock = self.library.stock_of(development)?;
        let (_, measured) = self.measured(frame, development, &stock, MEASURED_EDGE)?;
        Ok(PrintReading::of(&measured))
    }
}

impl PrintReading {
    fn of(measured: &Measured) -> Self {
        let share = 1.0 / measured.lab.len() as f64;
        let mut lightness = vec![0.0; HISTOGRAM_BINS];
        for lab in &measured.lab {
            let bin = (lab[0] / 100.0 * HISTOGRAM_BINS as f64).clamp(0.0, (HISTOGRAM_BINS - 1) as f64);
            lightness[bin as usize] += share;
        }
        let marked = |mark: i16| share * measured.marks.iter().filter(|m| *m & mark != 0).count() as f64;
        Self { lightness, blown: marked(BLOWN), blocked: marked(BLOCKED), banding: marked(BANDING) }
    }
}

/// Distribution of the green layer's (or the only layer's) exposure over the chart and over the zones.
fn spread_of_exposures(exposure: &Picture<LayerExposure>) -> (Vec<f64>, [f64; 11]) {
    let plane = exposure.plane(if exposure.plane_count() == 3 { 1 } else { 0 });
    let mut chart = vec![0.0; CHART_STEPS];
    let mut zones = [0.0; 11];
    let share = 1.0 / plane.len() as f64;
    for e in plane {
        let zone = 5.0 + (*e as f64 / MID_GREY).log2();
        let step = ((zone - FIRST_ZONE) / ZONE_STEP).round().clamp(0.0, (CHART_STEPS - 1) as f64);
        chart[step as usize] += share;
        zones[zone.round().clamp(0.0, 10.0) as usize] += share;
    }
    (chart, zones)
}
