//! What Scene asks of a picture: a neutral at a place, and metering.

use amber_core::Development;
use amber_core::colour::lab::from_linear_srgb;
use amber_core::controls::Value;
use amber_core::mask::{self, Reading};
use amber_core::stations::bath::BathSettings;
use amber_core::stations::film::{FilmResponse, FilmSettings};
use amber_core::stations::print::Viewing;
use amber_core::stations::scene::metering;
use amber_core::stations::scene::settings::{TEMPERATURE, TINT};
use amber_core::stations::scene::white_balance::OWN_KELVIN;
use amber_core::stations::scene::{PlainLight, SceneSettings};

use crate::Lab;
use crate::error::LabError;
use crate::plane;
use crate::readings::FilmReading;

/// A picture as it is and as metering proposes.
#[derive(Debug)]
pub struct Metering {
    pub proposed: Development,
    /// Ids of the proposed values, in the order of the bench.
    pub controls: Vec<&'static str>,
    pub before: FilmReading,
    pub after: FilmReading,
    /// The film's straight line, in stops from mid grey.
    pub straight_line: [f64; 2],
}

impl Lab {
    /// Temperature in kelvin and tint in CC that make what lies at a place (shares of width and height) neutral.
    pub fn neutral_at(&self, frame: i64, development: &Development, place: [f64; 2]) -> Result<(f64, f64), LabError> {
        let stock = self.library.stock_of(development)?;
        let scaled = self.measured_at(frame, development, &stock, plane::LONG_EDGE)?;
        let spot = plane::spot(scaled.source.region(), place);
        let settings = SceneSettings {
            temperature_kelvin: OWN_KELVIN,
            tint_cc: 0.0,
            exposure_stops: 0.0,
            ..SceneSettings::read(&development.values(&stock))
        };
        let light = PlainLight::new(&settings).light(&scaled.source, spot);
        let mean = [0, 1, 2].map(|k| light.plane(k).iter().map(|v| f64::from(*v)).sum::<f64>() / spot.pixels() as f64);
        let (kelvin, tint) = metering::neutral(mean).ok_or(LabError::NoNeutral)?;
        Ok((metering::on_grid(&TEMPERATURE, kelvin), metering::on_grid(&TINT, tint)))
    }

    /// Hue and zone of what lies at a place (shares of width and height), as masks read them.
    pub fn range_at(&self, frame: i64, development: &Development, place: [f64; 2]) -> Result<Reading, LabError> {
        let stock = self.library.stock_of(development)?;
        let scaled = self.measured_at(frame, development, &stock, plane::LONG_EDGE)?;
        Ok(mask::read_range(&scaled.source, plane::spot(scaled.source.region(), place)))
    }

    /// What metering proposes; nothing is applied.
    pub fn metering(&self, frame: i64, development: &Development) -> Result<Metering, LabError> {
        let stock = self.library.stock_of(development)?;
        let values = development.values(&stock);
        let film = FilmResponse::new(&stock, &FilmSettings::read(&values), &BathSettings::read(&values));
        let scaled = self.measured_at(frame, development, &stock, plane::LONG_EDGE)?;
        let settings = SceneSettings::read(&values);
        let viewing = Viewing::of(&film, &values)?;
        let lightness = |stops: f64| {
            let exposure = film.grey + stops * 2f64.log10();
            let density = |i: usize| film.curves[i.min(film.layers() - 1)].density(exposure) as f32;
            from_linear_srgb(viewing.shown([density(0), density(1), density(2)]))[0]
        };
        let proposal = metering::propose(&settings, scaled.facts.small(), &film, &lightness);
        let mut proposed = development.clone();
        for (control, value) in proposal.values() {
            proposed.set(&stock, control.id, Value::Number(value))?;
        }
        Ok(Metering {
            before: self.film_reading(frame, development)?,
            after: self.film_reading(frame, &proposed)?,
            controls: proposal.values().map(|(c, _)| c.id).to_vec(),
            straight_line: metering::straight_line(&film),
            proposed,
        })
    }
}
