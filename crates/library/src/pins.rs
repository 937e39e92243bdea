//! Pinned readings: places of a frame that are kept with it.

use rusqlite::{OptionalExtension, params};

use crate::Library;
use crate::error::LibraryError;

impl Library {
    /// The places of a frame whose readings are pinned, in shares of its width and height.
    pub fn pins(&self, frame: i64) -> Result<Vec<[f64; 2]>, LibraryError> {
        self.database.read(|c| {
            let kept: Option<String> =
                c.query_row("SELECT pins FROM frames WHERE id = ?1", [frame], |r| r.get(0)).optional()?;
            let kept = kept.ok_or(LibraryError::NotThere { what: "frame", id: frame })?;
            Ok(serde_json::from_str(&kept).unwrap_or_default())
        })
    }

    /// Keeps them.
    pub fn pin(&self, frame: i64, places: &[[f64; 2]]) -> Result<(), LibraryError> {
        let kept = serde_json::to_string(places).unwrap_or_default();
        self.database.write(move |t| {
            match t.execute("UPDATE frames SET pins = ?2 WHERE id = ?1", params![frame, kept])? {
                0 => Err(LibraryError::NotThere { what: "frame", id: frame }),
                _ => Ok(()),
            }
        })
    }
}
