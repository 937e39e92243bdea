//! Decoded originals at the scales in use, within a budget.

use std::collections::HashMap;
use std::path::PathBuf;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use amber_core::cache::Cache;
use amber_core::picture::framing::FramingSettings;
use amber_core::picture::reduce::Level;
use amber_core::render::Scaled;
use amber_core::stations::lens::LensSettings;
use amber_core::stations::scene::SceneSettings;
use amber_core::stations::scene::noise::NoiseSettings;
use amber_core::{Development, Stock};
use amber_files::{Limits, Metadata, Opened};
use amber_library::{FrameSummary, Library};

use crate::Lab;
use crate::error::LabError;
use crate::hands::Hands;
use crate::levels::Levels;

impl Lab {
    /// The picture that a development starts from, at a zoom step; given up when `over` says so.
    pub(crate) fn source_of(
        &self,
        frame: &FrameSummary,
        level: Level,
        development: &Development,
        stock: &Stock,
        care: Care,
        hands: Hands,
    ) -> Result<Scaled, LabError> {
        let values = development.values(stock);
        let (noise, framing) = (SceneSettings::noise(&values), LensSettings::framing(&values));
        let scaled = self.sources.smoothed(&self.library, frame, level, &noise, care, hands)?;
        self.sources.framed(scaled, level, &framing, hands)
    }

    /// The original, framed as a development frames it.
    pub(crate) fn original_of(
        &self,
        frame: &FrameSummary,
        level: Level,
        development: &Development,
        stock: &Stock,
        hands: Hands,
    ) -> Result<Scaled, LabError> {
        let framing = LensSettings::framing(&development.values(stock));
        let scaled = self.sources.at(&self.library, frame, level, hands)?;
        self.sources.framed(scaled, level, &framing, hands)
    }
}

/// An original at one scale.
pub(crate) struct Kept {
    scaled: Scaled,
    metadata: Metadata,
}

/// How carefully a picture's noise is smoothed, where a development wants that.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Care {
    /// At the size that is asked for: for views in motion, readings and thumbnails.
    Quick,
    /// At full size, before reduction: what an export does.
    Settled,
}

/// A picture from this many pixels on is opened alone, and what is kept makes room for it first.
pub(crate) const LARGE_PIXELS: u64 = 40_000_000;

/// Decoded originals, kept while there is room.
///
/// Computation runs on the render pool; what waits for another's decoding waits on the caller's own thread.
pub struct Sources {
    limits: Limits,
    kept: Cache<(Name, u8), Kept>,
    levels: Levels,
    /// Originals that are being decoded: who asks for the same one waits for the first.
    decoding: Mutex<HashMap<Name, Arc<Mutex<()>>>>,
    large: Mutex<()>,
}

pub(crate) type Name = [u8; 16];

/// The first half of a content hash, enough as a key.
pub(crate) fn short(content: &str) -> Name {
    let mut key = [0; 16];
    key.copy_from_slice(&blake3::hash(content.as_bytes()).as_bytes()[..16]);
    key
}

fn held<T>(lock: &Mutex<T>) -> MutexGuard<'_, T> {
    lock.lock().unwrap_or_else(PoisonError::into_inner)
}

impl Sources {
    pub fn new(limits: Limits, budget: usize, levels: PathBuf) -> Self {
        let (kept, levels) = (Cache::with_one_larger(budget), Levels::new(levels));
        Self { limits, kept, levels, decoding: Mutex::default(), large: Mutex::default() }
    }

    /// Opens a file and does something with it; large ones one at a time.
    pub(crate) fn opened<T>(
        &self,
        bytes: &[u8],
        hands: Hands,
        then: impl FnOnce(Opened) -> Result<T, LabError>,
    ) -> Result<T, LabError> {
        let [width, height] = amber_files::size_of(bytes)?.map(u64::from);
        let pixels = width * height;
        let _alone = (pixels > LARGE_PIXELS).then(|| {
            let alone = held(&self.large);
            self.kept.clear();
            alone
        });
        hands.go_on()?;
        then(hands.work(|| amber_files::open(bytes, self.limits))?)
    }

    /// Keeps a picture that has just been opened.
    pub(crate) fn keep(&self, content: &str, opened: Opened, hands: Hands) -> Arc<Kept> {
        let bytes = opened.source.bytes();
        let scaled = hands.work(|| Scaled::full(Arc::new(opened.source), content));
        let kept = Arc::new(Kept { scaled, metadata: opened.metadata });
        self.kept.put((short(content), 0), kept.clone(), bytes);
        kept
    }

