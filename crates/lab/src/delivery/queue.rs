//! The queue of exports at work: one at a time, since each takes all threads anyway, and twice the memory would not
//! make it faster.
//!
//! What waits lies in the library and survives the end of the program. A file is written beside the one that it is to
//! be; what it is, is written down before it gets its name, so an end at any moment leaves it either to be made anew or
//! known to be there.

use std::collections::VecDeque;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use amber_core::Development;
use amber_core::picture::reduce::Level;
use amber_core::render::{RenderRequest, Watch};
use amber_files::write::Arriving;
use amber_files::{FileError, Travelling, write};
use amber_library::{FrameSummary, LibraryError, NewExport, QueuedExport, Stage};

use super::names::safe_name;
use super::output::Output;
use super::rendering::{develop_into, sized};
use crate::Lab;
use crate::error::LabError;
use crate::hands::{Hands, stand_back};
use crate::mounting::in_its_mount;
use crate::sources::Care;

/// What to export.
#[derive(Debug, Clone)]
pub struct ExportSettings {
    pub frame: i64,
    /// Without ending.
    pub name: String,
    pub output: Output,
    /// The data folder's own where none is named.
    pub folder: Option<PathBuf>,
    /// How it is developed; as the frame is where nothing is said.
    pub development: Option<Development>,
}

impl ExportSettings {
    /// A frame as it is, into the data folder.
    pub fn of(frame: i64, name: &str, output: Output) -> Self {
        Self { frame, name: name.into(), output, folder: None, development: None }
    }
}

/// Where an export is.
#[derive(Debug, Clone, PartialEq)]
pub enum ExportState {
    Waiting,
    /// Share done, 0..1.
    Running(f64),
    Done {
        bytes: u64,
    },
    /// Why, in words.
    Failed(String),
    Cancelled,
}

/// An export as it is shown.
#[derive(Debug, Clone)]
pub struct ExportStatus {
    pub id: i64,
    pub frame: i64,
    /// Those that were ordered together share it.
    pub batch: i64,
    pub file_name: String,
    /// Empty for the data folder's own.
    pub folder: String,
    pub state: ExportState,
}

/// The whole queue as it is shown.
#[derive(Debug, Clone)]
pub struct QueueState {
    pub exports: Vec<ExportStatus>,
    /// How many wait or run, those that are not shown included.
    pub going: usize,
    /// How many have ended and are remembered.
    pub ended: usize,
    pub paused: bool,
    /// Seconds until all are done, by the last ones; none where nothing is known or nothing runs.
    pub left_s: Option<u64>,
}

/// Most that may wait, and most that are shown of those that wait and that have ended.
const MOST_WAITING: usize = 20_000;
const SHOWN_WAITING: usize = 60;
const SHOWN_ENDED: usize = 60;
/// Exports by which the time of the next ones is told.
const REMEMBERED: usize = 8;

/// From this age on a half-written file in somebody's folder belongs to nobody any more.
const OLD: Duration = Duration::from_secs(3600);

/// The one that runs.
struct Running {
    id: i64,
    done: AtomicUsize,
    all: AtomicUsize,
    cancelled: AtomicBool,
    since: Instant,
}

impl Running {
    fn share(&self) -> f64 {
        self.done.load(Ordering::Relaxed) as f64 / self.all.load(Ordering::Relaxed).max(1) as f64
    }
}

/// What of the queue lives only while the program runs.
#[derive(Default)]
pub struct Exports {
    state: Mutex<State>,
    /// Told when one has ended, and when the last one has.
    changed: Condvar,
}

#[derive(Default)]
struct State {
    running: Option<Arc<Running>>,
    /// Whether a thread works.
    working: bool,
    stopped: bool,
    /// How long the last ones took.
    took: VecDeque<Duration>,
}

impl Exports {
    fn state(&self) -> MutexGuard<'_, State> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Gives up what runs, which will run again at the next start, and waits for its end.
    pub(crate) fn stop(&self) {
        let mut state = self.state();
        state.stopped = true;
        if let Some(running) = &state.running {
            running.cancelled.store(true, Ordering::Relaxed);
        }
        while state.working {
            state = self.changed.wait(state).unwrap_or_else(PoisonError::into_inner);
        }
    }
}

fn unwritten(path: &Path) -> impl Fn(std::io::Error) -> LabError {
    let path = path.display().to_string();
    move |source| FileError::Write { path: path.clone(), source }.into()
}

impl Lab {
    /// Puts a frame in the queue. Gives the export's number.
    pub fn start_export(self: &Arc<Self>, settings: ExportSettings) -> Result<i64, LabError> {
        Ok(self.start_exports(vec![settings])?[0])
    }

