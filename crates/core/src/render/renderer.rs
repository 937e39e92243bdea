//! Walking a plan over tiles.

use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError, Weak};

use rayon::ThreadPool;
use rayon::prelude::*;

use super::alone::{self, Alone};
use super::plan::{GrainShown, MosaicPlace, Plan, RenderRequest, Until};
use super::scaled::Scaled;
use crate::cache::Cache;
use crate::error::CoreError;
use crate::key::Key;
use crate::mask::{Mask, MaskCache, MaskUse};
use crate::memory::Memory;
use crate::output::{self, OutputSpace};
use crate::picture::buffer::{Display, LayerDensity, LayerExposure, Quantity, Reflectance, SceneLight};
use crate::picture::own::{NoPictures, OwnPictures};
use crate::picture::{Picture, Region};
use crate::prepare::{Keeping, Prepare, Shelf};
use crate::stations::film::grain::GrainStage;
use crate::stations::print::screen::{self, Coverage};

/// What a renderer keeps beside tiles where it is not said.
const KEPT: usize = 640 << 20;

/// Looks after a render from outside: may abandon it, is told how far it is.
#[derive(Clone, Copy)]
pub struct Watch<'a> {
    /// Asked before every tile and between set-up steps.
    pub abandoned: &'a (dyn Fn() -> bool + Sync),
    /// Told the tiles done and all tiles.
    pub progress: &'a (dyn Fn(usize, usize) + Sync),
}

impl Watch<'_> {
    /// Nobody abandons it, nobody listens.
    pub const NONE: Watch<'static> = Watch { abandoned: &|| false, progress: &|_, _| {} };

    pub(super) fn check(&self) -> Result<(), CoreError> {
        if (self.abandoned)() { Err(CoreError::Abandoned) } else { Ok(()) }
    }
}

/// Renders on a thread pool of its own, with bounded caches.
pub struct Renderer {
    pool: Arc<ThreadPool>,
    pub(super) kept: Arc<Store>,
    pictures: Arc<dyn OwnPictures>,
}

/// What is kept between renders.
pub(super) struct Store {
    shelf: Shelf,
    /// The grain whose fields were made ahead.
    pub ahead: Mutex<Weak<GrainStage>>,
    masks: MaskCache,
    tiles: Cache<(Key, u32, u32), Picture<LayerDensity>>,
    mosaics: Cache<(Key, u32, u32), Vec<Coverage>>,
}

impl Renderer {
    /// `tile_budget` bounds the developed tiles kept for views, in bytes.
    pub fn new(pool: Arc<ThreadPool>, tile_budget: usize) -> Self {
        let rest = Memory::of(KEPT);
        Self::within(pool, Memory { tiles: tile_budget, mosaics: rest.mosaics.min(tile_budget), ..rest })
    }

    /// With bounds for all that it keeps.
    pub fn within(pool: Arc<ThreadPool>, memory: Memory) -> Self {
        let kept = Store {
            shelf: Shelf::new(memory),
            ahead: Mutex::default(),
            masks: MaskCache::new(memory.masks),
            tiles: Cache::new(memory.tiles),
            mosaics: Cache::new(memory.mosaics),
        };
        Self { pool, kept: Arc::new(kept), pictures: Arc::new(NoPictures) }
    }

    /// Another one that works on other threads and shares all that is kept.
    pub fn on(&self, pool: Arc<ThreadPool>) -> Self {
        Self { pool, kept: self.kept.clone(), pictures: self.pictures.clone() }
    }

    /// The same with sheets of one's own from somewhere.
    pub fn with_pictures(self, pictures: Arc<dyn OwnPictures>) -> Self {
        Self { pictures, ..self }
    }

    /// The threads on which it renders.
    pub fn pool(&self) -> &ThreadPool {
        &self.pool
    }

