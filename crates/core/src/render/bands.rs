//! A picture in bands of whole rows, from the top, each handed over as soon as it is made: what follows the render runs
//! beside it, and the whole is never held.
//!
//! While a band is waited for, the tiles of the next one stand ready, so that no thread is idle at a band's end.

use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::sync::{Mutex, OnceLock, PoisonError};
use std::time::Duration;

use rayon::ThreadPool;

use super::plan::{RenderRequest, Until};
use super::renderer::{Renderer, Watch, inside, lay, part_of};
use crate::error::CoreError;
use crate::output;
use crate::picture::buffer::Display;
use crate::picture::{Picture, Region};

/// How often a thread of the pool itself looks whether there is something to do while it waits.
const LOOKING: Duration = Duration::from_millis(1);

/// A band in the making.
struct Band<T> {
    region: Region,
    pixels: Mutex<Vec<T>>,
    made: AtomicUsize,
}

impl<T> Band<T> {
    fn take(&self) -> Vec<T> {
        std::mem::take(&mut self.pixels.lock().unwrap_or_else(PoisonError::into_inner))
    }
}

/// A band, its tiles, and what tells that none of them is left to be made.
struct Begun<'a, T> {
    band: &'a Band<T>,
    tiles: usize,
    finished: Receiver<()>,
}

impl<T> Begun<'_, T> {
    /// Waits for its tiles; on a thread of the pool it helps to make them.
    fn wait(&self, pool: &ThreadPool) {
        if pool.current_thread_index().is_none() {
            // nothing is ever sent: it ends when the last tile is let go
            let _ = self.finished.recv();
            return;
        }
        while self.finished.recv_timeout(Duration::ZERO) == Err(RecvTimeoutError::Timeout) {
            if pool.yield_now() != Some(rayon::Yield::Executed) {
                std::thread::sleep(LOOKING);
            }
        }
    }
}

impl Renderer {
    /// [`Renderer::display_8_bit`] in bands of whole rows from the top, each handed over as soon as it is made.
    pub fn display_8_bit_bands(
        &self,
        request: &RenderRequest,
        watch: Watch,
        take: &mut dyn FnMut(Vec<u8>) -> Result<(), CoreError>,
    ) -> Result<(), CoreError> {
        self.in_bands(request, watch, output::to_8_bit, take)
    }

    /// [`Renderer::display_16_bit`] in bands, likewise.
    pub fn display_16_bit_bands(
        &self,
        request: &RenderRequest,
        watch: Watch,
        take: &mut dyn FnMut(Vec<u16>) -> Result<(), CoreError>,
    ) -> Result<(), CoreError> {
        self.in_bands(request, watch, output::to_16_bit, take)
    }

    fn in_bands<T: Copy + Default + Send>(
        &self,
        request: &RenderRequest,
        watch: Watch,
        quantise: impl Fn(&Picture<Display>) -> Vec<T> + Sync,
        take: &mut dyn FnMut(Vec<T>) -> Result<(), CoreError>,
    ) -> Result<(), CoreError> {
        let region = inside(request)?;
        let plan = self.planned(request, Until::Print, watch)?;
        let cells = region.cells(plan.tile, &request.scaled.source.region());
        let rows: Vec<&[Region]> = cells.chunk_by(|a, b| a.y == b.y).collect();
        let band_of = |row: &[Region]| {
            let region = part_of(Region { x: region.x, width: region.width, ..row[0] }, region);
            Band { region, pixels: Mutex::default(), made: AtomicUsize::new(0) }
        };
        let bands: Vec<Band<T>> = rows.iter().map(|row| band_of(row)).collect();
        let (done, wrong) = (AtomicUsize::new(0), OnceLock::new());
        let tile = |band: &Band<T>, cell: Region| -> Result<(), CoreError> {
            watch.check()?;
            let made = self.display_tile(&plan, request, part_of(cell, region))?;
            let codes = quantise(&made);
            let mut pixels = band.pixels.lock().unwrap_or_else(PoisonError::into_inner);
            pixels.resize(3 * band.region.pixels(), T::default());
            lay(&mut pixels, band.region, made.region, &codes);
            drop(pixels);
            band.made.fetch_add(1, Ordering::Relaxed);
            (watch.progress)(done.fetch_add(1, Ordering::Relaxed) + 1, cells.len());
            Ok(())
        };
        let work = |band: &Band<T>, cell: Region| {
            if wrong.get().is_none()
                && let Err(error) = tile(band, cell)
            {
                // the first error is the one that is told
                let _ = wrong.set(error);
            }
        };
        self.pool().in_place_scope_fifo(|scope| {
            let mut coming = bands.iter().zip(&rows).map(|(band, row)| {
                let (held, finished): (Sender<()>, _) = channel();
                for cell in *row {
                    let (held, work) = (held.clone(), &work);
                    scope.spawn_fifo(move |_| {
                        work(band, *cell);
                        drop(held);
                    });
                }
                Begun { band, tiles: row.len(), finished }
            });
            let mut now = coming.next();
            while let Some(begun) = now {
                now = coming.next();
                begun.wait(self.pool());
                let whole = begun.band.made.load(Ordering::Relaxed) == begun.tiles;
                let taken = match wrong.get() {
                    Some(error) => Err(error.clone()),
                    // a tile that broke down says so when the scope ends
                    None if !whole => Err(CoreError::Abandoned),
                    None => take(begun.band.take()),
                };
                if let Err(error) = taken {
                    let _ = wrong.set(error);
                    break;
                }
            }
        });
        wrong.into_inner().map_or(Ok(()), Err)
    }
}
