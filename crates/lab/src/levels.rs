//! Reduced originals on disk: a large frame stands on the screen without its file being decoded anew.
//!
//! What is kept is what a reduction gives, bit for bit, with what was measured on the full picture; so a view from it
//! is the view, not a likeness. Each file ends with the hash of what it holds: what is not whole is made again.

use std::path::PathBuf;
use std::sync::Arc;

use amber_core::Source;
use amber_core::measure::Facts;
use amber_core::picture::reduce::Level;
use amber_core::render::Scaled;
use amber_library::FrameSummary;

use crate::folder::Folder;

/// To be raised when reducing or measuring gives other bits: what was kept before is made again.
const VERSION: u32 = 1;
/// Most bytes that are kept.
const MOST_BYTES: u64 = 1 << 30;
/// Originals of fewer pixels are decoded as fast as they would be read.
const WORTH: u64 = 4_000_000;
/// Longest edge of a reduction that is kept: a screen's.
const LONGEST: u32 = 2200;
const HASH: usize = blake3::OUT_LEN;

/// Reduced originals by content and zoom step.
pub(crate) struct Levels(Folder);

impl Levels {
    pub fn new(path: PathBuf) -> Self {
        Self(Folder::new(path, MOST_BYTES))
    }

    /// A frame's original at a zoom step, where it was there once.
    pub fn recall(&self, frame: &FrameSummary, level: Level) -> Option<Scaled> {
        is_kept(frame, level).then_some(())?;
        let source = Source::restored(&self.whole(&name(frame, &level.0.to_string()))?)?;
        let facts = Facts::restored(&self.whole(&name(frame, "facts"))?)?;
        ((source.width(), source.height()) == level.size(frame.width, frame.height)).then_some(())?;
        let full = [frame.width, frame.height];
        Some(Scaled::recalled(Arc::new(source), full, Arc::new(facts), &frame.content))
    }

    /// Keeps it for the next time.
    pub fn keep(&self, frame: &FrameSummary, level: Level, scaled: &Scaled) {
        if is_kept(frame, level) {
            let mut bytes = Vec::new();
            scaled.source.store(&mut bytes);
            self.put(&name(frame, &level.0.to_string()), bytes);
            let facts = name(frame, "facts");
            if self.whole(&facts).is_none() {
                self.put(&facts, scaled.facts.stored());
            }
        }
    }

    fn put(&self, name: &str, mut bytes: Vec<u8>) {
        let hash = blake3::hash(&bytes);
        bytes.extend(hash.as_bytes());
        self.0.put(name, &bytes);
    }

    fn whole(&self, name: &str) -> Option<Vec<u8>> {
        let mut bytes = self.0.read(name)?;
        let held = bytes.len().checked_sub(HASH)?;
        (blake3::hash(&bytes[..held]).as_bytes()[..] == bytes[held..]).then(|| bytes.truncate(held))?;
        Some(bytes)
    }
}

fn is_kept(frame: &FrameSummary, level: Level) -> bool {
    let (width, height) = level.size(frame.width, frame.height);
    u64::from(frame.width) * u64::from(frame.height) >= WORTH && width.max(height) <= LONGEST
}

fn name(frame: &FrameSummary, what: &str) -> String {
    let state = format!("{} {VERSION} {what}", frame.content);
    format!("{}.level", blake3::hash(state.as_bytes()).to_hex())
}