    /// Where what it prepares is kept.
    pub(super) fn keeping(&self, rough: bool) -> Keeping<'_> {
        Keeping { shelf: &self.kept.shelf, pool: &self.pool, rough }
    }

    /// Bytes of developed tiles in the cache.
    pub fn cached_bytes(&self) -> usize {
        self.kept.tiles.bytes()
    }

    /// Linear scene light.
    pub fn scene_light(&self, request: &RenderRequest, watch: Watch) -> Result<Picture<SceneLight>, CoreError> {
        self.collect(request, Until::Light, watch, |plan, cell| {
            Ok(plan.exposing.light.over(&request.scaled.source, cell))
        })
    }

    /// Linear exposure of each layer, halation included.
    pub fn exposure(&self, request: &RenderRequest, watch: Watch) -> Result<Picture<LayerExposure>, CoreError> {
        self.collect(request, Until::Exposure, watch, |plan, cell| Ok(plan.exposed(&plan.frame(request), cell)))
    }

    /// Density of each layer, grain included.
    pub fn density(&self, request: &RenderRequest, watch: Watch) -> Result<Picture<LayerDensity>, CoreError> {
        self.collect(request, Until::Density, watch, |plan, cell| {
            Ok(Arc::unwrap_or_clone(self.density_tile(plan, request, cell)?))
        })
    }

    /// Linear reflectance in the working space.
    pub fn reflectance(&self, request: &RenderRequest, watch: Watch) -> Result<Picture<Reflectance>, CoreError> {
        self.collect(request, Until::Print, watch, |plan, cell| {
            plan.on_print.try_over(&plan.frame(request), cell, &|cell| self.reflectance_tile(plan, request, cell))
        })
    }

    /// Display-encoded sRGB in 8 bits, interleaved.
    pub fn display_8_bit(&self, request: &RenderRequest, watch: Watch) -> Result<Vec<u8>, CoreError> {
        self.interleaved(request, watch, output::to_8_bit)
    }

    /// Display-encoded sRGB in 16 bits, interleaved.
    pub fn display_16_bit(&self, request: &RenderRequest, watch: Watch) -> Result<Vec<u16>, CoreError> {
        self.interleaved(request, watch, output::to_16_bit)
    }

    /// One effect alone, display-encoded in 8 bits, interleaved.
    pub fn alone_8_bit(&self, request: &RenderRequest, alone: Alone, watch: Watch) -> Result<Vec<u8>, CoreError> {
        let until = match alone {
            Alone::Bloom | Alone::Light => Until::Light,
            Alone::Halation | Alone::Exposure => Until::Exposure,
            Alone::Grain | Alone::Film => Until::Density,
        };
        self.gathered(request, until, watch, output::to_8_bit, |plan, cell| match alone {
            Alone::Bloom => Ok(alone::bloom(plan, request, cell)),
            Alone::Halation => Ok(alone::halation(plan, request, cell)),
            Alone::Light => Ok(alone::light(plan, request, cell)),
            Alone::Exposure => Ok(alone::exposure(plan, &plan.exposed(&plan.frame(request), cell))),
            Alone::Film => {
                let density = self.density_tile(plan, request, cell)?;
                alone::film(plan, &density).ok_or(CoreError::NotPrinted)
            }
            Alone::Grain => {
                let plain = plan.developed(&plan.frame(request), cell);
                let frame = plan.frame(request);
                let grained = plan.grain.over(&frame, cell, |_| plain.clone());
                Ok(alone::grain(plan, plain, &grained))
            }
        })
    }

    /// A mask over a region of a framed picture, 0 to 1.
    pub fn mask(&self, scaled: &Scaled, mask: &Mask, region: Region) -> Vec<f32> {
        let asked = MaskUse::new(mask.clone(), false);
        self.pool.install(|| scaled.mask(&asked, &self.kept.masks).over(&scaled.source, region))
    }

    fn interleaved<T: Copy + Default + Send>(
        &self,
        request: &RenderRequest,
        watch: Watch,
        quantise: impl Fn(&Picture<Display>) -> Vec<T> + Sync,
    ) -> Result<Vec<T>, CoreError> {
        self.gathered(request, Until::Print, watch, quantise, |plan, cell| self.display_tile(plan, request, cell))
    }

    fn gathered<T: Copy + Default + Send>(
        &self,
        request: &RenderRequest,
        until: Until,
        watch: Watch,
        quantise: impl Fn(&Picture<Display>) -> Vec<T> + Sync,
        make: impl Fn(&Plan, Region) -> Result<Picture<Display>, CoreError> + Sync,
    ) -> Result<Vec<T>, CoreError> {
        let region = inside(request)?;
        let out = Mutex::new(vec![T::default(); 3 * region.pixels()]);
        self.for_each_tile(request, until, watch, |plan, cell| {
            let part = part_of(cell, region);
            let tile = make(plan, cell)?;
            let pixels = quantise(&if tile.region == part { tile } else { tile.cut(part) });
            let mut out = out.lock().unwrap_or_else(PoisonError::into_inner);
            lay(&mut out, region, part, &pixels);
            Ok(())
        })?;
        Ok(out.into_inner().unwrap_or_else(PoisonError::into_inner))
    }

    fn collect<Q: Quantity>(
        &self,
        request: &RenderRequest,
        until: Until,
        watch: Watch,
        make: impl Fn(&Plan, Region) -> Result<Picture<Q>, CoreError> + Sync,
    ) -> Result<Picture<Q>, CoreError> {
        let out: Mutex<Option<Picture<Q>>> = Mutex::new(None);
        self.for_each_tile(request, until, watch, |plan, cell| {
            let tile = make(plan, cell)?;
            let mut out = out.lock().unwrap_or_else(PoisonError::into_inner);
            out.get_or_insert_with(|| Picture::new(request.region, tile.plane_count())).paste(&tile);
            Ok(())
        })?;
        let made = out.into_inner().unwrap_or_else(PoisonError::into_inner);
        Ok(made.unwrap_or_else(|| Picture::new(request.region, 3)))
    }

    /// What a request needs, prepared on the thread that asks: it may wait for another one that prepares the same.
    pub(super) fn planned(&self, request: &RenderRequest, until: Until, watch: Watch) -> Result<Plan, CoreError> {
        watch.check()?;
        if !request.scaled.suits(request.development, request.stock) {
            return Err(CoreError::NotFramed);
        }
        let scaled = request.scaled;
        let prepare = Prepare {
            stock: request.stock,
            source: &scaled.source,
            content: &scaled.content,
            facts: &scaled.facts,
            film: scaled.film,
            full_width: scaled.full_width,
            corner: scaled.corner_here(),
            seed: request.development.seed,
            keeping: self.keeping(request.grain == GrainShown::Averaged),
            pictures: self.pictures.as_ref(),
            draw: &|place| scaled.mask(place, &self.kept.masks),
        };
        Plan::new(request, until, &prepare)
    }

    /// Works on tiles on the render pool.
    fn over(&self, cells: &[Region], work: &(dyn Fn(Region) -> Result<(), CoreError> + Sync)) -> Result<(), CoreError> {
        self.pool.install(|| cells.par_iter().try_for_each(|cell| work(*cell)))
    }

    fn for_each_tile(
        &self,
        request: &RenderRequest,
        until: Until,
        watch: Watch,
        work: impl Fn(&Plan, Region) -> Result<(), CoreError> + Sync,
    ) -> Result<(), CoreError> {
        let region = inside(request)?;
        let plan = self.planned(request, until, watch)?;
        let cells = region.cells(plan.tile, &request.scaled.source.region());
        let done = AtomicUsize::new(0);
        self.over(&cells, &|cell| {
            watch.check()?;
            // a kept tile is made whole, so that the next region finds it; otherwise only what is asked for
            let cell = if request.keep_tiles { cell } else { part_of(cell, region) };
            work(&plan, cell)?;
            (watch.progress)(done.fetch_add(1, Ordering::Relaxed) + 1, cells.len());
            Ok(())
        })
    }

    /// Density of a tile, grain included.
    fn density_tile(
        &self,
        plan: &Plan,
        request: &RenderRequest,
        cell: Region,
    ) -> Result<Arc<Picture<LayerDensity>>, CoreError> {
        let kept = |key: Key, make: &dyn Fn() -> Result<Picture<LayerDensity>, CoreError>| {
            if !request.keep_tiles {
                return make().map(Arc::new);
            }
            self.kept
                .tiles
                .get_or_make((key, cell.x, cell.y), || make().map(|tile| (tile.bytes(), tile)).map(|(b, t)| (t, b)))
        };
        let frame = plan.frame(request);
        let plain = || kept(plan.plain_density, &|| Ok(plan.developed(&frame, cell)));
        if plan.laid.is_empty() {
            return plain();
        }
        kept(plan.laid_density, &|| {
            plan.laid.try_over(&frame, cell, &|region| {
                // grain reaches no further than its pixel: what is kept is what it asks for
                if region == cell { plain().map(Arc::unwrap_or_clone) } else { Ok(plan.developed(&frame, region)) }
            })
        })
    }

    /// Density of any rectangle: from kept tiles where they are kept.
    fn density_of(
        &self,
        plan: &Plan,
        request: &RenderRequest,
        region: Region,
    ) -> Result<Picture<LayerDensity>, CoreError> {
        let frame = request.scaled.source.region();
        let one_tile = || region.cells(plan.tile, &frame).as_slice() == [region];
        if !request.keep_tiles || one_tile() {
            return Ok(Arc::unwrap_or_clone(self.density_tile(plan, request, region)?));
        }
        let mut out = Picture::new(region, plan.film().layers());
        for cell in region.cells(plan.tile, &frame) {
            out.paste(self.density_tile(plan, request, cell)?.as_ref());
        }
        Ok(out)
    }

    /// The mosaic of a screen plate over a rectangle.
    fn coverage(&self, plan: &Plan, keep: bool, region: Region) -> Result<Option<Arc<Vec<Coverage>>>, CoreError> {
        let (Some(MosaicPlace { seed, pitch_um, key }), Some(plate)) = (plan.mosaic, plan.print()?.stage().screen())
        else {
            return Ok(None);
        };
        let make = || screen::coverage(&plate.mosaic, seed, pitch_um, region);
        let is_cell = region.x.is_multiple_of(plan.tile) && region.y.is_multiple_of(plan.tile);
        if !keep || !is_cell || region.width > plan.tile || region.height > plan.tile {
            return Ok(Some(Arc::new(make())));
        }
        let bytes = region.pixels() * size_of::<Coverage>();
        self.kept.mosaics.get_or_make((key, region.x, region.y), || Ok((make(), bytes))).map(Some)
    }

    /// A region of the print before anything is done to it.
    fn printed(&self, plan: &Plan, request: &RenderRequest, region: Region) -> Result<Printed, CoreError> {
        let density = self.density_of(plan, request, region)?;
        Ok(Printed { density, coverage: self.coverage(plan, request.keep_tiles, region)? })
    }

    fn reflectance_tile(
        &self,
        plan: &Plan,
        request: &RenderRequest,
        cell: Region,
    ) -> Result<Picture<Reflectance>, CoreError> {
        let (frame, print) = (plan.frame(request), plan.print()?);
        plan.finishing.effects.try_over(&frame, cell, &|region| {
            let Printed { density, coverage } = self.printed(plan, request, region)?;
            Ok(print.reflect(&frame, region, density, coverage.as_deref().map(Vec::as_slice)))
        })
    }

    pub(super) fn display_tile(
        &self,
        plan: &Plan,
        request: &RenderRequest,
        cell: Region,
    ) -> Result<Picture<Display>, CoreError> {
        plan.sharpening.try_over(&plan.frame(request), cell, &|cell| self.shown_tile(plan, request, cell))
    }

    /// A tile in the space in which the picture leaves.
    fn shown_tile(&self, plan: &Plan, request: &RenderRequest, cell: Region) -> Result<Picture<Display>, CoreError> {
        let space = request.finish.space;
        if space != OutputSpace::Srgb && plan.over.is_empty() {
            let print = self.reflectance_tile(plan, request, cell)?;
            return Ok(space.encode(print, plan.finishing.fitted));
        }
        let shown = plan.over.try_over(&plan.frame(request), cell, &|cell| self.print_tile(plan, request, cell))?;
        Ok(space.of_srgb(shown))
    }

    /// The print as the display shows it, before anything is laid over it.
    fn print_tile(&self, plan: &Plan, request: &RenderRequest, cell: Region) -> Result<Picture<Display>, CoreError> {
        if plan.finishing.effects.is_empty() {
            let Printed { density, coverage } = self.printed(plan, request, cell)?;
            let coverage = coverage.as_deref().map(Vec::as_slice);
            return Ok(plan.print()?.show(&plan.frame(request), cell, density, coverage));
        }
        let print = self.reflectance_tile(plan, request, cell)?;
        Ok(if plan.finishing.fitted { output::encode_fitted(print) } else { output::encode(print) })
    }
}

