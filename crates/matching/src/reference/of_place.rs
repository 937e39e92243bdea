//! What of a reference hangs on the place: grain, the glow round lights, falloff. Each is measured for itself and set
//! where it differs by more than would be seen.

use amber_core::controls::{Control, Value};
use amber_core::picture::FilmGeometry;
use amber_core::render::Renderer;
use amber_core::stations::film::FilmSettings;
use amber_core::stations::film::settings::{GRANULARITY, HALATION_STRENGTH};
use amber_core::stations::lens::LensSettings;
use amber_core::stations::lens::settings::FALLOFF;
use amber_core::stations::scene::metering::on_grid;
use amber_core::{Development, Source, Stock};

use super::falloff::{Undarkened, falloff_stops};
use super::lights::{LightGlow, Lights};
use super::unexplained_grain::log_ratio;
use crate::colour::PointPrint;
use crate::error::MatchError;
use crate::grain::{Enlarged, GrainMeasure, Strips};

/// By how much the grain of a proposal may differ, as ln of its noise, before it is moved, and how far it is moved.
const GRAIN_ALIKE: f64 = 0.12;
const GRAIN_MOVED: f64 = 0.7;
/// ln of two grains' lengths from which on they are of another kind.
const OF_A_KIND: f64 = 0.35;
/// Fewest lights that say something: a few may be white things of some colour beside.
const FEWEST_LIGHTS: usize = 6;
/// Share and strength by which halation may differ before it is moved.
const HALATION_ALIKE: (f64, f64) = (0.3, 0.02);
/// No film throws back more: what seems to is something else round the lights.
const MOST_HALATION: f64 = 0.45;
/// Stops of falloff up to which a subject itself may darken outwards, as one in a flash's light does, and that no
/// reference is believed beyond.
const FALLOFF_ALIKE: f64 = 1.25;
const MOST_FALLOFF: f64 = 3.0;

/// A reference and the frame that is brought there.
pub struct OfPlace<'a> {
    renderer: &'a Renderer,
    reference: &'a Source,
    frame: &'a Source,
    noise: Option<GrainMeasure>,
}

impl<'a> OfPlace<'a> {
    /// Measured on the reference.
    pub fn new(renderer: &'a Renderer, reference: &'a Source, frame: &'a Source) -> Self {
        let noise = GrainMeasure::of(reference, reference.region()).ok();
        Self { renderer, reference, frame, noise }
    }

    /// The noise of the reference, where it could be measured.
    pub fn noise(&self) -> Option<&GrainMeasure> {
        self.noise.as_ref()
    }

    /// The reference fills the film.
    fn enlarged(&self) -> Enlarged {
        Enlarged { film: [self.reference.width(), self.reference.height()], scale: 1.0 }
    }

    /// The noise of a stock's own grain at the size of the reference.
    pub fn own_grain(&self, stock: &Stock) -> Result<GrainMeasure, MatchError> {
        let greys = Strips::of_greys(&Development::new(stock));
        Strips::new(self.renderer, stock, self.enlarged()).measured(&greys)
    }

    /// The values that bring a development there.
    pub fn values(
        &self,
        stock: &Stock,
        development: &Development,
    ) -> Result<Vec<(&'static Control, Value)>, MatchError> {
        let found = [
            (&GRANULARITY, self.granularity(stock)?),
            (&HALATION_STRENGTH, self.halation(stock, development)?),
            (&FALLOFF, self.falloff(stock, development)?),
        ];
        let set = |(control, value): (&'static Control, Option<f64>)| {
            value.map(|value| (control, Value::Number(on_grid(control, value))))
        };
        Ok(found.into_iter().filter_map(set).collect())
    }

    /// The granularity by which a stock's grain is as strong as the reference's noise, where that is of its kind.
    fn granularity(&self, stock: &Stock) -> Result<Option<f64>, MatchError> {
        let Some(noise) = &self.noise else { return Ok(None) };
        let own = self.own_grain(stock)?;
        let of_its_kind = (own.length_px() / noise.length_px()).ln().abs() < OF_A_KIND;
        let Some(more) = log_ratio(&own, noise).filter(|_| of_its_kind) else { return Ok(None) };
        let moved = (GRAIN_ALIKE..GRAIN_MOVED).contains(&more.abs());
        Ok(moved.then(|| stock.grain.granularity * (-more).exp()))
    }

    /// The strength of halation by which lights glow as in the reference.
    fn halation(&self, stock: &Stock, development: &Development) -> Result<Option<f64>, MatchError> {
        let values = development.values(stock);
        let [width, height] = [self.reference.width(), self.reference.height()];
        let pitch_um = FilmGeometry::filling(FilmSettings::read(&values).gate, width, height).pitch_um;
        let Some(glow) = LightGlow::of(self.reference, pitch_um).filter(|glow| glow.lights >= FEWEST_LIGHTS) else {
            return Ok(None);
        };
        let lights = Lights { renderer: self.renderer, stock, enlarged: self.enlarged(), pitch_um };
        let Some(strength) = lights.strength(development, &glow)? else { return Ok(None) };
        let own = values.number(&HALATION_STRENGTH);
        let (share, least) = HALATION_ALIKE;
        let moved = strength < MOST_HALATION && (strength - own).abs() > share * own + least;
        Ok(moved.then_some(strength))
    }

    /// The falloff by which the frame's edges are as much darker than its middle as the reference's.
    fn falloff(&self, stock: &Stock, development: &Development) -> Result<Option<f64>, MatchError> {
        let middle = LensSettings::read(&development.values(stock)).falloff.middle;
        let print = PointPrint::new(stock, development)?;
        let of_reference = falloff_stops(self.reference, middle, &Undarkened::of_print(&print));
        let of_frame = falloff_stops(self.frame, middle, &Undarkened::of_camera());
        let more = of_reference.map(|stops| stops - of_frame.unwrap_or(0.0).min(0.0));
        Ok(more.filter(|stops| *stops < -FALLOFF_ALIKE).map(|stops| stops.max(-MOST_FALLOFF)))
    }
}
