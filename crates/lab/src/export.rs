//! Exports: full-size pictures as files.

use std::collections::{HashSet, VecDeque};
use std::io::{Seek, Write};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::mpsc::sync_channel;
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};

use amber_core::CoreError;
use amber_core::picture::reduce::{Level, size_for_long_edge};
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Watch};
use amber_core::stations::surface::mount::Mount;
use amber_core::text::is_plain;
use amber_files::write::Arriving;
use amber_files::{FileError, Metadata, rows, write};
use amber_library::{Frame, LibraryError};

use crate::Lab;
use crate::error::LabError;
use crate::hands::{Hands, stand_back};
use crate::mounting::in_its_mount;
use crate::sources::Care;

/// A file format with its settings.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    /// Quality 1..100.
    Jpeg(u8),
    Tiff16,
}

impl Format {
    pub fn ending(self) -> &'static str {
        match self {
            Self::Jpeg(_) => "jpg",
            Self::Tiff16 => "tif",
        }
    }
}

/// What to export.
#[derive(Debug, Clone)]
pub struct ExportSettings {
    pub frame: i64,
    /// Without ending.
    pub name: String,
    pub format: Format,
    pub long_edge: Option<u32>,
}

/// Where an export is.
#[derive(Debug, Clone, PartialEq)]
pub enum ExportState {
    /// Share done, 0..1.
    Running(f64),
    Done {
        bytes: u64,
    },
    Stopped(String),
}

/// An export as it is shown.
#[derive(Debug, Clone)]
pub struct ExportStatus {
    pub id: u64,
    pub frame: i64,
    pub file_name: String,
    pub state: ExportState,
}

struct Job {
    id: u64,
    frame: i64,
    path: Mutex<PathBuf>,
    done: AtomicUsize,
    all: AtomicUsize,
    cancelled: AtomicBool,
    finished: Mutex<Option<Result<u64, String>>>,
}

/// The exports of this run: one at a time, since each takes all render threads anyway, and twice the memory would not
/// make it faster.
#[derive(Default)]
pub struct Exports {
    queue: Mutex<Queue>,
    /// Told when the last one has run.
    idle: Condvar,
}

#[derive(Default)]
struct Queue {
    /// Newest first: those that wait or run, and the last that have ended.
    jobs: VecDeque<Arc<Job>>,
    /// Those that wait, oldest first.
    waiting: VecDeque<Waiting>,
    running: bool,
    stopped: bool,
}

/// An export that waits for its turn, with the development that it was ordered with.
struct Waiting {
    job: Arc<Job>,
    settings: ExportSettings,
    frame: Frame,
}

/// Most ended exports that are remembered, and most that may wait.
const MOST_REMEMBERED: usize = 50;
const MOST_WAITING: usize = 5000;

impl Exports {
    fn queue(&self) -> MutexGuard<'_, Queue> {
        self.queue.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Cancels what waits and runs, and waits for its end.
    pub(crate) fn stop(&self) {
        let mut queue = self.queue();
        queue.stopped = true;
        queue.jobs.iter().for_each(|job| job.cancelled.store(true, Ordering::Relaxed));
        while queue.running {
            queue = self.idle.wait(queue).unwrap_or_else(PoisonError::into_inner);
        }
    }
}

impl Queue {
    /// Forgets the oldest that have ended; what waits or runs is never forgotten.
    fn forget(&mut self) {
        let mut ended = 0;
        self.jobs.retain(|job| {
            ended += usize::from(job.is_over());
            !job.is_over() || ended <= MOST_REMEMBERED
        });
    }

    /// A path in the folder that neither exists nor is promised to another export: the name, numbered when it is taken.
    fn free_path(&self, folder: &Path, name: &str, ending: &str) -> PathBuf {
        let promised: HashSet<PathBuf> = self.jobs.iter().map(|j| j.path()).collect();
        (1u32..)
            .map(|n| if n == 1 { format!("{name}.{ending}") } else { format!("{name} {n}.{ending}") })
            .map(|file| folder.join(file))
            .find(|path| !path.exists() && !promised.contains(path))
            .unwrap_or_else(|| folder.join(format!("{name}.{ending}")))
    }
}

