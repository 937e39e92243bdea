//! The work of Amber Grain: opening pictures, live views, thumbnails, exports.
//!
//! Web and command line both call this. Renders run on a thread pool of the lab's own; a newer request for a view
//! abandons the older one.

mod error;
mod export;
mod live;
mod plane;
mod readings;
mod scene;
mod sources;
mod stocks;
mod thumbnails;

use std::sync::Arc;
use std::sync::atomic::AtomicU64;

use amber_core::render::Renderer;
use amber_core::{Catalogue, Stock};
use amber_files::Limits;
use amber_library::{Library, NewFrame};

pub use error::LabError;
pub use export::{Destination, ExportSettings, ExportState, ExportStatus, Format, develop_to_bytes, safe_name};
pub use live::{FrameSize, Pass, Shown, ViewPicture, ViewRequest, frame_size};
pub use plane::{HueShare, ReadingPlane};
pub use readings::{CurveReading, FilmReading, PrintReading};
pub use scene::Metering;
pub use sources::Sources;
pub use thumbnails::ThumbnailSize;

/// Bytes of developed tiles kept for views.
const TILE_BUDGET: usize = 384 << 20;
/// Bytes of decoded and reduced originals kept.
const SOURCE_BUDGET: usize = 512 << 20;

/// A library and the hands that work on it.
pub struct Lab {
    pub library: Library,
    renderer: Renderer,
    sources: Sources,
    views: live::Views,
    exports: export::Exports,
    next_export: AtomicU64,
}

/// The pool on which renders run: `threads` of them, or one per core.
pub fn render_pool(threads: Option<usize>) -> Result<Arc<rayon::ThreadPool>, LabError> {
    let builder =
        rayon::ThreadPoolBuilder::new().num_threads(threads.unwrap_or(0)).thread_name(|i| format!("render {i}"));
    builder.build().map(Arc::new).map_err(|e| LabError::Threads(e.to_string()))
}

impl Lab {
    pub fn new(library: Library, limits: Limits, threads: Option<usize>) -> Result<Self, LabError> {
        Ok(Self {
            library,
            renderer: Renderer::new(render_pool(threads)?, TILE_BUDGET),
            sources: Sources::new(limits, SOURCE_BUDGET),
            views: live::Views::default(),
            exports: export::Exports::default(),
            next_export: AtomicU64::new(1),
        })
    }

    /// Opens a picture and puts it at the end of a roll. Nothing is stored when it cannot be read.
    pub fn import(&self, roll: i64, file_name: &str, bytes: &[u8]) -> Result<i64, LabError> {
        self.import_on(roll, file_name, bytes, &Catalogue::first())
    }

    /// [`Lab::import`] with a stock of choice.
    pub fn import_on(&self, roll: i64, file_name: &str, bytes: &[u8], stock: &Stock) -> Result<i64, LabError> {
        let opened = self.renderer.pool().install(|| amber_files::open(bytes, self.sources.limits()))?;
        let new = NewFrame {
            name: name_of_file(file_name),
            format: opened.format.into(),
            width: opened.source.width(),
            height: opened.source.height(),
        };
        let id = self.library.add_frame(roll, bytes, new, stock)?;
        let content = self.library.frame(id)?.summary.content;
        self.sources.keep(&content, opened);
        Ok(id)
    }
}

/// A frame's name from the file's: without folders and ending, hyphens as blanks, a capital first.
fn name_of_file(file_name: &str) -> String {
    let last = file_name.rsplit(['/', '\\']).next().unwrap_or(file_name);
    let stem = last.rsplit_once('.').map_or(last, |(stem, _)| stem);
    let words: String =
        stem.chars().map(|c| if c == '-' || c == '_' || c.is_control() { ' ' } else { c }).take(120).collect();
    let words = words.split_whitespace().collect::<Vec<_>>().join(" ");
    let mut letters = words.chars();
    match letters.next() {
        Some(first) => first.to_uppercase().chain(letters).collect(),
        None => "Untitled".into(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_from_files() {
        assert_eq!(name_of_file("C:\\pictures\\hill-road.jpg"), "Hill road");
        assert_eq!(name_of_file("...//.png"), "Untitled");
        assert_eq!(name_of_file("IMG_0042.tif"), "IMG 0042");
    }
}
