//! Readings of a frame: the film's curves and where this picture's exposures lie on them.

use amber_core::Development;
use amber_core::picture::reduce::Level;
use amber_core::render::{GrainShown, RenderRequest, Watch};
use amber_core::stations::bath::BathSettings;
use amber_core::stations::film::placement::MID_GREY;
use amber_core::stations::film::{FilmResponse, FilmSettings};

use crate::Lab;
use crate::error::LabError;

/// A curve as points over the chart's exposures.
#[derive(Debug, Clone)]
pub struct CurveReading {
    /// Density as tuned, and as the stock has it.
    pub now: Vec<f64>,
    pub stock: Vec<f64>,
}

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

/// Exposures of the chart: zone -0.5 to 10.5 in steps of a tenth.
pub const CHART_STEPS: usize = 111;
const FIRST_ZONE: f64 = -0.5;
const ZONE_STEP: f64 = 0.1;
/// Long edge of the picture that is measured.
const MEASURED_EDGE: u32 = 320;

impl Lab {
    pub fn film_reading(&self, frame: i64, development: &Development) -> Result<FilmReading, LabError> {
        let stock = self.library.stock_of(development)?;
        let values = development.values(&stock);
        let now = FilmResponse::new(&stock, &FilmSettings::read(&values), &BathSettings::read(&values));
        let own = FilmResponse::own(&stock);
        // log exposure at the film of a zone: zone V is mid grey, zones are a stop apart
        let at = |step: usize| (FIRST_ZONE + ZONE_STEP * step as f64 - 5.0) * 2f64.log10();
        let layers = (0..now.layers())
            .map(|i| {
                let points =
                    |film: &FilmResponse| (0..CHART_STEPS).map(|s| film.curves[i].density(film.grey + at(s))).collect();
                CurveReading { now: points(&now), stock: points(&own) }
            })
            .collect();
        let (exposures, zones) = self.exposures(frame, development, &stock)?;
        Ok(FilmReading { layers, exposures, zones })
    }

    /// Distribution of the green layer's (or the only layer's) exposure over the chart and over the zones.
    fn exposures(
        &self,
        frame: i64,
        development: &Development,
        stock: &amber_core::Stock,
    ) -> Result<(Vec<f64>, [f64; 11]), LabError> {
        let summary = self.library.frame(frame)?.summary;
        let level = Level::covering(MEASURED_EDGE, summary.width, summary.height);
        let scaled = self.sources.at(&self.library, &summary, level)?;
        let request = RenderRequest {
            scaled: &scaled,
            stock,
            development,
            region: scaled.source.region(),
            grain: GrainShown::Off,
            keep_tiles: false,
        };
        let exposure = self.renderer.exposure(&request, Watch::NONE)?;
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
        Ok((chart, zones))
    }
}
