//! A hand-off folder: what settles in it is developed by an order and laid in another folder.

use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc::{RecvTimeoutError, channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::JoinHandle;
use std::time::{Duration, Instant, SystemTime};

use amber_files::Limits;
use notify::{RecursiveMode, Watcher};

use super::on_files::{Files, Plan, Planned};
use super::record::{Record, merged};
use super::{FileOutcome, LabOrder};
use crate::Lab;
use crate::error::LabError;
use crate::hands::stand_back;

/// A file has settled when it has not changed for so long: whoever writes it has ended.
const SETTLED: Duration = Duration::from_millis(800);
/// How often what is not settled yet is looked at.
const TICK: Duration = Duration::from_millis(200);

/// A hand-off folder.
#[derive(Debug, Clone)]
pub struct HandOff {
    pub order: LabOrder,
    pub from: PathBuf,
    pub to: PathBuf,
    pub limits: Limits,
}

/// Folders that are watched.
#[derive(Default)]
pub(crate) struct Watched {
    over: Arc<AtomicBool>,
    threads: Mutex<Vec<JoinHandle<()>>>,
}

impl Watched {
    /// Ends it after the picture in hand.
    pub fn stop(&self) {
        self.over.store(true, Ordering::Relaxed);
        let threads = std::mem::take(&mut *self.threads.lock().unwrap_or_else(PoisonError::into_inner));
        for thread in threads {
            if thread.join().is_err() {
                tracing::warn!("a hand-off folder ended badly");
            }
        }
    }
}

/// What a file was when it was last looked at, and since when it is so.
struct Seen {
    state: (u64, Option<SystemTime>),
    since: Instant,
}

/// Whether a file is one to be developed: a picture that nobody hides.
fn is_picture(path: &Path) -> bool {
    let is_hidden = path.file_name().is_some_and(|name| name.to_string_lossy().starts_with('.'));
    !is_hidden && amber_files::is_picture(path)
}

fn pictures_in(folder: &Path) -> Vec<PathBuf> {
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
    entries.map(|entry| entry.path()).filter(|path| is_picture(path) && path.is_file()).collect()
}

impl HandOff {
    /// The file with a name for its picture that is not another's: the one that it has already, or a free one.
    fn planned(&self, file: &Path) -> Result<Planned, LabError> {
        let known = merged(&self.to)?.files;
        let input = file.display().to_string();
        if let Some(own) = known.iter().find(|record| record.input == input) {
            return Ok(Planned { input: file.into(), output: own.output.clone() });
        }
        let plan = Plan::from(&self.order, &[file.to_owned()], known.len() + 1)?;
        let Planned { output, .. } = plan.0.into_iter().next().ok_or(LabError::NoFrames)?;
        let (stem, ending) = output.rsplit_once('.').unwrap_or((&output, ""));
        let numbered = |n: u32| if n == 1 { output.clone() } else { format!("{stem} {n}.{ending}") };
        let is_free = |name: &String| Record::of(&self.to, name).is_none() && !self.to.join(name).exists();
        let free = (1..).map(numbered).find(is_free);
        Ok(Planned { input: file.into(), output: free.unwrap_or(output) })
    }
}

impl Lab {
    /// Watches a folder until the lab is closed.
    pub fn watch(self: &Arc<Self>, hand_off: HandOff) -> Result<(), LabError> {
        hand_off.order.check()?;
        let unusable = |path: &Path, why: String| LabError::Folder { path: path.display().to_string(), why };
        for folder in [&hand_off.from, &hand_off.to] {
            std::fs::create_dir_all(folder).map_err(|e| unusable(folder, e.to_string()))?;
        }
        let [from, to] = [&hand_off.from, &hand_off.to].map(|folder| folder.canonicalize());
        if matches!((from, to), (Ok(from), Ok(to)) if from == to) {
            return Err(unusable(&hand_off.to, "pictures would be developed again and again".into()));
        }
        let (tell, told) = channel();
        let heard = move |event: notify::Result<notify::Event>| {
            let _ = tell.send(event.map(|event| event.paths).unwrap_or_default());
        };
        let watcher = notify::recommended_watcher(heard).and_then(|mut watcher| {
            watcher.watch(&hand_off.from, RecursiveMode::NonRecursive)?;
            Ok(watcher)
        });
        let watcher = watcher.map_err(|e| unusable(&hand_off.from, e.to_string()))?;
        let (lab, over) = (self.clone(), self.watched.over.clone());
        let work = move || {
            stand_back();
            let _watcher = watcher;
            let mut waiting: HashMap<PathBuf, Option<Seen>> = HashMap::new();
            waiting.extend(pictures_in(&hand_off.from).into_iter().map(|path| (path, None)));
            while !over.load(Ordering::Relaxed) {
                match told.recv_timeout(TICK) {
                    Ok(paths) => waiting.extend(paths.into_iter().filter(|p| is_picture(p)).map(|path| (path, None))),
                    Err(RecvTimeoutError::Timeout) => {}
                    Err(RecvTimeoutError::Disconnected) => return,
                }
                for path in settled(&mut waiting) {
                    if over.load(Ordering::Relaxed) {
                        return;
                    }
                    lab.hand_over(&hand_off, &path);
                }
            }
        };
        let thread = std::thread::Builder::new().name("hand-off".into()).spawn(work);
        let thread = thread.map_err(|e| LabError::Threads(e.to_string()))?;
        self.watched.threads.lock().unwrap_or_else(PoisonError::into_inner).push(thread);
        Ok(())
    }

    /// Develops a file that has settled.
    fn hand_over(&self, hand_off: &HandOff, path: &Path) {
        let work = Files { order: &hand_off.order, folder: &hand_off.to, limits: hand_off.limits, quickly: false };
        let done = hand_off.planned(path).map(|planned| work.run(&planned, &self.background));
        match done {
            Ok(done) => {
                if let FileOutcome::Failed { why } = done.outcome {
                    tracing::warn!("{}: {why}", done.input);
                }
            }
            Err(error) => tracing::warn!("{}: {error}", path.display()),
        }
    }
}

/// Takes those that have not changed for a while out of those that wait; what is gone waits no more.
fn settled(waiting: &mut HashMap<PathBuf, Option<Seen>>) -> Vec<PathBuf> {
    let mut ready = Vec::new();
    waiting.retain(|path, seen| {
        let Ok(data) = std::fs::metadata(path) else { return false };
        let state = (data.len(), data.modified().ok());
        match seen {
            Some(before) if before.state == state => {
                let is_ready = before.since.elapsed() >= SETTLED;
                if is_ready {
                    ready.push(path.clone());
                }
                !is_ready
            }
            _ => {
                *seen = Some(Seen { state, since: Instant::now() });
                true
            }
        }
    });
    ready.sort();
    ready
}
