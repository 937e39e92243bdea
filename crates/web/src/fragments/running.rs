//! A match that is still at work.

use askama::Template;

/// How far a match is.
#[derive(Template)]
#[template(path = "partials/match_running.html")]
pub struct RunningView {
    job: u64,
    share: usize,
}

impl RunningView {
    /// Of a match that has just begun.
    pub fn new(job: u64) -> Self {
        Self { job, share: 0 }
    }
}

impl RunningView {
    /// So many of a hundred parts are done.
    pub fn at(job: u64, share: usize) -> Self {
        Self { job, share }
    }
}