/// Density of a region, and the mosaic of a screen plate over it.
struct Printed {
    density: Picture<LayerDensity>,
    coverage: Option<Arc<Vec<Coverage>>>,
}

/// The region that is asked for, which must lie in the frame: asked before anything of its size is made.
pub(super) fn inside(request: &RenderRequest) -> Result<Region, CoreError> {
    let (frame, region) = (request.scaled.source.region(), request.region);
    if !region.is_empty() && frame.contains(&region) {
        return Ok(region);
    }
    Err(CoreError::RegionOutside {
        x: region.x,
        y: region.y,
        width: region.width,
        height: region.height,
        frame_width: frame.width,
        frame_height: frame.height,
    })
}

/// The part of a tile that a region asks for.
pub(super) fn part_of(cell: Region, region: Region) -> Region {
    cell.intersect(&region).unwrap_or(cell)
}

/// Copies a part's interleaved pixels to their place in those of a rectangle around it.
pub(super) fn lay<T: Copy>(out: &mut [T], around: Region, part: Region, pixels: &[T]) {
    for (row, line) in pixels.chunks_exact(3 * part.width as usize).enumerate() {
        let y = part.y - around.y + row as u32;
        let start = 3 * (y as usize * around.width as usize + (part.x - around.x) as usize);
        out[start..start + line.len()].copy_from_slice(line);
    }
}
