//! What effects are prepared from beside their settings: the picture, the film's geometry, masks, and what is kept of
//! earlier preparations.

use std::any::{Any, TypeId};
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use rayon::ThreadPool;

use crate::cache::Cache;
use crate::error::CoreError;
use crate::key::{Key, key};
use crate::mask::{MaskUse, PreparedUse};
use crate::measure::Facts;
use crate::memory::Memory;
use crate::picture::own::OwnPictures;
use crate::picture::{FilmGeometry, Gate, Source};
use crate::stock::Stock;

/// Pixels of a picture up to which it counts as small.
const SMALL_IN_MOTION: usize = 400_000;

/// Something that takes long to prepare and is kept between renders.
pub trait Kept: Send + Sync + 'static {
    /// About how much memory it takes.
    fn bytes(&self) -> usize;

    /// The share of the memory that all of its kind may take.
    fn share(memory: &Memory) -> usize;
}

impl Kept for Source {
    fn bytes(&self) -> usize {
        Source::bytes(self)
    }

    fn share(memory: &Memory) -> usize {
        memory.halves
    }
}

/// A cache for every kind of thing that is kept.
pub struct Shelf {
    memory: Memory,
    caches: Mutex<HashMap<TypeId, Arc<dyn Any + Send + Sync>>>,
}

impl Shelf {
    /// Divides a memory among what is kept.
    pub fn new(memory: Memory) -> Self {
        Self { memory, caches: Mutex::default() }
    }

    /// Bytes of what is kept of a kind.
    #[cfg(test)]
    pub fn bytes_of<T: Kept>(&self) -> usize {
        self.of::<T>().bytes()
    }

    fn of<T: Kept>(&self) -> Arc<Cache<Key, T>> {
        // a poisoned lock only means that another render panicked; the map itself is whole
        let mut caches = self.caches.lock().unwrap_or_else(PoisonError::into_inner);
        let make = || Arc::new(Cache::<Key, T>::new(T::share(&self.memory)));
        let kept = caches.entry(TypeId::of::<T>()).or_insert_with(|| make()).clone();
        kept.downcast().unwrap_or_else(|_| make())
    }
}

/// Where what is prepared is kept and computed.
#[derive(Clone, Copy)]
pub struct Keeping<'a> {
    /// What is kept of earlier preparations.
    pub shelf: &'a Shelf,
    /// Where preparation is computed.
    pub pool: &'a ThreadPool,
    /// Whether a rough one does: for a picture in motion, or one the size of a stamp.
    pub rough: bool,
}

impl Keeping<'_> {
    /// What is kept under a key, made on the render pool where it is not there.
    pub fn kept<T: Kept>(
        &self,
        key: Key,
        make: impl FnOnce() -> Result<T, CoreError> + Send,
    ) -> Result<Arc<T>, CoreError> {
        self.shelf.of::<T>().get_or_make(key, || {
            let made = self.pool.install(make)?;
            let bytes = made.bytes();
            Ok((made, bytes))
        })
    }
}

/// Handed to every station that prepares its effects for a request.
#[derive(Clone, Copy)]
pub struct Prepare<'a> {
    /// The stock that is developed.
    pub stock: &'a Stock,
    /// The picture at the scale that is rendered.
    pub source: &'a Arc<Source>,
    /// Names the picture's content whatever its scale.
    pub content: &'a str,
    /// What is measured on the picture.
    pub facts: &'a Facts,
    /// Size of the full picture in what fills the film's gate, in full pixels.
    pub film: [u32; 2],
    /// Pixels across of the full picture as framed.
    pub full_width: u32,
    /// Where in the film's format the picture's corner lies, in pixels of this scale.
    pub corner: [u32; 2],
    /// The frame's seed.
    pub seed: u32,
    /// Where what is prepared is kept. A copy of the picture half as large does for a rough one.
    pub keeping: Keeping<'a>,
    /// Where sheets of one's own come from.
    pub pictures: &'a dyn OwnPictures,
    /// Makes a mask ready for the picture.
    pub draw: &'a (dyn Fn(&MaskUse) -> PreparedUse + Sync),
}

impl Prepare<'_> {
    /// What is kept under a key, made on the render pool where it is not there.
    pub fn kept<T: Kept>(
        &self,
        key: Key,
        make: impl FnOnce() -> Result<T, CoreError> + Send,
    ) -> Result<Arc<T>, CoreError> {
        self.keeping.kept(key, make)
    }

    /// Whether the picture moves and is so small that what is made of it is best made of the whole at once.
    pub fn is_small_in_motion(&self) -> bool {
        self.keeping.rough && self.source.region().pixels() <= SMALL_IN_MOTION
    }

    /// The picture made small: what is the same at every scale is measured on it.
    pub fn small(&self) -> &Arc<Source> {
        self.keeping.pool.install(|| self.facts.small())
    }

    /// The small picture, or one half as large where that does: for what spreads over the whole frame.
    pub fn small_enough(&self) -> Result<Arc<Source>, CoreError> {
        if !self.keeping.rough {
            return Ok(self.small().clone());
        }
        if self.is_small_in_motion() {
            return Ok(self.source.clone());
        }
        let half = |side: u32| side.div_ceil(2);
        let made = || {
            let small = self.facts.small();
            Ok(small.reduced(half(small.width()), half(small.height())))
        };
        self.kept(key(&[&"half of the small one", &self.content]), made)
    }

    /// A mask over this picture.
    pub fn mask(&self, place: &MaskUse) -> PreparedUse {
        self.keeping.pool.install(|| (self.draw)(place))
    }

    /// Where an effect applies, where that is not everywhere.
    pub fn place(&self, place: &Option<MaskUse>) -> Option<PreparedUse> {
        place.as_ref().map(|place| self.mask(place))
    }

    /// The full picture on the film, in um per pixel.
    pub fn full_pitch_um(&self, gate: Gate) -> f64 {
        FilmGeometry::filling(gate, self.film[0], self.film[1]).pitch_um
    }

    /// The picture at this scale on the film.
    pub fn geometry(&self, gate: Gate) -> FilmGeometry {
        let (width, height) = (self.source.width(), self.source.height());
        let pitch_um = self.full_pitch_um(gate) * f64::from(self.full_width) / f64::from(width);
        FilmGeometry { pitch_um, width, height }
    }

    /// Width and height of the picture at this scale.
    pub fn size(&self) -> [u32; 2] {
        [self.source.width(), self.source.height()]
    }
}
