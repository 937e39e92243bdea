//! The queue of exports, as it lies on the disk: what waits survives the end of the program, what runs is known to have
//! run, what is done keeps its file's name.

use amber_core::Development;
use rusqlite::{Connection, OptionalExtension, Row, Transaction, params};

use crate::error::LibraryError;
use crate::frames::{copy_of, document, keep_stock, without_masks};
use crate::{Library, strokes};
use amber_core::Stock;

/// Fact in which it is remembered that the queue stands still.
const PAUSED: &str = "exports paused";
/// Most ended exports that are remembered.
const MOST_ENDED: i64 = 500;

/// Where an export is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stage {
    Waiting,
    Running,
    Done,
    Failed,
    Cancelled,
}

impl Stage {
    const ALL: [(Self, &str); 5] = [
        (Self::Waiting, "waiting"),
        (Self::Running, "running"),
        (Self::Done, "done"),
        (Self::Failed, "failed"),
        (Self::Cancelled, "cancelled"),
    ];

    fn word(self) -> &'static str {
        Self::ALL.iter().find(|(stage, _)| *stage == self).map_or("failed", |(_, word)| word)
    }

    fn named(word: &str) -> Self {
        Self::ALL.iter().find(|(_, known)| *known == word).map_or(Self::Failed, |(stage, _)| *stage)
    }

    /// Whether it waits for nothing any more.
    pub fn is_over(self) -> bool {
        matches!(self, Self::Done | Self::Failed | Self::Cancelled)
    }
}

/// An export that is to be put in the queue.
#[derive(Debug, Clone)]
pub struct NewExport {
    pub frame: i64,
    /// Format, size and what is attached, as JSON.
    pub output: String,
    /// Empty for the data folder's own.
    pub folder: String,
    /// Without ending.
    pub name: String,
    pub ending: String,
    pub development: Development,
    pub stock: Stock,
}

/// An export of the queue.
#[derive(Debug, Clone, PartialEq)]
pub struct QueuedExport {
    pub id: i64,
    pub frame: i64,
    /// Those that were ordered together share it.
    pub batch: i64,
    pub output: String,
    pub folder: String,
    pub name: String,
    /// The file's name, with its ending.
    pub file: String,
    pub stage: Stage,
    /// Of the finished file (BLAKE3).
    pub hash: String,
    pub bytes: u64,
    pub why: String,
}

/// The next export, and the development that it was ordered with, where that can be read.
pub type NextExport = (QueuedExport, Result<Development, LibraryError>);

const COLUMNS: &str = "SELECT id, frame, batch, output, folder, name, file, state, hash, bytes, why FROM exports";

fn row(r: &Row) -> rusqlite::Result<QueuedExport> {
    Ok(QueuedExport {
        id: r.get(0)?,
        frame: r.get(1)?,
        batch: r.get(2)?,
        output: r.get(3)?,
        folder: r.get(4)?,
        name: r.get(5)?,
        file: r.get(6)?,
        stage: Stage::named(&r.get::<_, String>(7)?),
        hash: r.get(8)?,
        bytes: r.get::<_, i64>(9)?.max(0) as u64,
        why: r.get(10)?,
    })
}

fn some(c: &Connection, rest: &str, asked: impl rusqlite::Params) -> Result<Vec<QueuedExport>, LibraryError> {
    let mut rows = c.prepare_cached(&format!("{COLUMNS} {rest}"))?;
    Ok(rows.query_map(asked, row)?.collect::<Result<_, _>>()?)
}

fn missing(id: i64) -> LibraryError {
    LibraryError::NotThere { what: "export", id }
}

