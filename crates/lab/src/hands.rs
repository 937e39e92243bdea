//! The threads that work: those for what somebody waits to see, and those for exports, which let the others go first.

use std::sync::Arc;

use amber_core::CoreError;
use rayon::{ThreadPool, ThreadPoolBuilder};

use crate::error::LabError;

/// How much less of the processor a thread of the background gets, as the system counts it.
const NICER: i32 = 15;

/// How much less one gets that renders for a file: its encoder, which takes what it makes, goes first, so that none is
/// left to be encoded when all is rendered.
const NICER_THAN_ITS_ENCODER: i32 = 4;

/// Threads that render: so many, or one per core.
fn builder(threads: Option<usize>) -> ThreadPoolBuilder {
    ThreadPoolBuilder::new().num_threads(threads.unwrap_or(0))
}

fn built(builder: ThreadPoolBuilder) -> Result<Arc<ThreadPool>, LabError> {
    builder.build().map(Arc::new).map_err(|e| LabError::Threads(e.to_string()))
}

/// The pool on which renders run.
pub fn render_pool(threads: Option<usize>) -> Result<Arc<ThreadPool>, LabError> {
    built(builder(threads).thread_name(|i| format!("render {i}")))
}

/// As many threads for files that somebody waits for.
pub fn file_pool(threads: Option<usize>) -> Result<Arc<ThreadPool>, LabError> {
    let builder = builder(threads).thread_name(|i| format!("render {i}"));
    built(builder.start_handler(|_| stand_back_by(NICER_THAN_ITS_ENCODER)))
}

/// As many threads for what nobody waits to see at once.
pub(crate) fn background_pool(threads: Option<usize>) -> Result<Arc<ThreadPool>, LabError> {
    built(builder(threads).thread_name(|i| format!("export {i}")).start_handler(|_| stand_back()))
}

/// From here on this thread, and those that it starts, let others go first, where the system can do that.
pub(crate) fn stand_back() {
    stand_back_by(NICER);
}

fn stand_back_by(nicer: i32) {
    #[cfg(target_os = "linux")]
    if let Err(error) = rustix::process::nice(nicer) {
        tracing::debug!("all threads have the same priority: {error}");
    }
    #[cfg(not(target_os = "linux"))]
    let _ = nicer;
}

/// Who works on something, and whether it is still wanted.
#[derive(Clone, Copy)]
pub(crate) struct Hands<'a> {
    /// The threads that compute.
    pub pool: &'a ThreadPool,
    /// Asked between steps whether the work is given up.
    pub over: &'a (dyn Fn() -> bool + Sync),
}

impl Hands<'_> {
    /// An error where the work is given up.
    pub fn go_on(&self) -> Result<(), LabError> {
        if (self.over)() { Err(CoreError::Abandoned.into()) } else { Ok(()) }
    }

    /// Computes on the threads.
    pub fn work<T: Send>(&self, work: impl FnOnce() -> T + Send) -> T {
        self.pool.install(work)
    }
}

#[cfg(test)]
mod tests {
    #[cfg(target_os = "linux")]
    use super::*;

    #[cfg(target_os = "linux")]
    /// The nineteenth field of a thread's state is its priority as the system counts it.
    fn nice_of_this_thread() -> i32 {
        let state = std::fs::read_to_string("/proc/thread-self/stat").unwrap();
        state.rsplit_once(')').unwrap().1.split_whitespace().nth(16).unwrap().parse().unwrap()
    }

    #[test]
    #[cfg(target_os = "linux")]
    fn exports_stand_back_and_views_do_not() {
        let own = nice_of_this_thread();
        assert_eq!(render_pool(Some(1)).unwrap().install(nice_of_this_thread), own);
        let of_file = (own + NICER_THAN_ITS_ENCODER).min(19);
        assert_eq!(file_pool(Some(1)).unwrap().install(nice_of_this_thread), of_file);
        let behind = (own + NICER).min(19);
        assert_eq!(background_pool(Some(1)).unwrap().install(nice_of_this_thread), behind);
        let child = std::thread::spawn(|| {
            stand_back();
            std::thread::spawn(nice_of_this_thread).join().unwrap()
        });
        assert_eq!(child.join().unwrap(), behind, "what it starts stands back too");
    }
}
