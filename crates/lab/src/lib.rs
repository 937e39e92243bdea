//! The work of Amber Grain: opening pictures, live views, thumbnails, exports.
//!
//! Web and command line both call this. Renders run on a thread pool of the lab's own; a newer request for a view
//! abandons the older one.

mod ahead;
mod archive;
mod behind;
mod changing;
mod comparing;
mod contact_print;
mod delivery;
mod error;
mod folder;
mod hands;
mod laying;
mod levels;
mod live;
mod log;
mod look;
mod matching;
mod metering;
mod mounting;
mod order;
mod pictures;
mod plane;
mod presets;
mod readings;
mod roll;
mod scene;
mod selected;
mod sources;
mod stocks;
mod thumbnails;
mod together;
mod travelling;
mod waiting;

use std::sync::Arc;

use amber_core::cache::Cache;
use amber_core::render::{Memory, Renderer};
use amber_core::text::is_plain;
use amber_core::{Catalogue, Development, Stock};
use amber_files::Limits;
use amber_library::{Library, NewFrame};

use hands::{Hands, background_pool};
use sources::Sources;

pub use changing::{Stepped, Tuned};
pub use comparing::Against;
pub use contact_print::{ContactPrint, PrintForm, lines as pencil_lines};
pub use delivery::{
    AtSize, ExportSettings, ExportState, ExportStatus, Named, Output, QueueState, Size, Undeveloped, develop_into,
    for_light, free_path, named_by, names_by, opened, opened_beside_tables, safe_name, sized,
};
pub use error::LabError;
pub use hands::{file_pool, render_pool};
pub use laying::{name_of_sheet, sheets_version};
pub use live::{FrameSize, Pass, Shown, ViewPicture, ViewRequest, frame_size};
pub use log::LogEntry;
pub use look::{LookForm, look_file};
pub use matching::{Given, JobState, ReferenceAs, ReferenceOf, Taken, told};
pub use metering::{FrameMetering, Metered};
pub use mounting::in_its_mount;
pub use order::{FileOutcome, FileWork, Files, HandOff, LabOrder, Manifest, Plan, Planned, Record, Shard, merged};
pub use plane::{HueShare, ReadingPlane, Spot};
pub use presets::{Laying, PresetChange, preset_version};
pub use readings::{CurveOf, CurveReading, FilmReading, PrintReading, ToneSpread};
pub use scene::Metering;
pub use selected::Differs;
pub use stocks::read_look;
pub use thumbnails::{ThumbnailSize, development_version, stock_version};
pub use together::Applied;
pub use travelling::Brought;
pub use waiting::Waiting;

/// MiB that a lab keeps between requests where it is not said: pictures, tiles and what was prepared for them.
pub const MEMORY_MIB: u32 = 1024;
/// Shares of it that hold decoded and reduced originals, and pictures that are laid on them; the rest is the
/// renderer's.
const SOURCES_OF_100: usize = 37;
const PICTURES_OF_100: usize = 8;

/// A library and the hands that work on it.
pub struct Lab {
    pub library: Library,
    renderer: Renderer,
    /// Works for exports, behind the other.
    background: Renderer,
    sources: Sources,
    pictures: Arc<pictures::Pictures>,
    ahead: ahead::Ahead,
    views: live::Views,
    exports: delivery::Exports,
    thumbnails: thumbnails::Thumbnails,
    behind: behind::Behind,
    watched: order::Watched,
    matches: matching::Matches,
    /// Readings of frames as they are kept.
    readings: Cache<sources::Name, (FilmReading, PrintReading)>,
}

impl Lab {
    pub fn new(library: Library, limits: Limits, threads: Option<usize>) -> Result<Self, LabError> {
        Self::within(library, limits, threads, MEMORY_MIB)
    }

    /// A lab that keeps at most so much between requests.
    pub fn within(library: Library, limits: Limits, threads: Option<usize>, memory_mib: u32) -> Result<Self, LabError> {
        let whole = (memory_mib as usize) << 20;
        let for_sources = whole / 100 * SOURCES_OF_100;
        let for_pictures = whole / 100 * PICTURES_OF_100;
        let pictures = Arc::new(pictures::Pictures::new(library.pictures.clone(), limits, for_pictures));
        let renderer = Renderer::within(render_pool(threads)?, Memory::of(whole - for_sources - for_pictures));
        let renderer = renderer.with_pictures(pictures.clone());
        Ok(Self {
            background: renderer.on(background_pool(threads)?),
            renderer,
            pictures,
            sources: Sources::new(limits, for_sources, library.cache().join("levels")),
            ahead: ahead::Ahead::default(),
            views: live::Views::default(),
            exports: delivery::Exports::default(),
            thumbnails: thumbnails::Thumbnails::new(library.cache()),
            behind: behind::Behind::default(),
            watched: order::Watched::default(),
            matches: matching::Matches::default(),
            readings: Cache::new(readings::READINGS_BYTES),
            library,
        })
    }

    /// Ends it cleanly: what waits in the queue waits for the next start, the library is one whole file afterwards.
    pub fn close(&self) {
        self.exports.stop();
        self.behind.stop();
        self.watched.stop();
        self.matches.stop();
        self.library.close();
    }

    /// Computes something on the render threads: nothing else is to take the processor.
    pub fn compute<T: Send>(&self, work: impl FnOnce() -> T + Send) -> T {
        self.renderer.pool().install(work)
    }

    /// Opens a picture and puts it at the end of a roll. Nothing is stored when it cannot be read.
    pub fn import(&self, roll: i64, file_name: &str, bytes: &[u8]) -> Result<i64, LabError> {
        self.import_on(roll, file_name, bytes, &Catalogue::first())
    }

    /// [`Lab::import`] with a stock of choice.
    pub fn import_on(&self, roll: i64, file_name: &str, bytes: &[u8], stock: &Stock) -> Result<i64, LabError> {
        let over = Waiting::here();
        let hands = Hands { pool: self.renderer.pool(), over: &|| over.is_over() };
        self.sources.opened(bytes, hands, |opened| {
            let new = NewFrame {
                name: name_of_file(file_name),
                format: opened.format.into(),
                width: opened.source.width(),
                height: opened.source.height(),
                taken: opened.metadata.taken(),
                development: opened.light_stops.map(|stops| of_light(stock, bytes, stops)).transpose()?,
            };
            let id = self.library.add_frame(roll, bytes, new, stock)?;
            self.sources.keep(&self.library.frame(id)?.summary.content, opened, hands);
            Ok(id)
        })
    }
}

/// How a picture whose samples are light itself is developed at first.
fn of_light(stock: &Stock, bytes: &[u8], stops: u32) -> Result<Development, LabError> {
    let mut development = Development::new(stock);
    development.seed = amber_library::seed_of(&amber_library::Originals::hash_of(bytes));
    for_light(&mut development, stock, stops)?;
    Ok(development)
}

/// Seconds since 1970, by this machine's clock.
pub fn now() -> i64 {
    std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |d| d.as_secs() as i64)
}

/// A frame's name from the file's: without folders and ending, hyphens as blanks, a capital first.
pub fn name_of_file(file_name: &str) -> String {
    let last = file_name.rsplit(['/', '\\']).next().unwrap_or(file_name);
    let stem = last.rsplit_once('.').map_or(last, |(stem, _)| stem);
    let words: String = stem
        .chars()
        .map(|c| if c == '-' || c == '_' || !is_plain(c.encode_utf8(&mut [0; 4])) { ' ' } else { c })
        .take(120)
        .collect();
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
