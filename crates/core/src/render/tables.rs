//! What a plan needs whatever the picture shows: tables of the film, its grain and its print.
//!
//! They hang on the development, the stock, and how large the picture lies on the film.

use std::sync::Arc;

use crate::error::CoreError;
use crate::key::key;
use crate::prepare::Keeping;
use crate::stations::bath::BathSettings;
use crate::stations::film::grain::{GrainStage, UnresolvedGrain};
use crate::stations::film::{FilmKeys, FilmResponse, FilmSettings};
use crate::stations::print::Printed;
use crate::stock::Stock;

/// The film of a development, and where its tables are kept.
pub(super) struct FilmTables<'a> {
    pub film: &'a FilmSettings,
    pub bath: &'a BathSettings,
    pub keys: &'a FilmKeys,
    pub keeping: Keeping<'a>,
}

impl FilmTables<'_> {
    pub fn response(&self, stock: &Stock) -> Result<Arc<FilmResponse>, CoreError> {
        self.keeping.kept(self.keys.response, || Ok(FilmResponse::new(stock, self.film, self.bath)))
    }

    /// Grain on pixels of a pitch, where there is any.
    pub fn grain(
        &self,
        response: &FilmResponse,
        seed: u32,
        pitch_um: f64,
    ) -> Result<Option<Arc<GrainStage>>, CoreError> {
        if self.film.granularity <= 0.0 {
            return Ok(None);
        }
        let grain_key = key(&[&"grain", &self.keys.grain, &seed, &pitch_um]);
        self.keeping.kept(grain_key, || Ok(GrainStage::of(self.film, response, seed, pitch_um))).map(Some)
    }

    /// The developed film as it is printed; `shown_pitch_um` says on what pixels its grain is shown, if it is.
    pub fn printed<'r>(
        &self,
        response: &'r FilmResponse,
        full_pitch_um: f64,
        shown_pitch_um: Option<Option<f64>>,
    ) -> Result<Printed<'r>, CoreError> {
        let Self { film, keys, keeping, .. } = self;
        let missing_key = key(&[&"missing grain", &keys.grain, &full_pitch_um, &shown_pitch_um, &keeping.rough]);
        let of_shown = |shown| UnresolvedGrain::new(film, response, full_pitch_um, shown, keeping.rough);
        let missing = keeping.kept(missing_key, || Ok(shown_pitch_um.and_then(of_shown)))?;
        Ok(Printed { film: response, developed: keys.developed, missing, missing_key })
    }
}
