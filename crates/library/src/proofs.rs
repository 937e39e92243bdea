//! Proofs: versions of a frame that are kept under a name.

use amber_core::{Development, Stock};
use rusqlite::{OptionalExtension, Row, params};

use crate::error::LibraryError;
use crate::frames::{copy_of, document, keep_stock, read_frame, without_masks};
use crate::rolls::checked_name;
use crate::{Library, strokes};

/// Most proofs of a frame.
const MOST: i64 = 99;

/// A kept version.
#[derive(Debug, Clone)]
pub struct Proof {
    pub id: i64,
    pub frame: i64,
    pub name: String,
    pub development: Development,
}

/// Its columns, in the order of [`row`].
const COLUMNS: &str = "SELECT id, frame, name, development, masks FROM proofs";

type Kept = (i64, i64, String, [String; 2]);

fn row(row: &Row) -> rusqlite::Result<Kept> {
    Ok((row.get(0)?, row.get(1)?, row.get(2)?, [row.get(3)?, row.get(4)?]))
}

fn no_proof(id: i64) -> LibraryError {
    LibraryError::NotThere { what: "proof", id }
}

impl Library {
    /// A frame's proofs, newest last.
    pub fn proofs(&self, frame: i64) -> Result<Vec<Proof>, LibraryError> {
        self.database.read(|c| {
            let mut rows = c.prepare_cached(&format!("{COLUMNS} WHERE frame = ?1 AND dropped = 0 ORDER BY id"))?;
            let kept: Vec<Kept> = rows.query_map([frame], row)?.collect::<Result<_, _>>()?;
            let read = |(id, frame, name, kept): Kept| Ok(Proof { id, frame, name, development: document(c, &kept)? });
            kept.into_iter().map(read).collect()
        })
    }

    /// One of a frame's proofs.
    pub fn proof(&self, frame: i64, id: i64) -> Result<Proof, LibraryError> {
        self.database.read(|c| {
            let asked = format!("{COLUMNS} WHERE id = ?1 AND frame = ?2 AND dropped = 0");
            let kept = c.prepare_cached(&asked)?.query_row([id, frame], row).optional()?;
            let (id, frame, name, kept) = kept.ok_or_else(|| no_proof(id))?;
            Ok(Proof { id, frame, name, development: document(c, &kept)? })
        })
    }

    /// Keeps the frame as it is now; without a name it gets the first number that is free.
    pub fn keep_proof(&self, frame: i64, name: Option<&str>) -> Result<Proof, LibraryError> {
        let name = name.map(checked_name).transpose()?;
        let id = self.database.write(move |t| {
            let now = read_frame(t, frame)?;
            let names: Vec<String> = t
                .prepare("SELECT name FROM proofs WHERE frame = ?1 AND dropped = 0")?
                .query_map([frame], |r| r.get(0))?
                .collect::<Result<_, _>>()?;
            if names.len() as i64 >= MOST {
                return Err(LibraryError::TooManyProofs { most: MOST });
            }
            let numbered = || (1..).map(|n| format!("Proof {n}")).find(|name| !names.contains(name));
            let name = name.or_else(numbered).unwrap_or_default();
            let development = &now.summary.development;
            keep_stock(t, &copy_of(&now.stock))?;
            let masks = strokes::kept(t, &development.masks)?;
            t.execute(
                "INSERT INTO proofs (frame, name, development, masks) VALUES (?1, ?2, ?3, ?4)",
                params![frame, name, without_masks(development), masks],
            )?;
            Ok(t.last_insert_rowid())
        })?;
        self.proof(frame, id)
    }

    /// Keeps a version that was made elsewhere.
    pub fn add_proof(&self, frame: i64, name: &str, made: &Development, stock: &Stock) -> Result<(), LibraryError> {
        let (name, made, copy) = (checked_name(name)?, made.clone(), copy_of(stock));
        self.database.write(move |t| {
            keep_stock(t, &copy)?;
            let masks = strokes::kept(t, &made.masks)?;
            t.execute(
                "INSERT INTO proofs (frame, name, development, masks) VALUES (?1, ?2, ?3, ?4)",
                params![frame, name, without_masks(&made), masks],
            )?;
            Ok(())
        })
    }

    pub fn rename_proof(&self, frame: i64, id: i64, name: &str) -> Result<(), LibraryError> {
        let name = checked_name(name)?;
        self.change_proof(id, move |t| {
            t.execute("UPDATE proofs SET name = ?3 WHERE id = ?1 AND frame = ?2", params![id, frame, name])
        })
    }

    /// Drops a proof, or takes one back that was dropped since the start.
    pub fn drop_proof(&self, frame: i64, id: i64, dropped: bool) -> Result<(), LibraryError> {
        self.change_proof(id, move |t| {
            t.execute("UPDATE proofs SET dropped = ?3 WHERE id = ?1 AND frame = ?2", params![id, frame, dropped])
        })
    }

    fn change_proof(
        &self,
        id: i64,
        change: impl FnOnce(&rusqlite::Transaction) -> rusqlite::Result<usize> + Send + 'static,
    ) -> Result<(), LibraryError> {
        self.database.write(move |t| match change(t)? {
            0 => Err(no_proof(id)),
            _ => Ok(()),
        })
    }
}
