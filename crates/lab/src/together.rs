//! One step on each of several frames: all of them or none, and taken back together.

use std::sync::Arc;

use amber_core::{Development, Stock};
use amber_library::{Change, FrameSummary, Together};

use crate::Lab;
use crate::error::LabError;

/// What was done to several frames.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Applied {
    /// Under which number it is taken back; 0 where nothing was done.
    pub batch: i64,
    /// The frames that were changed.
    pub frames: Vec<i64>,
    /// What to say.
    pub message: String,
}

impl Lab {
    /// Makes a step of each of several frames: all of them or none. `change` gives a frame's new development, or none
    /// where it stays as it is.
    pub(crate) fn together(
        &self,
        frames: &[i64],
        label: &str,
        mut change: impl FnMut(&FrameSummary, &Arc<Stock>) -> Result<Option<(Development, Arc<Stock>)>, LabError>,
        preset: Option<&str>,
    ) -> Result<Applied, LabError> {
        if frames.is_empty() {
            return Err(LabError::NoFrames);
        }
        let mut steps = Vec::with_capacity(frames.len());
        for id in frames {
            let before = self.library.frame(*id)?;
            let Some((development, stock)) = change(&before.summary, &before.stock)? else { continue };
            if development != before.summary.development || preset.is_some() {
                let change = Change { revision: before.summary.revision, label: label.to_owned(), development };
                steps.push(Together { frame: *id, change, stock, preset: preset.map(str::to_owned) });
            }
        }
        let changed: Vec<i64> = steps.iter().map(|step| step.frame).collect();
        let count = changed.len();
        let on = if frames.len() > 1 { format!(" on {count} of {} frames", frames.len()) } else { String::new() };
        let batch = if steps.is_empty() { 0 } else { self.library.commit_together(label, steps)? };
        Ok(Applied { batch, frames: changed, message: format!("{label}{on}.") })
    }

    /// Takes back what was done to several frames together; frames that have moved on since stay as they are.
    pub fn undo_together(&self, batch: i64) -> Result<Applied, LabError> {
        let undone = self.library.undo_together(batch)?;
        let mut message = format!("Undone: {}.", undone.label);
        if !undone.moved_on.is_empty() {
            message += &format!(" {} changed since and stay as they are.", counted(undone.moved_on.len()));
        }
        Ok(Applied { batch: 0, frames: undone.frames, message })
    }
}

/// "1 frame", "3 frames".
pub(crate) fn counted(frames: usize) -> String {
    format!("{frames} frame{}", if frames == 1 { "" } else { "s" })
}
