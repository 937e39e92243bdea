//! Matches that take a while: on a thread of their own, watched and given up by number.

use std::collections::BTreeMap;
use std::sync::atomic::{AtomicBool, AtomicU64, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use amber_core::Development;
use amber_core::render::Watch;
use amber_matching::chart::{ChartFile, Fit, fit};
use amber_matching::reference::ReferenceMatch;

use super::reference::ReferenceOf;
use crate::Lab;
use crate::error::LabError;
use crate::waiting::Waiting;

/// Results that are remembered; the oldest go.
const MOST: usize = 24;

/// What a match may give.
pub enum Given {
    Look(ReferenceMatch),
    Stock(Box<Fit>),
}

/// One match.
pub struct Job {
    /// The frame for which it is; none for a stock.
    pub frame: Option<i64>,
    done: AtomicUsize,
    all: AtomicUsize,
    over: AtomicBool,
    given: OnceLock<Result<Given, String>>,
}

/// How far a match is.
pub enum JobState<'a> {
    /// Steps done and all steps.
    Running(usize, usize),
    Done(&'a Given),
    Failed(&'a str),
}

impl Job {
    pub fn state(&self) -> JobState<'_> {
        match self.given.get() {
            None => JobState::Running(self.done.load(Ordering::Relaxed), self.all.load(Ordering::Relaxed).max(1)),
            Some(Ok(given)) => JobState::Done(given),
            Some(Err(why)) => JobState::Failed(why),
        }
    }

    /// Gives it up.
    pub fn cancel(&self) {
        self.over.store(true, Ordering::Relaxed);
    }

    /// The look that was found.
    pub fn look(&self) -> Option<&ReferenceMatch> {
        match self.given.get() {
            Some(Ok(Given::Look(found))) => Some(found),
            _ => None,
        }
    }

    /// The stock that was fitted.
    pub fn fit(&self) -> Option<&Fit> {
        match self.given.get() {
            Some(Ok(Given::Stock(found))) => Some(found),
            _ => None,
        }
    }
}

/// All matches of a lab.
#[derive(Default)]
pub struct Matches {
    jobs: Mutex<BTreeMap<u64, Arc<Job>>>,
    next: AtomicU64,
}

impl Matches {
    fn begin(&self, frame: Option<i64>) -> (u64, Arc<Job>) {
        let id = self.next.fetch_add(1, Ordering::Relaxed) + 1;
        let job = Arc::new(Job {
            frame,
            done: AtomicUsize::new(0),
            all: AtomicUsize::new(0),
            over: AtomicBool::new(false),
            given: OnceLock::new(),
        });
        let mut jobs = self.jobs.lock().unwrap_or_else(PoisonError::into_inner);
        // a frame is matched once at a time: the newest is what its page waits for
        jobs.values().filter(|j| frame.is_some() && j.frame == frame).for_each(|j| j.cancel());
        jobs.insert(id, job.clone());
        while jobs.len() > MOST {
            jobs.pop_first();
        }
        (id, job)
    }

    /// A match by its number.
    pub fn find(&self, id: u64) -> Option<Arc<Job>> {
        self.jobs.lock().unwrap_or_else(PoisonError::into_inner).get(&id).cloned()
    }

    /// Gives all up.
    pub fn stop(&self) {
        self.jobs.lock().unwrap_or_else(PoisonError::into_inner).values().for_each(|j| j.cancel());
    }
}

/// What a piece of work gave, also where it met an error of its own.
fn told(work: impl FnOnce() -> Result<Given, LabError>) -> Result<Given, String> {
    match std::panic::catch_unwind(std::panic::AssertUnwindSafe(work)) {
        Ok(given) => given.map_err(|error| error.to_string()),
        Err(_) => Err(LabError::Broken.to_string()),
    }
}

impl Lab {
    /// Begins a match of a frame's look with a reference; gives its number.
    pub fn begin_match(self: &Arc<Self>, frame: i64, development: Development, of: ReferenceOf) -> u64 {
        let (id, job) = self.matches.begin(Some(frame));
        let lab = self.clone();
        std::thread::spawn(move || {
            let given = told(|| {
                let over = || job.over.load(Ordering::Relaxed);
                let progress = |done: usize, all: usize| {
                    job.done.store(done, Ordering::Relaxed);
                    job.all.store(all, Ordering::Relaxed);
                };
                let watch = Watch { abandoned: &over, progress: &progress };
                let look = || lab.match_look(frame, &development, of, watch);
                Waiting::default().during(look).map(Given::Look)
            });
            // it is set once, by this thread
            let _ = job.given.set(given);
        });
        id
    }

    /// Begins to fit a stock to a chart; gives its number.
    pub fn begin_fit(self: &Arc<Self>, chart: ChartFile) -> u64 {
        let (id, job) = self.matches.begin(None);
        let lab = self.clone();
        std::thread::spawn(move || {
            let over = || job.over.load(Ordering::Relaxed);
            let fitted = || lab.background.pool().install(|| fit(&chart, &over));
            let given = told(|| Ok(Given::Stock(Box::new(fitted()?))));
            let _ = job.given.set(given);
        });
        id
    }

    /// A match by its number.
    pub fn found(&self, id: u64) -> Result<Arc<Job>, LabError> {
        self.matches.find(id).ok_or(LabError::NoMatch)
    }
}
