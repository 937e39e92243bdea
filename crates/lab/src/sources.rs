//! Decoded originals at the scales in use, within a budget.

use std::sync::Arc;

use amber_core::picture::reduce::Level;
use amber_core::render::{Cache, Scaled};
use amber_core::stations::lens::LensSettings;
use amber_core::stations::lens::framing::FramingSettings;
use amber_core::stations::scene::SceneSettings;
use amber_core::stations::scene::noise::NoiseSettings;
use amber_core::{Development, Stock};
use amber_files::{Limits, Metadata, Opened};
use amber_library::{FrameSummary, Library};

use crate::Lab;
use crate::error::LabError;

impl Lab {
    /// The picture that a development starts from, at a zoom step.
    pub(crate) fn source_of(
        &self,
        frame: &FrameSummary,
        level: Level,
        development: &Development,
        stock: &Stock,
        care: Care,
    ) -> Result<Scaled, LabError> {
        let values = development.values(stock);
        let (noise, framing) = (SceneSettings::noise(&values), LensSettings::framing(&values));
        self.renderer.pool().install(|| {
            let scaled = self.sources.smoothed(&self.library, frame, level, &noise, care)?;
            self.sources.framed(scaled, level, &framing)
        })
    }

    /// The original, framed as a development frames it.
    pub(crate) fn original_of(
        &self,
        frame: &FrameSummary,
        level: Level,
        development: &Development,
        stock: &Stock,
    ) -> Result<Scaled, LabError> {
        let framing = LensSettings::framing(&development.values(stock));
        self.renderer.pool().install(|| {
            let scaled = self.sources.at(&self.library, frame, level)?;
            self.sources.framed(scaled, level, &framing)
        })
    }
}

/// An original at one scale.
struct Kept {
    scaled: Scaled,
    metadata: Metadata,
}

/// How carefully a picture's noise is smoothed, where a development wants that.
#[derive(Clone, Copy)]
pub enum Care<'a> {
    /// At the size that is asked for: for views in motion, readings and thumbnails.
    Quick,
    /// At full size, before reduction, unless it is abandoned: what an export does.
    Settled(&'a (dyn Fn() -> bool + Sync)),
}

/// Decoded originals, kept while there is room.
pub struct Sources {
    limits: Limits,
    kept: Cache<([u8; 16], u8), Kept>,
}

/// The first half of a content hash, enough as a key.
fn short(content: &str) -> [u8; 16] {
    let mut key = [0; 16];
    key.copy_from_slice(&blake3::hash(content.as_bytes()).as_bytes()[..16]);
    key
}

impl Sources {
    pub fn new(limits: Limits, budget: usize) -> Self {
        Self { limits, kept: Cache::new(budget) }
    }

    pub fn limits(&self) -> Limits {
        self.limits
    }

    /// Keeps a picture that has just been opened.
    pub fn keep(&self, content: &str, opened: Opened) {
        let bytes = opened.source.bytes();
        let scaled = Scaled::full(Arc::new(opened.source), content);
        self.kept.put((short(content), 0), Arc::new(Kept { scaled, metadata: opened.metadata }), bytes);
    }

    fn full(&self, library: &Library, content: &str) -> Result<Arc<Kept>, LabError> {
        self.kept.get_or_make((short(content), 0), || {
            let opened = amber_files::open(&library.originals.read(content)?, self.limits)?;
            let bytes = opened.source.bytes();
            let scaled = Scaled::full(Arc::new(opened.source), content);
            Ok((Kept { scaled, metadata: opened.metadata }, bytes))
        })
    }

    /// A frame's original at a zoom step.
    pub fn at(&self, library: &Library, frame: &FrameSummary, level: Level) -> Result<Scaled, LabError> {
        if level > Level::SMALLEST {
            return Err(LabError::Level(level.0));
        }
        if level == Level::FULL {
            return Ok(self.full(library, &frame.content)?.scaled.clone());
        }
        let kept = self.kept.get_or_make((short(&frame.content), level.0), || {
            let full = self.full(library, &frame.content)?;
            let (width, height) = level.size(frame.width, frame.height);
            let scaled = full.scaled.reduced(width, height);
            let bytes = scaled.source.bytes();
            Ok::<_, LabError>((Kept { scaled, metadata: Metadata::default() }, bytes))
        })?;
        Ok(kept.scaled.clone())
    }

    /// A frame's original at a zoom step, its noise smoothed.
    fn smoothed(
        &self,
        library: &Library,
        frame: &FrameSummary,
        level: Level,
        noise: &NoiseSettings,
        care: Care,
    ) -> Result<Scaled, LabError> {
        let plain = |level: Level| self.at(library, frame, level);
        if noise.is_none() {
            return plain(level);
        }
        let keep = |scaled: Scaled| {
            let bytes = scaled.source.bytes();
            (Kept { scaled, metadata: Metadata::default() }, bytes)
        };
        let name = |level: Level, settled: bool| (short(&format!("{} {noise:?} {settled}", frame.content)), level.0);
        let Care::Settled(abandoned) = care else {
            let made = || Ok::<_, LabError>(keep(plain(level)?.smoothed(noise, &|| false)?));
            return Ok(self.kept.get_or_make(name(level, false), made)?.scaled.clone());
        };
        let full = self.kept.get_or_make(name(Level::FULL, true), || {
            Ok::<_, LabError>(keep(plain(Level::FULL)?.smoothed(noise, abandoned)?))
        })?;
        if level == Level::FULL {
            return Ok(full.scaled.clone());
        }
        let small = self.kept.get_or_make(name(level, true), || {
            let (width, height) = level.size(frame.width, frame.height);
            Ok::<_, LabError>(keep(full.scaled.reduced(width, height)))
        })?;
        Ok(small.scaled.clone())
    }

    /// A picture at a zoom step, framed.
    fn framed(&self, scaled: Scaled, level: Level, framing: &FramingSettings) -> Result<Scaled, LabError> {
        if framing.is_none() {
            return Ok(scaled);
        }
        let name = (short(&format!("{} {framing:?}", scaled.content)), level.0);
        let kept = self.kept.get_or_make(name, || {
            let scaled = scaled.framed(framing);
            let bytes = scaled.source.bytes();
            Ok::<_, LabError>((Kept { scaled, metadata: Metadata::default() }, bytes))
        })?;
        Ok(kept.scaled.clone())
    }

    /// The EXIF of a frame's original.
    pub fn metadata(&self, library: &Library, frame: &FrameSummary) -> Result<Metadata, LabError> {
        Ok(self.full(library, &frame.content)?.metadata.clone())
    }
}