/// A file name that no file of the folder has and that is promised to no other export: the name, numbered when it is
/// taken. File systems that do not tell capitals apart are thought of.
fn free_file(
    c: &Connection,
    folder: &str,
    [name, ending]: [&str; 2],
    there: &dyn Fn(&str) -> bool,
) -> Result<String, LibraryError> {
    let mut promised = c.prepare_cached(
        "SELECT EXISTS (SELECT 1 FROM exports WHERE folder = ?1 AND file = ?2 COLLATE NOCASE \
         AND state IN ('waiting', 'running'))",
    )?;
    for number in 1u32.. {
        let file = if number == 1 { format!("{name}.{ending}") } else { format!("{name} {number}.{ending}") };
        if !there(&file) && !promised.query_row(params![folder, file], |r| r.get::<_, bool>(0))? {
            return Ok(file);
        }
    }
    Err(LibraryError::Name)
}

fn change(t: &Transaction, id: i64, what: &str, from: &[&str]) -> Result<bool, LibraryError> {
    let from: Vec<String> = from.iter().map(|state| format!("'{state}'")).collect();
    let asked = format!("UPDATE exports SET {what} WHERE id = ?1 AND state IN ({})", from.join(", "));
    if t.execute(&asked, [id])? > 0 {
        return Ok(true);
    }
    let known: bool = t.query_row("SELECT EXISTS (SELECT 1 FROM exports WHERE id = ?1)", [id], |r| r.get(0))?;
    if known { Ok(false) } else { Err(missing(id)) }
}

impl Library {
    /// Puts exports at the end of the queue, all of them or none. `there` says whether a folder has a file already.
    /// Gives their numbers.
    pub fn add_exports(
        &self,
        exports: Vec<NewExport>,
        there: impl Fn(&str, &str) -> bool + Send + 'static,
    ) -> Result<Vec<i64>, LibraryError> {
        self.database.write(move |t| {
            let mut ids = Vec::with_capacity(exports.len());
            for new in &exports {
                keep_stock(t, &copy_of(&new.stock))?;
                let is_there = |file: &str| there(&new.folder, file);
                let file = free_file(t, &new.folder, [&new.name, &new.ending], &is_there)?;
                let masks = strokes::kept(t, &new.development.masks)?;
                let rest = without_masks(&new.development);
                t.prepare_cached(
                    "INSERT INTO exports (place, frame, batch, output, folder, name, file, development, masks) \
                     VALUES ((SELECT COALESCE(MAX(place), 0) + 1 FROM exports), ?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
                )?
                .execute(params![
                    new.frame,
                    ids.first().copied().unwrap_or(0),
                    new.output,
                    new.folder,
                    new.name,
                    file,
                    rest,
                    masks
                ])?;
                ids.push(t.last_insert_rowid());
            }
            if let Some(first) = ids.first() {
                t.execute("UPDATE exports SET batch = id WHERE id = ?1", [first])?;
            }
            t.execute(
                "DELETE FROM exports WHERE state IN ('done', 'failed', 'cancelled') AND id <= COALESCE((SELECT id \
                 FROM exports WHERE state IN ('done', 'failed', 'cancelled') ORDER BY id DESC LIMIT 1 OFFSET ?1), 0)",
                [MOST_ENDED],
            )?;
            Ok(ids)
        })
    }

    /// The queue: what runs and waits in its order, then what has ended, the latest first.
    pub fn exports_queued(&self, most_waiting: usize, most_ended: usize) -> Result<Vec<QueuedExport>, LibraryError> {
        self.database.read(|c| {
            let going = "WHERE state IN ('running', 'waiting') ORDER BY state <> 'running', place LIMIT ?1";
            let ended = "WHERE state IN ('done', 'failed', 'cancelled') ORDER BY ended DESC, id DESC LIMIT ?1";
            let mut all = some(c, going, [most_waiting as i64])?;
            all.extend(some(c, ended, [most_ended as i64])?);
            Ok(all)
        })
    }

    /// Those that were ordered together, in their order.
    pub fn exports_of(&self, batch: i64) -> Result<Vec<QueuedExport>, LibraryError> {
        self.database.read(|c| some(c, "WHERE batch = ?1 ORDER BY id", [batch]))
    }

