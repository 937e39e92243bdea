//! The log: a frame's history, read a page at a time however long it is.

use amber_core::Development;
use rusqlite::{OptionalExtension, Row, params};

use crate::Library;
use crate::error::LibraryError;

/// A step of a frame's history.
#[derive(Debug, Clone)]
pub struct LogStep {
    pub step: i64,
    /// What it did, in words.
    pub label: String,
    /// The frame after it, without its masks; none where it cannot be read.
    pub development: Option<Development>,
}

impl Library {
    /// The steps of a frame, newest first, at most `count` of those that come before step `before`; and the step that
    /// is in force.
    pub fn log(&self, frame: i64, before: Option<i64>, count: usize) -> Result<(Vec<LogStep>, i64), LibraryError> {
        self.database.read(|c| {
            let cursor = c.query_row("SELECT cursor FROM frames WHERE id = ?1", [frame], |r| r.get(0)).optional()?;
            let cursor = cursor.ok_or(LibraryError::NotThere { what: "frame", id: frame })?;
            let mut rows = c.prepare_cached(
                "SELECT step, label, development FROM history WHERE frame = ?1 AND step < ?2 \
                 ORDER BY step DESC LIMIT ?3",
            )?;
            let step = |r: &Row| -> rusqlite::Result<LogStep> {
                let text: String = r.get(2)?;
                Ok(LogStep { step: r.get(0)?, label: r.get(1)?, development: serde_json::from_str(&text).ok() })
            };
            let asked = params![frame, before.unwrap_or(i64::MAX), count as i64];
            let steps = rows.query_map(asked, step)?.collect::<Result<_, _>>()?;
            Ok((steps, cursor))
        })
    }
}
