//! What a render needs, prepared: what turns one quantity into the next, the lists of effects on each, and the keys of
//! the tiles that are kept.

use std::sync::Arc;

use super::exposing::Exposing;
use super::finish::Finish;
use super::scaled::Scaled;
use super::tables::FilmTables;
use crate::development::Development;
use crate::effect::{Effects, FilmFrame, Finishing};
use crate::error::CoreError;
use crate::key::{Key, key};
use crate::output::{Fit, Sharpen};
use crate::picture::buffer::{Display, LayerDensity, LayerExposure, Reflectance};
use crate::picture::{Picture, Region};
use crate::prepare::Prepare;
use crate::stations::bath::{self, BathSettings};
use crate::stations::film::halation::Haloing;
use crate::stations::film::{FilmKeys, FilmResponse, FilmSettings};
use crate::stations::lens::LensSettings;
use crate::stations::print::variations::Axis;
use crate::stations::print::{self, FinishedSettings, PrintSettings, Printing};
use crate::stations::scene::SceneSettings;
use crate::stations::surface::Surface;
use crate::stations::surface::laid::LaidSheets;
use crate::stations::surface::negative::OnNegative;
use crate::stations::surface::sheet::Sheets;
use crate::stations::tone::{self, ToneSettings};
use crate::stations::years::{self, YearsSettings};
use crate::stock::Stock;

/// Whether a render shows grain.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum GrainShown {
    /// As on the film at this scale.
    Full,
    /// Left out for speed; tones are those of the grained picture. What spreads over the whole frame is computed more
    /// roughly too.
    Averaged,
    /// As though the film had none.
    Off,
}

/// One render.
#[derive(Debug, Clone)]
pub struct RenderRequest<'a> {
    /// The picture, framed and smoothed as the development asks for.
    pub scaled: &'a Scaled,
    /// The stock in force.
    pub stock: &'a Stock,
    /// What is rendered.
    pub development: &'a Development,
    /// In pixels of the scaled source.
    pub region: Region,
    /// Whether grain is shown.
    pub grain: GrainShown,
    /// Keep developed tiles for the next render: for views, not for exports.
    pub keep_tiles: bool,
    /// How it leaves.
    pub finish: Finish,
}

impl<'a> RenderRequest<'a> {
    /// The whole of a picture with its grain as a screen shows it; no tile is kept.
    pub fn whole(scaled: &'a Scaled, stock: &'a Stock, development: &'a Development) -> Self {
        let region = scaled.source.region();
        let (grain, finish) = (GrainShown::Full, Finish::SCREEN);
        Self { scaled, stock, development, region, grain, keep_tiles: false, finish }
    }
}

/// The filter mosaic as it lies on this frame.
#[derive(Debug, Clone, Copy)]
pub(super) struct MosaicPlace {
    pub seed: u32,
    pub pitch_um: f64,
    pub key: Key,
}

/// Side of a tile in pixels, and where what comes before it is made of the whole at once.
pub(super) const TILE: u32 = 256;
const SMALL_TILE: u32 = 96;

/// How far a plan has to reach.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Until {
    Light,
    Exposure,
    Density,
    Print,
}

/// Everything prepared for one request.
pub(super) struct Plan {
    /// From the source to exposure: Scene, Lens and the film that they light.
    pub exposing: Exposing,
    exposure: Effects<LayerExposure>,
    /// One of them, to be shown alone too.
    pub halation: Option<Arc<Haloing>>,
    density: Effects<LayerDensity>,
    /// Laid on the density that is kept: a moving grain control does not develop anew.
    pub grain: Effects<LayerDensity>,
    /// Grain, and the sheets that lie on the film.
    pub laid: Effects<LayerDensity>,
    /// From density to reflectance; of plans that reach it.
    print: Option<Printing>,
    pub mosaic: Option<MosaicPlace>,
    pub finishing: Finishing,
    /// What lies on the print, as a part of its reflectance.
    pub on_print: Effects<Reflectance>,
    /// What lies on the print and over everything, as the display shows it.
    pub over: Effects<Display>,
    /// What is sharpened for its size, last.
    pub sharpening: Effects<Display>,
    corner: [u32; 2],
    /// Side of a tile in pixels.
    pub tile: u32,
    /// Keys of the density before and after what is laid on it; a tile's place joins them.
    pub plain_density: Key,
    pub laid_density: Key,
}

