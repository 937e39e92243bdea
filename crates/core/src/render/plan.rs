//! What a render needs, prepared: the stages with their settings, and the keys of everything that is cached.

use std::fmt::Debug;
use std::sync::Arc;

use super::cache::Cache;
use crate::controls::Values;
use crate::development::Development;
use crate::error::CoreError;
use crate::picture::{FilmGeometry, Region, Source};
use crate::stations::film::grain::{GrainStage, UnresolvedGrain};
use crate::stations::film::{FilmResponse, FilmSettings};
use crate::stations::print::stage::Viewing;
use crate::stations::print::{PrintSettings, PrintStage};
use crate::stations::scene::{SceneSettings, SceneStage};
use crate::stock::Stock;

/// A source at one render scale, with the size of the full picture it was reduced from.
#[derive(Debug, Clone)]
pub struct Scaled {
    pub source: Arc<Source>,
    pub full_width: u32,
    pub full_height: u32,
    /// Names the original's content; part of every key.
    pub content: Arc<str>,
}

impl Scaled {
    pub fn full(source: Arc<Source>, content: &str) -> Self {
        let (full_width, full_height) = (source.width(), source.height());
        Self { source, full_width, full_height, content: content.into() }
    }

    /// The same picture reduced to a size.
    pub fn reduced(&self, width: u32, height: u32) -> Self {
        Self { source: Arc::new(self.source.reduced(width, height)), ..self.clone() }
    }
}

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

/// A hash of everything that a cached thing depends on.
pub type Key = [u8; 16];

/// Hashes the debug form of settings: a new field joins by itself.
fn key(parts: &[&dyn Debug]) -> Key {
    let mut hasher = blake3::Hasher::new();
    for part in parts {
        hasher.update(format!("{part:?};").as_bytes());
    }
    let mut out = [0; 16];
    out.copy_from_slice(&hasher.finalize().as_bytes()[..16]);
    out
}

/// Prepared stages, shared between renders.
pub(super) enum Stage {
    Film(FilmResponse),
    Grain(Option<GrainStage>),
    Print(PrintStage),
}

/// Everything prepared for one request.
pub(super) struct Plan {
    pub scene: SceneStage,
    film: Arc<Stage>,
    grain: Arc<Stage>,
    print: Option<Arc<Stage>>,
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

impl Plan {
    pub fn new(request: &RenderRequest, until: Until, stages: &Cache<Key, Stage>) -> Result<Self, CoreError> {
        let (stock, scaled) = (request.stock, request.scaled);
        let values: Values = request.development.values(stock);
        let scene = SceneSettings::read(&values);
        let film = FilmSettings::read(&values);
        let print = PrintSettings::read(&values);
        let stock_hash = stock.content_hash();

        let film_key = key(&[&"film", &stock_hash, &film.push_stops]);
        let film_stage =
            stages.get_or_make(film_key, || Ok((Stage::Film(FilmResponse::new(stock, &film)), 100_000)))?;
        let response = match film_stage.as_ref() {
            Stage::Film(response) => response,
            _ => return Err(wrong_stage()),
        };

        let pitch = |w: u32, h: u32| FilmGeometry::filling(film.gate, w, h).pitch_um;
        let full_pitch = pitch(scaled.full_width, scaled.full_height);
        let this_pitch = pitch(scaled.source.width(), scaled.source.height());
        let seed = request.development.seed;
        let shown = request.grain == GrainShown::Full && until >= Until::Density;
        let grain_key = key(&[&"grain", &stock_hash, &film, &seed, &this_pitch, &shown]);
        let grain_stage = stages.get_or_make(grain_key, || {
            let stage = shown.then(|| GrainStage::new(stock, &film, response, seed, this_pitch)).flatten();
            Ok::<_, CoreError>((Stage::Grain(stage), 100_000))
        })?;

        let print_stage = if until == Until::Print {
            // the exact tables do not depend on grain: a moving grain control only smooths them anew
            let exact_key = key(&[&"exact print", &film_key, &print]);
            let exact = stages.get_or_make(exact_key, || {
                let viewing = Viewing::new(stock, response, &print)?;
                Ok::<_, CoreError>((Stage::Print(PrintStage::new(&viewing, response)), 600_000))
            })?;
            let shown_pitch = match request.grain {
                GrainShown::Off => None,
                GrainShown::Full => Some(Some(this_pitch)),
                GrainShown::Averaged => Some(None),
            };
            let print_key = key(&[&"print", &exact_key, &film, &full_pitch, &shown_pitch]);
            let smoothed = stages.get_or_make(print_key, || {
                let Stage::Print(tables) = exact.as_ref() else { return Err(wrong_stage()) };
                let unresolved = shown_pitch.and_then(|p| UnresolvedGrain::new(stock, &film, response, full_pitch, p));
                let tables = match unresolved {
                    Some(grain) => tables.smoothed(response, &grain),
                    None => tables.clone(),
                };
                Ok((Stage::Print(tables), 600_000))
            })?;
            Some(smoothed)
        } else {
            None
        };

        let size = (scaled.source.width(), scaled.source.height());
        let plain_density = key(&[&scaled.content, &size, &scene, &film_key]);
        let grained_density = key(&[&plain_density, &grain_key]);
        Ok(Self {
            scene: SceneStage::new(&scene),
            film: film_stage,
            grain: grain_stage,
            print: print_stage,
            plain_density,
            grained_density,
        })
    }

    pub fn film(&self) -> Result<&FilmResponse, CoreError> {
        match self.film.as_ref() {
            Stage::Film(film) => Ok(film),
            _ => Err(wrong_stage()),
        }
    }

    pub fn grain(&self) -> Option<&GrainStage> {
        match self.grain.as_ref() {
            Stage::Grain(grain) => grain.as_ref(),
            _ => None,
        }
    }

    pub fn print(&self) -> Result<&PrintStage, CoreError> {
        match self.print.as_deref() {
            Some(Stage::Print(print)) => Ok(print),
            _ => Err(wrong_stage()),
        }
    }
}

/// Keys are hashes of distinct prefixes, so one key never names two kinds of stage.
fn wrong_stage() -> CoreError {
    CoreError::Development { why: "a prepared stage was not found again; please report this".into() }
}
