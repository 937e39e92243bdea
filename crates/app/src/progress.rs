//! What is said while several files are worked on: a bar on a terminal, lines of JSON where a script asked for them.

use std::io::IsTerminal;
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

use amber_lab::{FileOutcome, FileWork};
use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};

use crate::exit::Failure;
use crate::output;

/// How much is said.
#[derive(Debug, Clone, Copy)]
pub struct Telling {
    /// A line of JSON on standard output for each file.
    pub json: bool,
    /// Nothing but errors.
    pub quiet: bool,
}

/// Hears of each file as it ends.
pub struct Progress {
    telling: Telling,
    bar: ProgressBar,
    failed: Mutex<Vec<String>>,
    there: AtomicUsize,
    all: usize,
}

impl Progress {
    pub fn new(telling: Telling, files: usize) -> Self {
        let shown = !telling.quiet && !telling.json && files > 1 && std::io::stderr().is_terminal();
        let target = if shown { ProgressDrawTarget::stderr() } else { ProgressDrawTarget::hidden() };
        let bar = ProgressBar::with_draw_target(Some(files as u64), target);
        let style = ProgressStyle::with_template("{bar:30} {pos} of {len}, {eta} left  {wide_msg}");
        bar.set_style(style.unwrap_or_else(|_| ProgressStyle::default_bar()));
        Self { telling, bar, failed: Mutex::default(), there: AtomicUsize::new(0), all: files }
    }

    pub fn tell(&self, work: &FileWork) {
        match &work.outcome {
            FileOutcome::Failed { why } => {
                let line = format!("{}: {why}", work.input);
                if !self.telling.json {
                    self.bar.suspend(|| eprintln!("amber-grain: {line}"));
                }
                self.failed.lock().unwrap_or_else(std::sync::PoisonError::into_inner).push(line);
            }
            FileOutcome::There { .. } => drop(self.there.fetch_add(1, Ordering::Relaxed)),
            FileOutcome::Made { .. } => {}
        }
        if self.telling.json {
            let line = serde_json::to_string(work).unwrap_or_default();
            // who reads no more wants no more
            let _ = output::print(&line);
        }
        self.bar.set_message(work.output.clone());
        self.bar.inc(1);
    }

    /// What became of all of them.
    pub fn end(self) -> Result<(), Failure> {
        self.bar.finish_and_clear();
        let failed = self.failed.into_inner().unwrap_or_else(std::sync::PoisonError::into_inner);
        let there = self.there.into_inner();
        if !self.telling.quiet && !self.telling.json && self.all > 1 {
            let already = if there > 0 { format!(", {there} were there already") } else { String::new() };
            eprintln!("amber-grain: {} of {} done{already}", self.all - failed.len(), self.all);
        }
        match failed.len() {
            0 => Ok(()),
            all if all == self.all => Err(Failure::Unusable("none of the files could be done".into())),
            some => Err(Failure::Partly(format!("{some} of {} could not be done", self.all))),
        }
    }
}
