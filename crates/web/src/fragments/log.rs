//! The log on the bench: the steps of a frame, each run at one station under its name.

use amber_core::Station;
use amber_lab::{Lab, LogEntry};
use amber_library::Frame;
use askama::Template;

use crate::error::WebError;

/// Steps that follow one another at one station.
pub struct Run {
    pub number: usize,
    pub name: &'static str,
    pub steps: Vec<LogEntry>,
}

#[derive(Template)]
#[template(path = "partials/log.html")]
pub struct LogView {
    runs: Vec<Run>,
    /// The step before which earlier ones lie; none where these are all.
    earlier: Option<i64>,
    /// These are not the newest.
    later: bool,
    swapped: bool,
}

impl LogView {
    /// The steps before one, or the newest.
    pub fn new(lab: &Lab, frame: &Frame, before: Option<i64>, swapped: bool) -> Result<Self, WebError> {
        let (steps, more) = lab.log(frame.summary.id, before)?;
        let earlier = steps.last().map(|step| step.step).filter(|_| more);
        let mut runs: Vec<Run> = Vec::new();
        for step in steps {
            let (number, name) = step.station.map_or((0, "Stock, masks and more"), |s: Station| (s.number(), s.name()));
            match runs.last_mut().filter(|run| run.number == number) {
                Some(run) => run.steps.push(step),
                None => runs.push(Run { number, name, steps: vec![step] }),
            }
        }
        Ok(Self { runs, earlier, later: before.is_some(), swapped })
    }
}