    /// One of them.
    pub fn export(&self, id: i64) -> Result<QueuedExport, LibraryError> {
        let found = self.database.read(|c| some(c, "WHERE id = ?1", [id]))?;
        found.into_iter().next().ok_or_else(|| missing(id))
    }

    /// How many wait or run, and how many have ended.
    pub fn exports_counted(&self) -> Result<[usize; 2], LibraryError> {
        self.database.read(|c| {
            let counted = "SELECT COALESCE(SUM(state IN ('waiting', 'running')), 0), \
                           COALESCE(SUM(state IN ('done', 'failed', 'cancelled')), 0) FROM exports";
            Ok(c.query_row(counted, [], |r| Ok([r.get::<_, i64>(0)? as usize, r.get::<_, i64>(1)? as usize]))?)
        })
    }

    /// The next one that waits, which runs from now on, with the development that it was ordered with; none where none
    /// waits or the queue stands still.
    pub fn next_export(&self) -> Result<Option<NextExport>, LibraryError> {
        self.database.write(|t| {
            if paused(t)? {
                return Ok(None);
            }
            let Some(next) = some(t, "WHERE state = 'waiting' ORDER BY place LIMIT 1", [])?.into_iter().next() else {
                return Ok(None);
            };
            t.execute("UPDATE exports SET state = 'running', hash = '', why = '' WHERE id = ?1", [next.id])?;
            let kept: [String; 2] =
                t.query_row("SELECT development, masks FROM exports WHERE id = ?1", [next.id], |r| {
                    Ok([r.get(0)?, r.get(1)?])
                })?;
            Ok(Some((QueuedExport { stage: Stage::Running, ..next }, document(t, &kept))))
        })
    }

    /// Writes down what the finished file is before it gets its name.
    pub fn export_made(&self, id: i64, file: &str, hash: &str, bytes: u64) -> Result<(), LibraryError> {
        let (file, hash) = (file.to_owned(), hash.to_owned());
        self.database.write(move |t| {
            t.execute(
                "UPDATE exports SET file = ?2, hash = ?3, bytes = ?4 WHERE id = ?1",
                params![id, file, hash, bytes as i64],
            )?;
            Ok(())
        })
    }

    /// Ends one; `why` it failed, in words.
    pub fn end_export(&self, id: i64, stage: Stage, why: &str, now: i64) -> Result<(), LibraryError> {
        let why = why.to_owned();
        self.database.write(move |t| {
            t.execute(
                "UPDATE exports SET state = ?2, why = ?3, ended = ?4 WHERE id = ?1",
                params![id, stage.word(), why, now],
            )?;
            if stage == Stage::Done {
                t.execute(
                    "UPDATE frames SET exported = ?2 WHERE id = (SELECT frame FROM exports WHERE id = ?1)",
                    params![id, now],
                )?;
            }
            Ok(())
        })
    }

    /// Puts one that runs back among those that wait.
    pub fn export_again(&self, id: i64) -> Result<(), LibraryError> {
        self.database.write(move |t| change(t, id, "state = 'waiting', hash = ''", &["running"]).map(drop))
    }

    /// Another free name for one whose own was taken by somebody else.
    pub fn rename_export(
        &self,
        id: i64,
        ending: &str,
        there: impl Fn(&str) -> bool + Send + 'static,
    ) -> Result<String, LibraryError> {
        let ending = ending.to_owned();
        self.database.write(move |t| {
            let (folder, name): (String, String) =
                t.query_row("SELECT folder, name FROM exports WHERE id = ?1", [id], |r| Ok((r.get(0)?, r.get(1)?)))?;
            let file = free_file(t, &folder, [&name, &ending], &there)?;
            t.execute("UPDATE exports SET file = ?2 WHERE id = ?1", params![id, file])?;
            Ok(file)
        })
    }

    /// Takes one out of the queue; false where it does not wait (any more).
    pub fn cancel_waiting(&self, id: i64, now: i64) -> Result<bool, LibraryError> {
        let what = format!("state = 'cancelled', ended = {now}");
        self.database.write(move |t| change(t, id, &what, &["waiting"]))
    }