    fn full(&self, library: &Library, content: &str, hands: Hands) -> Result<Arc<Kept>, LabError> {
        let name = short(content);
        if let Some(kept) = self.kept.get(&(name, 0)) {
            return Ok(kept);
        }
        let turn = held(&self.decoding).entry(name).or_default().clone();
        let mine = held(&turn);
        let kept = match self.kept.get(&(name, 0)) {
            Some(kept) => Ok(kept),
            None => hands
                .go_on()
                .and_then(|()| Ok(library.originals.read(content)?))
                .and_then(|bytes| self.opened(&bytes, hands, |opened| Ok(self.keep(content, opened, hands)))),
        };
        drop(mine);
        let mut decoding = held(&self.decoding);
        // nobody else waits: the map's and this one are the only hands
        if Arc::strong_count(&turn) <= 2 {
            decoding.remove(&name);
        }
        kept
    }

    fn kept(&self, name: (Name, u8), make: impl FnOnce() -> Result<Scaled, LabError>) -> Result<Scaled, LabError> {
        let kept = self.kept.get_or_make(name, || {
            let scaled = make()?;
            let bytes = scaled.source.bytes();
            Ok::<_, LabError>((Kept { scaled, metadata: Metadata::default() }, bytes))
        })?;
        Ok(kept.scaled.clone())
    }

    fn reduced(&self, full: &Scaled, frame: &FrameSummary, level: Level, hands: Hands) -> Scaled {
        let (width, height) = level.size(frame.width, frame.height);
        hands.work(|| full.reduced(width, height))
    }

    /// A frame's original at a zoom step.
    pub(crate) fn at(
        &self,
        library: &Library,
        frame: &FrameSummary,
        level: Level,
        hands: Hands,
    ) -> Result<Scaled, LabError> {
        if level > Level::SMALLEST {
            return Err(LabError::Level(level.0));
        }
        if level == Level::FULL {
            return Ok(self.full(library, &frame.content, hands)?.scaled.clone());
        }
        self.kept((short(&frame.content), level.0), || {
            if let Some(recalled) = self.levels.recall(frame, level) {
                return Ok(recalled);
            }
            let full = self.full(library, &frame.content, hands)?;
            hands.go_on()?;
            let reduced = self.reduced(&full.scaled, frame, level, hands);
            self.levels.keep(frame, level, &reduced);
            Ok(reduced)
        })
    }

    /// A frame's original at a zoom step, its noise smoothed.
    fn smoothed(
        &self,
        library: &Library,
        frame: &FrameSummary,
        level: Level,
        noise: &NoiseSettings,
        care: Care,
        hands: Hands,
    ) -> Result<Scaled, LabError> {
        if noise.is_none() {
            return self.at(library, frame, level, hands);
        }
        let settled = care == Care::Settled;
        let name = |level: Level| (short(&format!("{} {noise:?} {settled}", frame.content)), level.0);
        let smooth = |level: Level| {
            self.kept(name(level), || {
                let plain = self.at(library, frame, level, hands)?;
                Ok(hands.work(|| plain.smoothed(noise, hands.over))?)
            })
        };
        if !settled || level == Level::FULL {
            return smooth(level);
        }
        let full = smooth(Level::FULL)?;
        self.kept(name(level), || Ok(self.reduced(&full, frame, level, hands)))
    }

    /// A picture at a zoom step, framed.
    fn framed(
        &self,
        scaled: Scaled,
        level: Level,
        framing: &FramingSettings,
        hands: Hands,
    ) -> Result<Scaled, LabError> {
        if framing.is_none() {
            return Ok(scaled);
        }
        let name = (short(&format!("{} {framing:?}", scaled.content)), level.0);
        self.kept(name, || Ok(hands.work(|| scaled.framed(framing))))
    }

    #[cfg(test)]
    pub(crate) fn is_missing(&self, content: &str) -> bool {
        self.kept.get(&(short(content), 0)).is_none()
    }

    /// The EXIF of a frame's original.
    pub(crate) fn metadata(&self, library: &Library, frame: &FrameSummary, hands: Hands) -> Result<Metadata, LabError> {
        Ok(self.full(library, &frame.content, hands)?.metadata.clone())
    }
}