    /// Puts frames in the queue, all of them or none. Gives the exports' numbers, of which the first is that of all.
    pub fn start_exports(self: &Arc<Self>, settings: Vec<ExportSettings>) -> Result<Vec<i64>, LabError> {
        if settings.is_empty() {
            return Err(LabError::NoFrames);
        }
        if self.exports.state().stopped {
            return Err(LibraryError::Stopped.into());
        }
        if self.library.exports_counted()?[0] + settings.len() > MOST_WAITING {
            return Err(LabError::TooManyExports(MOST_WAITING));
        }
        let new: Vec<NewExport> = settings.into_iter().map(|one| self.to_queue(one)).collect::<Result<_, _>>()?;
        let own = self.library.exports();
        let there = move |folder: &str, file: &str| folder_of(&own, folder).join(file).exists();
        let ids = self.library.add_exports(new, there)?;
        self.work_on_exports()?;
        Ok(ids)
    }

    fn to_queue(&self, settings: ExportSettings) -> Result<NewExport, LabError> {
        settings.output.check()?;
        let frame = self.library.frame(settings.frame)?;
        if let Some(why) = frame.summary.trouble {
            return Err(LabError::Document { why });
        }
        let development = settings.development.unwrap_or(frame.summary.development);
        let stock = self.library.stock_of(&development)?;
        let folder = settings.folder.map(|f| f.display().to_string()).unwrap_or_default();
        Ok(NewExport {
            frame: settings.frame,
            output: settings.output.to_json(),
            folder,
            name: safe_name(&settings.name)?,
            ending: settings.output.encoding.ending().into(),
            development,
            stock: stock.as_ref().clone(),
        })
    }

    /// Goes on with what waited or ran when the program last ended.
    pub fn resume_exports(self: &Arc<Self>) -> Result<(), LabError> {
        for export in self.library.interrupted_exports()? {
            let path = self.path_of(&export);
            if !export.folder.is_empty() {
                amber_saving::sweep_old(Path::new(&export.folder), OLD);
            }
            let is_there = !export.hash.is_empty() && hash_of_file(&path).is_ok_and(|hash| hash == export.hash);
            match is_there {
                true => self.library.end_export(export.id, Stage::Done, "", crate::now())?,
                false => self.library.export_again(export.id)?,
            }
        }
        self.work_on_exports()
    }

    /// Starts the thread that works on the queue, where none does.
    fn work_on_exports(self: &Arc<Self>) -> Result<(), LabError> {
        let mut state = self.exports.state();
        if state.working || state.stopped {
            return Ok(());
        }
        let lab = self.clone();
        std::thread::Builder::new()
            .name("exports".into())
            .spawn(move || lab.run_exports())
            .map_err(|e| LabError::Threads(e.to_string()))?;
        state.working = true;
        Ok(())
    }

    /// Runs what waits until nothing does.
    fn run_exports(&self) {
        stand_back();
        while let Some((export, development, running)) = self.next_to_run() {
            // a panic is this picture's, not the queue's
            let run = AssertUnwindSafe(|| self.run_export(&export, development, &running));
            let result = catch_unwind(run).unwrap_or(Err(LabError::Broken));
            let stopped = self.exports.state().stopped;
            let ended = match result {
                Ok(()) => self.library.end_export(export.id, Stage::Done, "", crate::now()),
                Err(error) if error.is_abandoned() && stopped => self.library.export_again(export.id),
                Err(error) if error.is_abandoned() => {
                    self.library.end_export(export.id, Stage::Cancelled, "", crate::now())
                }
                Err(error) => self.library.end_export(export.id, Stage::Failed, &error.to_string(), crate::now()),
            };
            if let Err(error) = ended {
                tracing::warn!("what became of export {} could not be kept: {error}", export.id);
            }
            let mut state = self.exports.state();
            state.running = None;
            state.took.push_front(running.since.elapsed());
            state.took.truncate(REMEMBERED);
            self.exports.changed.notify_all();
        }
    }

    /// The next one; none ends the work.
    fn next_to_run(&self) -> Option<(QueuedExport, Result<Development, LibraryError>, Arc<Running>)> {
        let mut state = self.exports.state();
        let next = if state.stopped { Ok(None) } else { self.library.next_export() };
        match next {
            Ok(Some((export, development))) => {
                let running = Arc::new(Running {
                    id: export.id,
                    done: AtomicUsize::new(0),
                    all: AtomicUsize::new(1),
                    cancelled: AtomicBool::new(false),
                    since: Instant::now(),
                });
                state.running = Some(running.clone());
                Some((export, development, running))
            }
            other => {
                if let Err(error) = other {
                    tracing::warn!("the queue of exports cannot be read: {error}");
                }
                state.working = false;
                self.exports.changed.notify_all();
                None
            }
        }
    }

