//! Rolls.

use amber_core::text::is_plain;
use rusqlite::params;

use crate::Library;
use crate::error::LibraryError;

/// A set of frames worked on together.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Roll {
    pub id: i64,
    pub name: String,
    pub frames: i64,
}

/// A name without the blanks around it; an error when it is empty or long.
pub(crate) fn checked_name(name: &str) -> Result<String, LibraryError> {
    let name = name.trim();
    let length = name.chars().count();
    if (1..=120).contains(&length) && is_plain(name) { Ok(name.into()) } else { Err(LibraryError::Name) }
}

const ROLLS: &str = "SELECT rolls.id, rolls.name, COUNT(frames.id) \
     FROM rolls LEFT JOIN frames ON frames.roll = rolls.id AND frames.off = 0";

impl Library {
    pub fn rolls(&self) -> Result<Vec<Roll>, LibraryError> {
        self.database.read(|c| {
            let mut statement = c.prepare_cached(&format!("{ROLLS} GROUP BY rolls.id ORDER BY rolls.id"))?;
            let rows = statement.query_map([], |r| Ok(Roll { id: r.get(0)?, name: r.get(1)?, frames: r.get(2)? }))?;
            Ok(rows.collect::<Result<_, _>>()?)
        })
    }

    pub fn roll(&self, id: i64) -> Result<Roll, LibraryError> {
        self.rolls()?.into_iter().find(|r| r.id == id).ok_or(LibraryError::NotThere { what: "roll", id })
    }

    pub fn add_roll(&self, name: &str, created: i64) -> Result<i64, LibraryError> {
        let name = checked_name(name)?;
        self.database.write(move |t| {
            t.execute("INSERT INTO rolls (name, created) VALUES (?1, ?2)", params![name, created])?;
            Ok(t.last_insert_rowid())
        })
    }

    /// Takes away a roll that has no frame.
    pub fn remove_empty_roll(&self, id: i64) -> Result<(), LibraryError> {
        let asked = "DELETE FROM rolls WHERE id = ?1 AND NOT EXISTS (SELECT 1 FROM frames WHERE roll = ?1)";
        self.database.write(move |t| Ok(t.execute(asked, [id]).map(drop)?))
    }

    pub fn rename_roll(&self, id: i64, name: &str) -> Result<(), LibraryError> {
        let name = checked_name(name)?;
        self.database.write(move |t| {
            match t.execute("UPDATE rolls SET name = ?2 WHERE id = ?1", params![id, name])? {
                0 => Err(LibraryError::NotThere { what: "roll", id }),
                _ => Ok(()),
            }
        })
    }
}
