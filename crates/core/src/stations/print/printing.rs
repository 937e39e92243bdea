//! From density to reflectance for one request: the print's tables, one for each combination of what does not act
//! everywhere.

use std::sync::Arc;

use super::exact::Viewing;
use super::screen::Coverage;
use super::settings::PrintSettings;
use super::stage::{PrintStage, Tables};
use super::variations::{Axis, Variations, with_only};
use crate::effect::FilmFrame;
use crate::error::CoreError;
use crate::key::{Key, key};
use crate::picture::buffer::{Display, LayerDensity, Reflectance};
use crate::picture::{Picture, Region};
use crate::prepare::Keeping;
use crate::stations::film::FilmResponse;
use crate::stations::film::grain::UnresolvedGrain;
use crate::stations::years::YearsSettings;

/// Prepared.
pub struct Printing {
    stage: Arc<PrintStage>,
    variations: Option<Variations>,
}

/// The film that is printed, and what of its grain the print cannot see.
pub struct Printed<'a> {
    /// The developed film.
    pub film: &'a FilmResponse,
    /// Names the developed film.
    pub developed: Key,
    /// What of its grain is not resolved.
    pub missing: Arc<Option<UnresolvedGrain>>,
    /// Names what is missing of the grain.
    pub missing_key: Key,
}

impl Printing {
    /// Tables for the settings, and for each combination of what does not act everywhere.
    pub fn prepared(
        settings: &PrintSettings,
        years: &YearsSettings,
        axes: Vec<Axis>,
        printed: &Printed,
        keeping: Keeping,
    ) -> Result<Self, CoreError> {
        let stage = tables(settings, printed, keeping)?;
        let make = |axes: &[Axis], acts: usize| tables(&with_only(settings, years, axes, acts), printed, keeping);
        Ok(Self { stage, variations: Variations::new(axes, make)? })
    }

    /// The print where everything acts.
    pub fn stage(&self) -> &PrintStage {
        &self.stage
    }

    /// Reflectance (linear, working space) of a tile of densities.
    pub fn reflect(
        &self,
        frame: &FilmFrame,
        region: Region,
        density: Picture<LayerDensity>,
        coverage: Option<&[Coverage]>,
    ) -> Picture<Reflectance> {
        match &self.variations {
            None => self.stage.reflect(density, coverage),
            Some(variations) => {
                variations.reflect(frame.source, region, |print| print.reflect(density.clone(), coverage))
            }
        }
    }

    /// Display values at once, where a table holds them and nothing acts only here and there.
    pub fn show(
        &self,
        frame: &FilmFrame,
        region: Region,
        density: Picture<LayerDensity>,
        coverage: Option<&[Coverage]>,
    ) -> Picture<Display> {
        match &self.variations {
            None => self.stage.show(density, coverage),
            Some(_) => crate::output::encode(self.reflect(frame, region, density, coverage)),
        }
    }
}

/// The exact tables do not depend on grain: a moving grain control only smooths them anew.
pub fn tables(settings: &PrintSettings, printed: &Printed, keeping: Keeping) -> Result<Arc<PrintStage>, CoreError> {
    let film = printed.film;
    let exact_key = key(&[&"exact print", &printed.developed, settings, &keeping.rough]);
    let make = if keeping.rough { Tables::roughly } else { Tables::new };
    let exact = keeping.kept(exact_key, || Ok(make(&Viewing::new(film, settings)?, film)))?;
    keeping.kept(key(&[&"print", &exact_key, &printed.missing_key]), || {
        Ok(PrintStage::new(match printed.missing.as_ref() {
            Some(grain) => exact.smoothed(film, grain),
            None => Tables::clone(&exact),
        }))
    })
}