    fn run_export(
        &self,
        export: &QueuedExport,
        development: Result<Development, LibraryError>,
        running: &Running,
    ) -> Result<(), LabError> {
        let output = Output::from_json(&export.output)?;
        let development = development?;
        let stock = self.library.stock_of(&development)?;
        let frame = self.library.frame(export.frame)?.summary;
        let cancelled = || running.cancelled.load(Ordering::Relaxed);
        let hands = Hands { pool: self.background.pool(), over: &cancelled };
        let full = self.source_of(&frame, Level::FULL, &development, &stock, Care::Settled, hands)?;
        let whole = [full.full_width, full.full_height];
        let scaled = sized(full, &output.size, self.background.pool());
        let metadata = self.sources.metadata(&self.library, &frame, hands)?;
        let travelling = output.development.then(|| self.travelling(&frame, &development)).transpose()?;
        let attached = output.attached(&metadata, travelling, whole);
        let watch = Watch {
            abandoned: &cancelled,
            progress: &|done, all| {
                running.all.store(all, Ordering::Relaxed);
                running.done.fetch_max(done, Ordering::Relaxed);
            },
        };
        let (scaled, mount) = in_its_mount(&self.background, scaled, &stock, &development)?;
        let request =
            RenderRequest { finish: output.finish(whole), ..RenderRequest::whole(&scaled, &stock, &development) };
        let path = self.path_of(export);
        let file = write::arriving(&path, |out| {
            develop_into(out, &self.background, &request, mount, (&output.encoding, &attached), watch)
        })?;
        hands.go_on()?;
        self.place(export, &output, file)
    }

    /// Gives a finished file the name that it was promised, or the next free one where another program has taken it.
    fn place(&self, export: &QueuedExport, output: &Output, mut file: Arriving) -> Result<(), LabError> {
        let folder = folder_of(&self.library.exports(), &export.folder);
        let mut path = self.path_of(export);
        let mut name = export.file.clone();
        let bytes = file.bytes().map_err(unwritten(&path))?;
        let hash = hash_of(file.reopened().map_err(unwritten(&path))?).map_err(unwritten(&path))?;
        loop {
            self.library.export_made(export.id, &name, &hash, bytes)?;
            match file.try_new_at(&path) {
                Ok(()) => return Ok(()),
                Err((_, Some(unplaced))) if path.exists() => {
                    file = unplaced;
                    let there = folder.clone();
                    let is_there = move |file: &str| there.join(file).exists();
                    name = self.library.rename_export(export.id, output.encoding.ending(), is_there)?;
                    path = folder.join(&name);
                }
                Err((source, _)) => return Err(unwritten(&path)(source)),
            }
        }
    }

    /// A development on its way, as a file carries it.
    pub fn travelling(&self, frame: &FrameSummary, development: &Development) -> Result<Travelling, LabError> {
        Ok(Travelling {
            original: frame.content.clone(),
            name: frame.name.clone(),
            development: development.clone(),
            stock: Some(self.library.stock_of(development)?.as_ref().clone()),
            proofs: self.library.proofs(frame.id)?.into_iter().map(|proof| proof.name).collect(),
        })
    }

    fn path_of(&self, export: &QueuedExport) -> PathBuf {
        folder_of(&self.library.exports(), &export.folder).join(&export.file)
    }

    /// The queue.
    pub fn exports(&self) -> Result<QueueState, LabError> {
        let queued = self.library.exports_queued(SHOWN_WAITING, SHOWN_ENDED)?;
        let [going, ended] = self.library.exports_counted()?;
        let paused = self.library.exports_paused()?;
        let (running, mean) = {
            let state = self.exports.state();
            let sum: Duration = state.took.iter().sum();
            let mean = (!state.took.is_empty()).then(|| sum.as_secs_f64() / state.took.len() as f64);
            (state.running.clone(), mean)
        };
        let left_s = running.as_ref().filter(|_| going > 0).and_then(|running| {
            let (share, since) = (running.share(), running.since.elapsed().as_secs_f64());
            // where none has ended yet, by the one that runs, once it has run for a while
            let each = mean.or((share > 0.1).then(|| since / share))?;
            let this = (each - since).max(each * 0.05).max(0.0);
            Some((this + each * going.saturating_sub(1) as f64).ceil() as u64)
        });
        let exports = queued.into_iter().map(|export| status(export, running.as_deref())).collect();
        Ok(QueueState { exports, going, ended, paused, left_s })
    }

