//! Facts that are remembered under a name, such as what is pinned.

use rusqlite::{Connection, OptionalExtension, Transaction, params};

use crate::Library;
use crate::error::LibraryError;

impl Library {
    /// A remembered fact, such as that the demo roll was loaded.
    pub fn fact(&self, name: &str) -> Result<Option<String>, LibraryError> {
        self.database
            .read(|c| Ok(c.query_row("SELECT value FROM facts WHERE name = ?1", [name], |r| r.get(0)).optional()?))
    }

    pub fn remember(&self, name: &str, value: &str) -> Result<(), LibraryError> {
        let (name, value) = (name.to_owned(), value.to_owned());
        self.database.write(move |t| set_fact(t, &name, &value))
    }
}

/// Ids that are kept under a name, separated by blanks.
pub(crate) fn list(c: &Connection, name: &str) -> Result<Vec<String>, LibraryError> {
    let kept: Option<String> =
        c.query_row("SELECT value FROM facts WHERE name = ?1", [name], |r| r.get(0)).optional()?;
    Ok(kept.unwrap_or_default().split_whitespace().map(str::to_owned).collect())
}

/// Puts an id at the end of such a list, or takes it out; gives the list.
pub(crate) fn pin(t: &Transaction, name: &str, id: &str, pinned: bool) -> Result<Vec<String>, LibraryError> {
    let mut ids = list(t, name)?;
    ids.retain(|other| other != id);
    if pinned {
        ids.push(id.into());
    }
    set_fact(t, name, &ids.join(" "))?;
    Ok(ids)
}

pub(crate) fn set_fact(t: &Transaction, name: &str, value: &str) -> Result<(), LibraryError> {
    t.execute("INSERT INTO facts VALUES (?1, ?2) ON CONFLICT (name) DO UPDATE SET value = ?2", params![name, value])?;
    Ok(())
}
