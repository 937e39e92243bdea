//! Lab orders that are kept under a name, as documents.

use rusqlite::{OptionalExtension, params};

use crate::Library;
use crate::error::LibraryError;
use crate::rolls::checked_name;

impl Library {
    /// Names and documents, by name.
    pub fn orders(&self) -> Result<Vec<(String, String)>, LibraryError> {
        self.database.read(|c| {
            let mut rows = c.prepare_cached("SELECT name, data FROM orders ORDER BY name COLLATE NOCASE, name")?;
            Ok(rows.query_map([], |r| Ok((r.get(0)?, r.get(1)?)))?.collect::<Result<_, _>>()?)
        })
    }

    /// An order by its name.
    pub fn order(&self, name: &str) -> Result<String, LibraryError> {
        let found: Option<String> = self
            .database
            .read(|c| Ok(c.query_row("SELECT data FROM orders WHERE name = ?1", [name], |r| r.get(0)).optional()?))?;
        found.ok_or_else(|| LibraryError::NoOrder { name: name.into() })
    }

    /// Keeps an order under its name; what was kept under it is replaced.
    pub fn keep_order(&self, name: &str, data: &str) -> Result<(), LibraryError> {
        let (name, data) = (checked_name(name)?, data.to_owned());
        self.database.write(move |t| {
            let asked = "INSERT INTO orders VALUES (?1, ?2) ON CONFLICT (name) DO UPDATE SET data = ?2";
            Ok(t.execute(asked, params![name, data]).map(drop)?)
        })
    }

    /// Deletes an order.
    pub fn remove_order(&self, name: &str) -> Result<(), LibraryError> {
        let name = name.to_owned();
        self.database.write(move |t| match t.execute("DELETE FROM orders WHERE name = ?1", [&name])? {
            0 => Err(LibraryError::NoOrder { name }),
            _ => Ok(()),
        })
    }
}
