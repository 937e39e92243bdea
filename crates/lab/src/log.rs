//! The log of a frame: its history in words, each step with the station at which it changed something.

use amber_core::{Development, Station, stations};
use amber_library::LogStep;

use crate::Lab;
use crate::error::LabError;

/// Steps of a page of the log.
pub const LOG_PAGE: usize = 60;

/// A step of a frame's history.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LogEntry {
    pub step: i64,
    pub label: String,
    /// Where it changed something; none where that was at several, or at none.
    pub station: Option<Station>,
    /// It is the one in force.
    pub now: bool,
    /// It was taken back, and can be done again.
    pub ahead: bool,
}

impl Lab {
    /// A page of a frame's log, newest first: the steps before one, or the newest. And whether there are earlier ones.
    pub fn log(&self, frame: i64, before: Option<i64>) -> Result<(Vec<LogEntry>, bool), LabError> {
        // one more than is shown: what a step changed is seen against the one before
        let (steps, cursor) = self.library.log(frame, before, LOG_PAGE + 1)?;
        let entries = steps.iter().enumerate().take(LOG_PAGE).map(|(i, step)| LogEntry {
            step: step.step,
            label: step.label.clone(),
            station: steps.get(i + 1).and_then(|earlier| changed_at(earlier, step)),
            now: step.step == cursor,
            ahead: step.step > cursor,
        });
        Ok((entries.collect(), steps.len() > LOG_PAGE))
    }
}

/// The one station at which two steps differ.
fn changed_at(earlier: &LogStep, later: &LogStep) -> Option<Station> {
    let (earlier, later) = (earlier.development.as_ref()?, later.development.as_ref()?);
    if earlier.stock != later.stock {
        return None;
    }
    let value = |id: &String| (earlier.values.get(id), later.values.get(id));
    let ids = earlier.values.keys().chain(later.values.keys()).filter(|id| {
        let (a, b) = value(id);
        a != b
    });
    let mut at: Vec<Station> = ids.filter_map(|id| station_of(id)).chain(switched(earlier, later)).collect();
    at.dedup();
    match at.as_slice() {
        [one] => Some(*one),
        _ => None,
    }
}

fn station_of(id: &str) -> Option<Station> {
    stations::find(id).ok().map(|control| control.station)
}

fn switched<'a>(earlier: &'a Development, later: &'a Development) -> impl Iterator<Item = Station> + 'a {
    let lamps = earlier.off.symmetric_difference(&later.off);
    lamps.filter_map(|lamp| stations::station_of_lamp(lamp))
}
