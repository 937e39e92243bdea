//! What is done to several frames at once: all of them or none.

use std::sync::Arc;

use amber_core::Stock;
use rusqlite::{OptionalExtension, params};

use crate::Library;
use crate::error::LibraryError;
use crate::frames::{Change, commit, copy_of, move_to};
use crate::rolls::checked_name;

/// A step of one of several frames.
#[derive(Debug, Clone)]
pub struct Together {
    pub frame: i64,
    pub change: Change,
    pub stock: Arc<Stock>,
    /// The preset that it lays.
    pub preset: Option<String>,
}

/// What became of steps that were made together and taken back together.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Undone {
    /// What they were, in words.
    pub label: String,
    /// Frames that went back.
    pub frames: Vec<i64>,
    /// Frames that had moved on since, and stay as they are.
    pub moved_on: Vec<i64>,
}

impl Library {
    /// Commits a step on each of several frames: all of them or none. Gives the number under which they can be taken
    /// back together.
    pub fn commit_together(&self, label: &str, steps: Vec<Together>) -> Result<i64, LibraryError> {
        let label = label.to_owned();
        self.database.write(move |t| {
            t.execute("INSERT INTO batches (label) VALUES (?1)", [label])?;
            let batch = t.last_insert_rowid();
            for Together { frame, change, stock, preset } in &steps {
                commit(t, *frame, change, &copy_of(stock), batch, preset.as_deref())?;
            }
            Ok(batch)
        })
    }

    /// Takes back steps that were made together, on every frame whose last step it is.
    pub fn undo_together(&self, batch: i64) -> Result<Undone, LibraryError> {
        self.database.write(move |t| {
            let label: Option<String> =
                t.query_row("SELECT label FROM batches WHERE id = ?1", [batch], |r| r.get(0)).optional()?;
            let label = label.ok_or(LibraryError::NotThere { what: "step of several frames", id: batch })?;
            let mut undone = Undone { label, ..Undone::default() };
            let mut rows = t.prepare_cached(
                "SELECT h.frame, h.step, f.cursor FROM history h JOIN frames f ON f.id = h.frame \
                 WHERE h.batch = ?1 AND h.batch <> 0 ORDER BY h.frame",
            )?;
            let steps: Vec<(i64, i64, i64)> =
                rows.query_map([batch], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?)))?.collect::<Result<_, _>>()?;
            for (frame, step, cursor) in steps {
                if step == cursor {
                    move_to(t, frame, step - 1)?;
                    undone.frames.push(frame);
                } else if step < cursor {
                    undone.moved_on.push(frame);
                }
            }
            Ok(undone)
        })
    }

    /// The steps with which a frame's last step was made; none where it was made alone.
    pub fn batch_of(&self, frame: i64) -> Result<Option<i64>, LibraryError> {
        self.database.read(|c| {
            let asked = "SELECT h.batch FROM frames f JOIN history h ON h.frame = f.id AND h.step = f.cursor \
                         WHERE f.id = ?1 AND h.batch <> 0";
            Ok(c.query_row(asked, [frame], |r| r.get(0)).optional()?)
        })
    }

    /// Renames frames; gives their names before.
    pub fn rename_frames(&self, names: Vec<(i64, String)>) -> Result<Vec<(i64, String)>, LibraryError> {
        self.database.write(move |t| {
            let mut before = Vec::with_capacity(names.len());
            for (id, name) in names {
                let name = checked_name(&name)?;
                let was: Option<String> =
                    t.query_row("SELECT name FROM frames WHERE id = ?1", [id], |r| r.get(0)).optional()?;
                before.push((id, was.ok_or(LibraryError::NotThere { what: "frame", id })?));
                t.execute("UPDATE frames SET name = ?2 WHERE id = ?1", params![id, name])?;
            }
            Ok(before)
        })
    }

    /// Takes frames off their roll, or brings them back. Nothing of them is lost.
    pub fn take_off(&self, ids: Vec<i64>, off: bool) -> Result<(), LibraryError> {
        self.each(ids, move |t, id| t.execute("UPDATE frames SET off = ?2 WHERE id = ?1", params![id, off]))
    }

    /// Moves frames to the end of another roll.
    pub fn move_frames(&self, ids: Vec<i64>, roll: i64) -> Result<(), LibraryError> {
        self.roll(roll)?;
        self.each(ids, move |t, id| {
            t.execute(
                "UPDATE frames SET roll = ?2, position = \
                 (SELECT COALESCE(MAX(position), 0) + 1 FROM frames WHERE roll = ?2) WHERE id = ?1",
                params![id, roll],
            )
        })
    }

    fn each(
        &self,
        ids: Vec<i64>,
        change: impl Fn(&rusqlite::Transaction, i64) -> rusqlite::Result<usize> + Send + 'static,
    ) -> Result<(), LibraryError> {
        self.database.write(move |t| {
            for id in ids {
                if change(t, id)? == 0 {
                    return Err(LibraryError::NotThere { what: "frame", id });
                }
            }
            Ok(())
        })
    }

    /// Copies frames, with their history, proofs and marks, to the end of a roll. Gives the copies' numbers.
    pub fn copy_frames(&self, ids: Vec<i64>, roll: i64) -> Result<Vec<i64>, LibraryError> {
        self.roll(roll)?;
        self.database.write(move |t| {
            let mut copies = Vec::with_capacity(ids.len());
            for id in ids {
                let made = t.execute(
                    "INSERT INTO frames (roll, position, name, content, cursor, exported, pins, mark, note) \
                     SELECT ?2, (SELECT COALESCE(MAX(position), 0) + 1 FROM frames WHERE roll = ?2), \
                     name, content, cursor, NULL, pins, mark, note FROM frames WHERE id = ?1",
                    params![id, roll],
                )?;
                if made == 0 {
                    return Err(LibraryError::NotThere { what: "frame", id });
                }
                let copy = t.last_insert_rowid();
                t.execute(
                    "INSERT INTO history (frame, step, label, development, masks, presets) \
                     SELECT ?2, step, label, development, masks, presets FROM history WHERE frame = ?1",
                    params![id, copy],
                )?;
                t.execute(
                    "INSERT INTO proofs (frame, name, development, masks) \
                     SELECT ?2, name, development, masks FROM proofs WHERE frame = ?1 AND dropped = 0 ORDER BY id",
                    params![id, copy],
                )?;
                copies.push(copy);
            }
            Ok(copies)
        })
    }
}