impl Job {
    fn path(&self) -> PathBuf {
        self.path.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    fn is_over(&self) -> bool {
        self.finished.lock().unwrap_or_else(PoisonError::into_inner).is_some()
    }
}

/// Most bytes of an export's name: with a number and an ending it stays below what any file system takes.
const LONGEST_NAME: usize = 180;
/// Names that some systems keep for devices, whatever the ending.
const DEVICES: [&str; 4] = ["CON", "PRN", "AUX", "NUL"];
const NUMBERED_DEVICES: [&str; 2] = ["COM", "LPT"];

/// A file name that is safe on every system: no folders, no hidden characters, no leading dots, no device.
pub fn safe_name(name: &str) -> Result<String, LabError> {
    let hidden = |c: char| !is_plain(c.encode_utf8(&mut [0; 4]));
    let plain = |c: char| if hidden(c) || "/\\:*?\"<>|".contains(c) { '-' } else { c };
    let mut name: String = name.trim().chars().map(plain).take(120).collect();
    while name.len() > LONGEST_NAME {
        name.pop();
    }
    let mut name = name.trim_matches(['.', ' ', '-']).to_string();
    if !name.chars().any(char::is_alphanumeric) {
        return Err(LabError::ExportName);
    }
    let stem = name.split('.').next().unwrap_or_default().trim().to_uppercase();
    let digit = |rest: &str| rest.len() == 1 && rest.chars().all(|c| c.is_ascii_digit());
    if DEVICES.contains(&stem.as_str()) || NUMBERED_DEVICES.iter().any(|d| stem.strip_prefix(d).is_some_and(digit)) {
        name.insert(0, '_');
    }
    Ok(name)
}

/// Where a finished picture goes.
pub enum Destination<'a> {
    Jpeg { quality: u8, metadata: &'a Metadata },
    Tiff16 { metadata: &'a Metadata },
}

/// Renders and encodes on the way out: what export and command line share. A mount is of the whole picture.
pub fn develop_into(
    out: &mut (impl Write + Seek + Send),
    renderer: &Renderer,
    request: &RenderRequest,
    mount: Option<Mount>,
    destination: &Destination,
    watch: Watch,
) -> Result<(), LabError> {
    let mount = mount.map(Arc::new);
    let size = mount.as_ref().map_or([request.region.width, request.region.height], |mount| mount.layout.whole);
    match destination {
        Destination::Jpeg { quality, metadata } => beside(
            |take| match mount {
                None => renderer.display_8_bit_bands(request, watch, take),
                Some(mount) => renderer.display_8_bit_bands(
                    request,
                    watch,
                    &mut renderer.mounting(mount, request.finish.space, take),
                ),
            },
            |bands| rows::jpeg(bands, size, *quality, Some(metadata), out),
        ),
        Destination::Tiff16 { metadata } => beside(
            |take| match mount {
                None => renderer.display_16_bit_bands(request, watch, take),
                Some(mount) => renderer.display_16_bit_bands(
                    request,
                    watch,
                    &mut renderer.mounting(mount, request.finish.space, take),
                ),
            },
            |bands| rows::tiff_16_bit(bands, size, metadata, out),
        ),
    }
}

/// Encodes bands on a thread of its own while the next ones are rendered.
fn beside<T: Send>(
    render: impl FnOnce(&mut dyn FnMut(Vec<T>) -> Result<(), CoreError>) -> Result<(), CoreError>,
    encode: impl FnOnce(std::sync::mpsc::IntoIter<Vec<T>>) -> Result<(), FileError> + Send,
) -> Result<(), LabError> {
    let (hand_over, bands) = sync_channel(1);
    std::thread::scope(|scope| {
        let encoder = scope.spawn(move || encode(bands.into_iter()));
        // an encoder that has given up takes no more, and says why
        let mut refused = false;
        let rendered = render(&mut |band| {
            hand_over.send(band).map_err(|_| {
                refused = true;
                CoreError::Abandoned
            })
        });
        drop(hand_over);
        let encoded = encoder.join().map_err(|_| LabError::Broken)?;
        match rendered {
            Err(error) if !refused => Err(error.into()),
            _ => Ok(encoded?),
        }
    })
}

impl Lab {
    /// Puts a frame in the queue; the render runs on a thread of its own. Returns the export's number.
    pub fn start_export(self: &Arc<Self>, settings: ExportSettings) -> Result<u64, LabError> {
        let name = safe_name(&settings.name)?;
        if let Format::Jpeg(quality) = settings.format
            && !(1..=100).contains(&quality)
        {
            return Err(LabError::Quality(quality.into()));
        }
        if let Some(edge) = settings.long_edge
            && !(16..=65_535).contains(&edge)
        {
            return Err(LabError::LongEdge(edge));
        }
        let frame = self.library.frame(settings.frame)?;
        let mut queue = self.exports.queue();
        if queue.stopped {
            return Err(LibraryError::Stopped.into());
        }
        if queue.waiting.len() >= MOST_WAITING {
            return Err(LabError::TooManyExports(MOST_WAITING));
        }
        let id = self.next_export.fetch_add(1, Ordering::SeqCst);
        let job = Arc::new(Job {
            id,
            frame: settings.frame,
            path: Mutex::new(queue.free_path(&self.library.exports(), &name, settings.format.ending())),
            done: AtomicUsize::new(0),
            all: AtomicUsize::new(1),
            cancelled: AtomicBool::new(false),
            finished: Mutex::new(None),
        });
        if !queue.running {
            let lab = self.clone();
            std::thread::Builder::new()
                .name("exports".into())
                .spawn(move || lab.run_exports())
                .map_err(|e| LabError::Threads(e.to_string()))?;
            queue.running = true;
        }
        queue.jobs.push_front(job.clone());
        queue.waiting.push_back(Waiting { job, settings: ExportSettings { name, ..settings }, frame });
        queue.forget();
        Ok(id)
    }

    /// Runs what waits until nothing does.
    fn run_exports(&self) {
        stand_back();
        loop {
            let mut queue = self.exports.queue();
            let Some(Waiting { job, settings, frame }) = queue.waiting.pop_front() else {
                queue.running = false;
                self.exports.idle.notify_all();
                return;
            };
            drop(queue);
            // a panic is this picture's, not the queue's
            let run = AssertUnwindSafe(|| self.run_export(&job, &settings, &frame));
            let result = catch_unwind(run)
                .unwrap_or(Err(LabError::Broken))
                .map_err(|e| if e.is_abandoned() { "cancelled".to_string() } else { e.to_string() });
            *job.finished.lock().unwrap_or_else(PoisonError::into_inner) = Some(result);
        }
    }

    fn run_export(&self, job: &Job, settings: &ExportSettings, frame: &Frame) -> Result<u64, LabError> {
        let cancelled = || job.cancelled.load(Ordering::Relaxed);
        if cancelled() {
            return Err(CoreError::Abandoned.into());
        }
        let development = &frame.summary.development;
        let hands = Hands { pool: self.background.pool(), over: &cancelled };
        let full = self.source_of(&frame.summary, Level::FULL, development, &frame.stock, Care::Settled, hands)?;
        let scaled = match settings.long_edge {
            None => full,
            Some(edge) => {
                let (width, height) = size_for_long_edge(edge, full.full_width, full.full_height);
                hands.work(|| full.reduced(width, height))
            }
        };
        let metadata = self.sources.metadata(&self.library, &frame.summary, hands)?;
        let destination = match settings.format {
            Format::Jpeg(quality) => Destination::Jpeg { quality, metadata: &metadata },
            Format::Tiff16 => Destination::Tiff16 { metadata: &metadata },
        };
        let watch = Watch {
            abandoned: &cancelled,
            progress: &|done, all| {
                job.all.store(all, Ordering::Relaxed);
                job.done.fetch_max(done, Ordering::Relaxed);
            },
        };
        let (stock, grain) = (&frame.stock, GrainShown::Full);
        let (scaled, mount) = in_its_mount(&self.background, scaled, stock, development)?;
        let region = scaled.source.region();
        let request = RenderRequest {
            scaled: &scaled,
            stock,
            development,
            region,
            grain,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let file = write::arriving(&job.path(), |out| {
            develop_into(out, &self.background, &request, mount, &destination, watch)
        })?;
        let bytes =
            file.bytes().map_err(|source| FileError::Write { path: job.path().display().to_string(), source })?;
        self.keep_file(job, settings, file)?;
        self.library.mark_exported(settings.frame, crate::now())?;
        Ok(bytes)
    }

    /// Writes an export under the name that it was promised, or the next free one where another program has taken it.
    fn keep_file(&self, job: &Job, settings: &ExportSettings, mut file: Arriving) -> Result<(), LabError> {
        loop {
            let path = job.path();
            match file.try_new_at(&path) {
                Ok(()) => return Ok(()),
                Err((_, Some(unplaced))) if path.exists() => {
                    file = unplaced;
                    let free = self.exports.queue().free_path(
                        &self.library.exports(),
                        &settings.name,
                        settings.format.ending(),
                    );
                    *job.path.lock().unwrap_or_else(PoisonError::into_inner) = free;
                }
                Err((source, _)) => {
                    return Err(FileError::Write { path: path.display().to_string(), source }.into());
                }
            }
        }
    }

    pub fn exports(&self) -> Vec<ExportStatus> {
        let jobs = &self.exports.queue().jobs;
        jobs.iter().map(|job| status(job)).collect()
    }

    /// The finished file of an export.
    pub fn export_file(&self, id: u64) -> Result<PathBuf, LabError> {
        let jobs = &self.exports.queue().jobs;
        let job = jobs.iter().find(|j| j.id == id).ok_or(LabError::NoExport(id))?;
        match status(job).state {
            ExportState::Done { .. } => Ok(job.path()),
            _ => Err(LabError::NoExport(id)),
        }
    }

    pub fn cancel_export(&self, id: u64) -> Result<(), LabError> {
        let jobs = &self.exports.queue().jobs;
        let job = jobs.iter().find(|j| j.id == id).ok_or(LabError::NoExport(id))?;
        job.cancelled.store(true, Ordering::Relaxed);
        Ok(())
    }
}

fn status(job: &Job) -> ExportStatus {
    let state = match &*job.finished.lock().unwrap_or_else(PoisonError::into_inner) {
        Some(Ok(bytes)) => ExportState::Done { bytes: *bytes },
        Some(Err(why)) => ExportState::Stopped(why.clone()),
        None => {
            let (done, all) = (job.done.load(Ordering::Relaxed), job.all.load(Ordering::Relaxed));
            ExportState::Running(done as f64 / all.max(1) as f64)
        }
    };
    let file_name = job.path().file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
    ExportStatus { id: job.id, frame: job.frame, file_name, state }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_cannot_leave_the_folder() {
        assert_eq!(safe_name("../../etc/passwd").unwrap(), "etc-passwd".to_string());
        assert_eq!(safe_name(" Hill road: plover ").unwrap(), "Hill road- plover");
        assert!(safe_name("../..").is_err());
        assert_eq!(safe_name("con").unwrap(), "_con");
        assert_eq!(safe_name("COM1.old").unwrap(), "_COM1.old");
        assert_eq!(safe_name("console").unwrap(), "console");
        assert_eq!(safe_name("a\u{202E}gpj").unwrap(), "a-gpj");
        assert!(safe_name(&"漢".repeat(120)).unwrap().len() <= LONGEST_NAME);
    }
}
