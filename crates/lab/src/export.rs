//! Exports: full-size pictures as files.

use std::collections::VecDeque;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

use amber_core::picture::reduce::{Level, size_for_long_edge};
use amber_core::render::{GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::{Development, Region, Stock};
use amber_files::{Metadata, write};

use crate::Lab;
use crate::error::LabError;
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
    path: PathBuf,
    done: AtomicUsize,
    all: AtomicUsize,
    cancelled: AtomicBool,
    finished: Mutex<Option<Result<u64, String>>>,
}

/// The exports of this run, newest first.
#[derive(Default)]
pub struct Exports {
    jobs: Mutex<VecDeque<Arc<Job>>>,
    /// One at a time: an export takes all render threads anyway, and twice the memory would not make it faster.
    turn: Mutex<()>,
}

const MOST_REMEMBERED: usize = 50;

/// A file name that is safe on every system: no folders, no control characters, no leading dots.
pub fn safe_name(name: &str) -> Result<String, LabError> {
    let plain = |c: char| if c.is_control() || "/\\:*?\"<>|".contains(c) { '-' } else { c };
    let name: String = name.trim().chars().map(plain).take(120).collect();
    let name = name.trim_matches(['.', ' ', '-']).to_string();
    if name.chars().any(char::is_alphanumeric) { Ok(name) } else { Err(LabError::ExportName) }
}

/// Where a finished picture goes.
pub enum Destination<'a> {
    Jpeg { quality: u8, metadata: &'a Metadata },
    Tiff16 { metadata: &'a Metadata },
}

/// Renders without keeping tiles and encodes: what export and command line share.
pub fn develop_to_bytes(
    renderer: &Renderer,
    scaled: &Scaled,
    stock: &Stock,
    development: &Development,
    region: Region,
    destination: &Destination,
    watch: Watch,
) -> Result<Vec<u8>, LabError> {
    let request = RenderRequest { scaled, stock, development, region, grain: GrainShown::Full, keep_tiles: false };
    let (width, height) = (region.width, region.height);
    Ok(match destination {
        Destination::Jpeg { quality, metadata } => {
            write::jpeg(&renderer.display_8_bit(&request, watch)?, width, height, *quality, Some(metadata))?
        }
        Destination::Tiff16 { metadata } => {
            write::tiff_16_bit(&renderer.display_16_bit(&request, watch)?, width, height, metadata)?
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
        let id = self.next_export.fetch_add(1, Ordering::SeqCst);
        let mut jobs = self.exports.jobs.lock().unwrap_or_else(PoisonError::into_inner);
        let path = free_path(&self.library.exports(), &name, settings.format.ending(), &jobs);
        let job = Arc::new(Job {
            id,
            frame: settings.frame,
            path,
            done: AtomicUsize::new(0),
            all: AtomicUsize::new(1),
            cancelled: AtomicBool::new(false),
            finished: Mutex::new(None),
        });
        jobs.push_front(job.clone());
        jobs.truncate(MOST_REMEMBERED);
        drop(jobs);
        let lab = self.clone();
        let run = move || {
            let turn = lab.exports.turn.lock().unwrap_or_else(PoisonError::into_inner);
            let result = lab
                .run_export(&job, &settings, &frame)
                .map_err(|e| if e.is_abandoned() { "cancelled".to_string() } else { e.to_string() });
            drop(turn);
            *job.finished.lock().unwrap_or_else(PoisonError::into_inner) = Some(result);
        };
        std::thread::Builder::new()
            .name(format!("export {id}"))
            .spawn(run)
            .map_err(|e| LabError::Threads(e.to_string()))?;
        Ok(id)
    }

    fn run_export(&self, job: &Job, settings: &ExportSettings, frame: &amber_library::Frame) -> Result<u64, LabError> {
        let cancelled = || job.cancelled.load(Ordering::Relaxed);
        let development = &frame.summary.development;
        let care = Care::Settled(&cancelled);
        let full = self.source_of(&frame.summary, Level::FULL, development, &frame.stock, care)?;
        let scaled = match settings.long_edge {
            None => full,
            Some(edge) => {
                let (width, height) = size_for_long_edge(edge, full.full_width, full.full_height);
                full.reduced(width, height)
            }
        };
        let metadata = self.sources.metadata(&self.library, &frame.summary)?;
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
        let region = scaled.source.region();
        let bytes = develop_to_bytes(&self.renderer, &scaled, &frame.stock, development, region, &destination, watch)?;
        write::save(&job.path, &bytes)?;
        let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |d| d.as_secs());
        self.library.mark_exported(settings.frame, now as i64)?;
        Ok(bytes.len() as u64)
    }

    pub fn exports(&self) -> Vec<ExportStatus> {
        let jobs = self.exports.jobs.lock().unwrap_or_else(PoisonError::into_inner);
        jobs.iter().map(|job| status(job)).collect()
    }

    /// The finished file of an export.
    pub fn export_file(&self, id: u64) -> Result<PathBuf, LabError> {
        let jobs = self.exports.jobs.lock().unwrap_or_else(PoisonError::into_inner);
        let job = jobs.iter().find(|j| j.id == id).ok_or(LabError::NoExport(id))?;
        match status(job).state {
            ExportState::Done { .. } => Ok(job.path.clone()),
            _ => Err(LabError::NoExport(id)),
        }
    }

    pub fn cancel_export(&self, id: u64) -> Result<(), LabError> {
        let jobs = self.exports.jobs.lock().unwrap_or_else(PoisonError::into_inner);
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
    let file_name = job.path.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
    ExportStatus { id: job.id, frame: job.frame, file_name, state }
}

/// A path in the folder that neither exists nor is being written: the name, numbered when it is taken.
fn free_path(folder: &Path, name: &str, ending: &str, jobs: &VecDeque<Arc<Job>>) -> PathBuf {
    (1..)
        .map(|n| if n == 1 { format!("{name}.{ending}") } else { format!("{name} {n}.{ending}") })
        .map(|file| folder.join(file))
        .find(|path| !path.exists() && jobs.iter().all(|j| j.path != *path))
        .unwrap_or_else(|| folder.join(format!("{name}.{ending}")))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_cannot_leave_the_folder() {
        assert_eq!(safe_name("../../etc/passwd").unwrap(), "etc-passwd".to_string());
        assert_eq!(safe_name(" Hill road: plover ").unwrap(), "Hill road- plover");
        assert!(safe_name("../..").is_err());
    }
}