    /// Those that were ordered together.
    pub fn exports_of(&self, batch: i64) -> Result<Vec<ExportStatus>, LabError> {
        let running = self.exports.state().running.clone();
        let queued = self.library.exports_of(batch)?;
        Ok(queued.into_iter().map(|export| status(export, running.as_deref())).collect())
    }

    /// One of them.
    pub fn export(&self, id: i64) -> Result<ExportStatus, LabError> {
        let running = self.exports.state().running.clone();
        Ok(status(self.library.export(id)?, running.as_deref()))
    }

    /// The finished file of an export.
    pub fn export_file(&self, id: i64) -> Result<PathBuf, LabError> {
        let export = self.library.export(id)?;
        match export.stage {
            Stage::Done => Ok(self.path_of(&export)),
            _ => Err(LabError::NoExport(id)),
        }
    }

    /// Takes one out of the queue, whether it waits or runs.
    pub fn cancel_export(&self, id: i64) -> Result<(), LabError> {
        let state = self.exports.state();
        if let Some(running) = state.running.as_ref().filter(|running| running.id == id) {
            running.cancelled.store(true, Ordering::Relaxed);
            return Ok(());
        }
        drop(state);
        self.library.cancel_waiting(id, crate::now())?;
        Ok(())
    }

    /// Takes all out of the queue; gives how many waited.
    pub fn cancel_exports(&self) -> Result<usize, LabError> {
        let waited = self.library.cancel_all_waiting(crate::now())?;
        if let Some(running) = &self.exports.state().running {
            running.cancelled.store(true, Ordering::Relaxed);
        }
        Ok(waited)
    }

    /// Puts one that failed or was cancelled in the queue again.
    pub fn retry_export(self: &Arc<Self>, id: i64) -> Result<(), LabError> {
        let export = self.library.export(id)?;
        let output = Output::from_json(&export.output)?;
        let folder = folder_of(&self.library.exports(), &export.folder);
        let is_there = move |file: &str| folder.join(file).exists();
        self.library.retry_export(id, output.encoding.ending(), is_there)?;
        self.work_on_exports()
    }

    /// Lets the queue stand still after the one that runs, or go on.
    pub fn pause_exports(self: &Arc<Self>, still: bool) -> Result<(), LabError> {
        self.library.pause_exports(still)?;
        if still { Ok(()) } else { self.work_on_exports() }
    }

    /// Waits until one of some exports has ended, or for so long; whether one has.
    pub fn wait_for_export(&self, id: i64, most: Duration) -> Result<bool, LabError> {
        let until = Instant::now() + most;
        loop {
            if self.library.export(id)?.stage.is_over() {
                return Ok(true);
            }
            let left = until.saturating_duration_since(Instant::now());
            if left.is_zero() {
                return Ok(false);
            }
            let state = self.exports.state();
            let slice = left.min(Duration::from_millis(250));
            drop(self.exports.changed.wait_timeout(state, slice).unwrap_or_else(PoisonError::into_inner));
        }
    }
}

/// The folder of an export: the data folder's own where none is named.
fn folder_of(own: &Path, folder: &str) -> PathBuf {
    if folder.is_empty() { own.to_owned() } else { folder.into() }
}

pub(crate) fn hash_of(mut file: impl std::io::Read) -> std::io::Result<String> {
    let mut hasher = blake3::Hasher::new();
    std::io::copy(&mut file, &mut hasher)?;
    Ok(hasher.finalize().to_hex().to_string())
}

/// Content hash (BLAKE3, hexadecimal) of a file.
pub(crate) fn hash_of_file(path: &Path) -> std::io::Result<String> {
    hash_of(std::fs::File::open(path)?)
}

fn status(export: QueuedExport, running: Option<&Running>) -> ExportStatus {
    let state = match export.stage {
        Stage::Waiting => ExportState::Waiting,
        Stage::Running => ExportState::Running(running.filter(|r| r.id == export.id).map_or(0.0, Running::share)),
        Stage::Done => ExportState::Done { bytes: export.bytes },
        Stage::Failed => ExportState::Failed(export.why),
        Stage::Cancelled => ExportState::Cancelled,
    };
    ExportStatus {
        id: export.id,
        frame: export.frame,
        batch: export.batch,
        file_name: export.file,
        folder: export.folder,
        state,
    }
}
