//! Walking a plan over tiles.

use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

use rayon::ThreadPool;
use rayon::prelude::*;

use super::cache::Cache;
use super::plan::{Key, Plan, RenderRequest, Stage, Until};
use crate::error::CoreError;
use crate::output;
use crate::picture::buffer::{Display, LayerDensity, LayerExposure, Quantity, Reflectance, SceneLight};
use crate::picture::{Picture, Region};

/// Side of a tile in pixels.
const TILE: u32 = 256;
/// Budget of the prepared stages, in bytes as they estimate themselves.
const STAGE_BUDGET: usize = 64 << 20;

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

    fn check(&self) -> Result<(), CoreError> {
        if (self.abandoned)() { Err(CoreError::Abandoned) } else { Ok(()) }
    }
}

/// Renders on a thread pool of its own, with bounded caches.
pub struct Renderer {
    pool: Arc<ThreadPool>,
    stages: Cache<Key, Stage>,
    tiles: Cache<(Key, u32, u32), Picture<LayerDensity>>,
}

impl Renderer {
    /// `tile_budget` bounds the developed tiles kept for views, in bytes.
    pub fn new(pool: Arc<ThreadPool>, tile_budget: usize) -> Self {
        Self { pool, stages: Cache::new(STAGE_BUDGET), tiles: Cache::new(tile_budget) }
    }

    pub fn pool(&self) -> &ThreadPool {
        &self.pool
    }

    /// Bytes of developed tiles in the cache.
    pub fn cached_bytes(&self) -> usize {
        self.tiles.bytes()
    }

    /// Linear scene light.
    pub fn scene_light(&self, request: &RenderRequest, watch: Watch) -> Result<Picture<SceneLight>, CoreError> {
        self.collect(request, Until::Light, watch, |plan, cell| Ok(light(plan, request, cell)))
    }

    /// Linear exposure of each layer.
    pub fn exposure(&self, request: &RenderRequest, watch: Watch) -> Result<Picture<LayerExposure>, CoreError> {
        self.collect(request, Until::Exposure, watch, |plan, cell| Ok(plan.film()?.expose(light(plan, request, cell))))
    }

    /// Density of each layer, grain included.
    pub fn density(&self, request: &RenderRequest, watch: Watch) -> Result<Picture<LayerDensity>, CoreError> {
        self.collect(request, Until::Density, watch, |plan, cell| {
            let tile = self.density_tile(plan, request, cell)?;
            Ok(tile.cut(tile.region))
        })
    }

    /// Linear reflectance in the working space.
    pub fn reflectance(&self, request: &RenderRequest, watch: Watch) -> Result<Picture<Reflectance>, CoreError> {
        self.collect(request, Until::Print, watch, |plan, cell| self.reflectance_tile(plan, request, cell))
    }

    /// Display-encoded sRGB in 8 bits, interleaved.
    pub fn display_8_bit(&self, request: &RenderRequest, watch: Watch) -> Result<Vec<u8>, CoreError> {
        self.interleaved(request, watch, output::to_8_bit)
    }

    /// Display-encoded sRGB in 16 bits, interleaved.
    pub fn display_16_bit(&self, request: &RenderRequest, watch: Watch) -> Result<Vec<u16>, CoreError> {
        self.interleaved(request, watch, output::to_16_bit)
    }

    fn interleaved<T: Copy + Default + Send>(
        &self,
        request: &RenderRequest,
        watch: Watch,
        quantise: impl Fn(&Picture<Display>) -> Vec<T> + Sync,
    ) -> Result<Vec<T>, CoreError> {
        let region = request.region;
        let out = Mutex::new(vec![T::default(); 3 * region.pixels()]);
        self.for_each_tile(request, Until::Print, watch, |plan, cell| {
            let part = part_of(cell, region);
            let tile = output::encode(self.reflectance_tile(plan, request, cell)?);
            let pixels = quantise(&if tile.region == part { tile } else { tile.cut(part) });
            let mut out = out.lock().unwrap_or_else(PoisonError::into_inner);
            for (row, line) in pixels.chunks_exact(3 * part.width as usize).enumerate() {
                let y = part.y - region.y + row as u32;
                let start = 3 * (y as usize * region.width as usize + (part.x - region.x) as usize);
                out[start..start + line.len()].copy_from_slice(line);
            }
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

    fn for_each_tile(
        &self,
        request: &RenderRequest,
        until: Until,
        watch: Watch,
        work: impl Fn(&Plan, Region) -> Result<(), CoreError> + Sync,
    ) -> Result<(), CoreError> {
        let frame = request.scaled.source.region();
        let region = request.region;
        if region.is_empty() || !frame.contains(&region) {
            return Err(CoreError::RegionOutside {
                x: region.x,
                y: region.y,
                width: region.width,
                height: region.height,
                frame_width: frame.width,
                frame_height: frame.height,
            });
        }
        watch.check()?;
        self.pool.install(|| {
            let plan = Plan::new(request, until, &self.stages)?;
            let cells = region.cells(TILE, &frame);
            let done = AtomicUsize::new(0);
            cells.par_iter().try_for_each(|cell| {
                watch.check()?;
                // a kept tile is made whole, so that the next region finds it; otherwise only what is asked for
                let cell = if request.keep_tiles { *cell } else { part_of(*cell, region) };
                work(&plan, cell)?;
                (watch.progress)(done.fetch_add(1, Ordering::Relaxed) + 1, cells.len());
                Ok(())
            })
        })
    }

    fn density_tile(
        &self,
        plan: &Plan,
        request: &RenderRequest,
        cell: Region,
    ) -> Result<Arc<Picture<LayerDensity>>, CoreError> {
        let developed = || -> Result<Picture<LayerDensity>, CoreError> {
            let film = plan.film()?;
            Ok(film.develop(film.expose(light(plan, request, cell))))
        };
        let kept = |key: Key, make: &dyn Fn() -> Result<Picture<LayerDensity>, CoreError>| {
            if !request.keep_tiles {
                return make().map(Arc::new);
            }
            self.tiles
                .get_or_make((key, cell.x, cell.y), || make().map(|tile| (tile.bytes(), tile)).map(|(b, t)| (t, b)))
        };
        match plan.grain() {
            None => kept(plan.plain_density, &developed),
            Some(grain) => kept(plan.grained_density, &|| {
                let plain = kept(plan.plain_density, &developed)?;
                let mut tile = Arc::unwrap_or_clone(plain);
                grain.apply(&mut tile);
                Ok(tile)
            }),
        }
    }

    fn reflectance_tile(
        &self,
        plan: &Plan,
        request: &RenderRequest,
        cell: Region,
    ) -> Result<Picture<Reflectance>, CoreError> {
        let density = self.density_tile(plan, request, cell)?;
        Ok(plan.print()?.reflect(Arc::unwrap_or_clone(density)))
    }
}

fn light(plan: &Plan, request: &RenderRequest, cell: Region) -> Picture<SceneLight> {
    plan.scene.light(&request.scaled.source, cell)
}

/// The part of a tile that a region asks for.
fn part_of(cell: Region, region: Region) -> Region {
    cell.intersect(&region).unwrap_or(cell)
}