    /// Takes all that wait out of the queue; gives how many.
    pub fn cancel_all_waiting(&self, now: i64) -> Result<usize, LibraryError> {
        self.database.write(move |t| {
            let asked = "UPDATE exports SET state = 'cancelled', ended = ?1 WHERE state = 'waiting'";
            Ok(t.execute(asked, [now])?)
        })
    }

    /// Puts one that failed or was cancelled at the end of the queue again.
    pub fn retry_export(
        &self,
        id: i64,
        ending: &str,
        there: impl Fn(&str) -> bool + Send + 'static,
    ) -> Result<(), LibraryError> {
        let ending = ending.to_owned();
        self.database.write(move |t| {
            let what = "state = 'waiting', hash = '', why = '', ended = NULL, \
                        place = (SELECT MAX(place) + 1 FROM exports)";
            if !change(t, id, what, &["failed", "cancelled"])? {
                return Err(LibraryError::NothingTo("try again"));
            }
            let (folder, name): (String, String) =
                t.query_row("SELECT folder, name FROM exports WHERE id = ?1", [id], |r| Ok((r.get(0)?, r.get(1)?)))?;
            // its own promise is not in its way
            t.execute("UPDATE exports SET file = '' WHERE id = ?1", [id])?;
            let file = free_file(t, &folder, [&name, &ending], &there)?;
            t.execute("UPDATE exports SET file = ?2 WHERE id = ?1", params![id, file])?;
            Ok(())
        })
    }

    /// Puts one that waits before another that waits, or at the end.
    pub fn move_export(&self, id: i64, before: Option<i64>) -> Result<(), LibraryError> {
        self.database.write(move |t| {
            let last = "SELECT COALESCE(MAX(place), 0) + 1 FROM exports";
            let place: f64 = match before {
                None => t.query_row(last, [], |r| r.get(0))?,
                Some(other) => {
                    let there: Option<f64> =
                        t.query_row("SELECT place FROM exports WHERE id = ?1", [other], |r| r.get(0)).optional()?;
                    let there = there.ok_or_else(|| missing(other))?;
                    let previous: Option<f64> = t.query_row(
                        "SELECT MAX(place) FROM exports WHERE place < ?1 AND state = 'waiting' AND id <> ?2",
                        params![there, id],
                        |r| r.get(0),
                    )?;
                    previous.map_or(there - 1.0, |previous| (previous + there) / 2.0)
                }
            };
            if t.execute("UPDATE exports SET place = ?2 WHERE id = ?1 AND state = 'waiting'", params![id, place])? == 0
            {
                return Err(LibraryError::NothingTo("move: it does not wait any more"));
            }
            Ok(())
        })
    }

    /// Forgets those that have ended. Their files stay.
    pub fn forget_exports(&self) -> Result<(), LibraryError> {
        let asked = "DELETE FROM exports WHERE state IN ('done', 'failed', 'cancelled')";
        self.database.write(move |t| Ok(t.execute(asked, []).map(drop)?))
    }

    /// Whether the queue stands still.
    pub fn exports_paused(&self) -> Result<bool, LibraryError> {
        self.database.read(paused)
    }

    /// Lets the queue stand still, or go on.
    pub fn pause_exports(&self, still: bool) -> Result<(), LibraryError> {
        self.remember(PAUSED, if still { "yes" } else { "" })
    }

    /// Those that ran when the program ended.
    pub fn interrupted_exports(&self) -> Result<Vec<QueuedExport>, LibraryError> {
        self.database.read(|c| some(c, "WHERE state = 'running' ORDER BY id", []))
    }
}

fn paused(c: &Connection) -> Result<bool, LibraryError> {
    let kept: Option<String> =
        c.query_row("SELECT value FROM facts WHERE name = ?1", [PAUSED], |r| r.get(0)).optional()?;
    Ok(kept.is_some_and(|word| !word.is_empty()))
}