impl Plan {
    pub fn new(request: &RenderRequest, until: Until, prepare: &Prepare) -> Result<Self, CoreError> {
        let values = request.development.values(request.stock);
        let film = FilmSettings::read(&values);
        let bath = BathSettings::read(&values);
        let keys = FilmKeys::new(request.stock, &film, &bath);
        let here = prepare.geometry(film.gate);
        let tables = FilmTables { film: &film, bath: &bath, keys: &keys, keeping: prepare.keeping };
        let response = tables.response(request.stock)?;
        let (scene, optics) = (SceneSettings::read(&values), LensSettings::read(&values));
        let surface = Surface::prepared(&values, film.gate, prepare);
        let mut exposing = Exposing::prepared(&scene, &optics, &film, response.clone(), surface.camera, prepare)?;
        let lit = exposing.key(&film, prepare);
        exposing.hold(lit, prepare)?;

        let mut plan = Self {
            exposing,
            exposure: Effects::default(),
            halation: None,
            density: Effects::default(),
            grain: Effects::default(),
            laid: Effects::default(),
            print: None,
            mosaic: None,
            finishing: Finishing::default(),
            on_print: Effects::default(),
            over: Effects::default(),
            sharpening: Effects::default(),
            corner: prepare.corner,
            tile: if prepare.is_small_in_motion() { SMALL_TILE } else { TILE },
            plain_density: lit,
            laid_density: lit,
        };
        if until >= Until::Exposure {
            plan.join_halation(&film, lit, prepare)?;
        }
        bath::join(&mut plan.density, &bath, &response, prepare.seed, here);
        plan.plain_density = key(&[&lit, &keys.response, &plan.exposure.key(), &plan.density.key()]);
        if until >= Until::Density && request.grain == GrainShown::Full {
            plan.grain.share(tables.grain(&response, prepare.seed, here.pitch_um)?);
        }
        plan.laid = plan.grain.clone();
        plan.laid.push(OnNegative::new(surface.negative, &response));
        plan.laid_density = key(&[&plan.plain_density, &plan.laid.key()]);
        if until == Until::Print {
            plan.join_print(request, &tables, prepare)?;
            plan.join_surface(surface.print, surface.over, request.stock);
            plan.sharpening.push(Sharpen::new(request.finish.sharpening));
        }
        Ok(plan)
    }

    fn join_halation(&mut self, film: &FilmSettings, lit: Key, prepare: &Prepare) -> Result<(), CoreError> {
        let exposing = &self.exposing;
        let stock = &exposing.film.stock;
        let pitch_um = prepare.geometry(film.gate).pitch_um;
        let expose = |source: &_, region| exposing.over(source, region);
        let halation = Haloing::prepared(stock, &film.halation, pitch_um, lit, &expose, prepare)?;
        self.halation = halation.map(Arc::new);
        self.exposure.share(self.halation.clone());
        Ok(())
    }

    /// Print, Tone and Years.
    fn join_print(&mut self, request: &RenderRequest, tables: &FilmTables, prepare: &Prepare) -> Result<(), CoreError> {
        let values = request.development.values(request.stock);
        let (tone, years) = (ToneSettings::read(&values), YearsSettings::read(&values));
        let settings = PrintSettings::of(&values, &tone, &years);
        let gate = tables.film.gate;
        let here = prepare.geometry(gate);
        let response = self.exposing.film.clone();
        let shown_pitch_um = match request.grain {
            GrainShown::Off => None,
            GrainShown::Full => Some(Some(here.pitch_um)),
            GrainShown::Averaged => Some(None),
        };
        let printed = tables.printed(&response, prepare.full_pitch_um(gate), shown_pitch_um)?;
        let printing =
            Printing::prepared(&settings, &years, Axis::all(&tone, &years, prepare), &printed, prepare.keeping)?;

        let ground = printing.stage().single_at(request.stock.plate.is_none());
        let finished = FinishedSettings::read(&values);
        print::join(&mut self.finishing, &finished, &tone, here.pitch_um, &self.exposing.light);
        tone::join(&mut self.finishing, &tone, ground, prepare);
        years::join(&mut self.finishing, &years, prepare);
        if request.grain == GrainShown::Full && response.stock.screen.is_some() {
            let key = key(&[&"mosaic", &prepare.seed, &here, &response.stock.screen]);
            self.mosaic = Some(MosaicPlace { seed: prepare.seed, pitch_um: here.pitch_um, key });
        }
        self.print = Some(printing);
        Ok(())
    }

    /// What lies on the print and over everything.
    fn join_surface(&mut self, print: Sheets, over: Sheets, stock: &Stock) {
        let bare = self.print.as_ref().map_or([1.0; 3], |print| print.stage().single_at(stock.plate.is_none()));
        let print = LaidSheets::new(print, bare).map(Arc::new);
        if print.is_some() && !self.finishing.fitted {
            self.on_print.push(Some(Fit::default()));
        }
        self.on_print.share(print.clone());
        // they come last: what the display shows of the print is what they are laid on
        self.over.share(print);
        self.over.push(LaidSheets::new(over, bare));
    }

    /// The frame that is rendered.
    pub fn frame<'a>(&self, request: &RenderRequest<'a>) -> FilmFrame<'a> {
        FilmFrame { corner: self.corner, ..self.exposing.light.frame(&request.scaled.source) }
    }

    /// Exposure of the layers, halation included.
    pub fn exposed(&self, frame: &FilmFrame, region: Region) -> Picture<LayerExposure> {
        self.exposure.over(frame, region, |region| self.exposing.over(frame.source, region))
    }

    /// Density before grain.
    pub fn developed(&self, frame: &FilmFrame, region: Region) -> Picture<LayerDensity> {
        self.density.over(frame, region, |region| self.film().develop(self.exposed(frame, region)))
    }

    pub fn film(&self) -> &FilmResponse {
        &self.exposing.film
    }

    /// The print; of plans that reach it.
    pub fn print(&self) -> Result<&Printing, CoreError> {
        self.print.as_ref().ok_or(CoreError::NotPrinted)
    }
}
