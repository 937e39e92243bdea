//! Frames, their developments and the history of those.

use std::sync::{Arc, PoisonError};

use amber_core::{Catalogue, Development, Stock};
use rusqlite::{Connection, OptionalExtension, Row, Transaction, params};

use crate::Library;
use crate::error::LibraryError;
use crate::marks::Mark;
use crate::rolls::checked_name;
use crate::stocks::own_stock;
use crate::strokes;

/// A frame as it lies on the contact sheet.
#[derive(Debug, Clone)]
pub struct FrameSummary {
    pub id: i64,
    pub roll: i64,
    /// From 1.
    pub position: i64,
    pub name: String,
    /// Content hash of the original.
    pub content: String,
    pub format: String,
    /// Oriented size of the original.
    pub width: u32,
    pub height: u32,
    pub revision: i64,
    pub exported: bool,
    pub mark: Mark,
    /// What was written beside it.
    pub note: String,
    /// When it was taken by the camera's clock: seconds since 1970 as if that had no zone.
    pub taken: Option<i64>,
    /// Ids of the presets that were laid on it, the latest last.
    pub presets: Vec<String>,
    /// That of the first stock, where the frame's own cannot be read.
    pub development: Development,
    /// Why its development cannot be read.
    pub trouble: Option<String>,
}

impl FrameSummary {
    /// Names the picture as it is developed: its content and all of its settings. Two frames never share it by chance.
    pub fn version(&self) -> String {
        let both = format!("{} {}", self.content, self.development.to_json());
        blake3::hash(both.as_bytes()).to_hex()[..16].to_owned()
    }
}

/// A frame on the bench.
#[derive(Debug, Clone)]
pub struct Frame {
    pub summary: FrameSummary,
    pub stock: Arc<Stock>,
    /// What undo and redo would take back or do again, in words.
    pub undo: Option<String>,
    pub redo: Option<String>,
}

/// A picture to be added.
#[derive(Debug, Clone)]
pub struct NewFrame {
    pub name: String,
    pub format: String,
    pub width: u32,
    pub height: u32,
    /// When it was taken by the camera's clock.
    pub taken: Option<i64>,
    /// How it is developed at first; the stock as it is where nothing is said.
    pub development: Option<Development>,
}

/// A change of a frame's development, made at a revision.
#[derive(Debug, Clone)]
pub struct Change {
    pub revision: i64,
    pub label: String,
    pub development: Development,
}

/// A step along the history.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Step {
    Undo,
    Redo,
    /// To a step by its number.
    To(i64),
}

const FRAMES: &str = "SELECT f.id, f.roll, f.position, f.name, f.content, c.format, c.width, c.height, f.revision, \
     f.exported IS NOT NULL, h.development, h.masks, f.mark, f.note, c.taken, h.presets \
     FROM frames f JOIN contents c ON c.hash = f.content JOIN history h ON h.frame = f.id AND h.step = f.cursor";

/// A row of a frame, and its development as it is kept.
fn summary(row: &Row) -> rusqlite::Result<(FrameSummary, [String; 2])> {
    let frame = FrameSummary {
        id: row.get(0)?,
        roll: row.get(1)?,
        position: row.get(2)?,
        name: row.get(3)?,
        content: row.get(4)?,
        format: row.get(5)?,
        width: row.get(6)?,
        height: row.get(7)?,
        revision: row.get(8)?,
        exported: row.get(9)?,
        mark: Mark::named(&row.get::<_, String>(12)?),
        note: row.get(13)?,
        taken: row.get(14)?,
        presets: serde_json::from_str(&row.get::<_, String>(15)?).unwrap_or_default(),
        development: Development::new(&Catalogue::first()),
        trouble: None,
    };
    Ok((frame, [row.get(10)?, row.get(11)?]))
}

/// A frame with its development, or with why that cannot be read.
fn read_summary(c: &Connection, (frame, kept): (FrameSummary, [String; 2])) -> FrameSummary {
    match document(c, &kept) {
        Ok(development) => FrameSummary { development, ..frame },
        Err(error) => FrameSummary { trouble: Some(error.to_string()), ..frame },
    }
}

pub(crate) fn document(c: &Connection, [text, masks]: &[String; 2]) -> Result<Development, LibraryError> {
    let masks = strokes::read(c, masks)?;
    Ok(Development::from_json_with(text, masks)?)
}

/// A development as it is kept beside its masks.
pub(crate) fn without_masks(made: &Development) -> String {
    Development { masks: Default::default(), ..made.clone() }.to_json()
}

/// Beside what a step keeps of the development: the steps that were made with it, and what was laid.
#[derive(Debug, Clone)]
pub(crate) struct Beside {
    pub batch: i64,
    /// Ids of presets as JSON.
    pub presets: String,
}

impl Beside {
    /// A step that was made alone on a frame on which nothing was laid.
    pub fn none() -> Self {
        Self { batch: 0, presets: "[]".into() }
    }
}

/// Adds a step to a frame's history.
pub(crate) fn keep_step(
    t: &Transaction,
    frame: i64,
    step: i64,
    label: &str,
    made: &Development,
    beside: &Beside,
) -> Result<(), LibraryError> {
    let masks = strokes::kept(t, &made.masks)?;
    let rest = without_masks(made);
    t.execute(
        "INSERT INTO history (frame, step, label, development, masks, batch, presets) \
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
        params![frame, step, label, rest, masks, beside.batch, beside.presets],
    )?;
    Ok(())
}

pub(crate) fn keep_stock(t: &Transaction, [hash, id, data]: &[String; 3]) -> Result<(), LibraryError> {
    t.execute("INSERT OR IGNORE INTO stocks VALUES (?1, ?2, ?3)", params![hash, id, data])?;
    Ok(())
}

/// A stock as its copy is kept.
pub(crate) fn copy_of(stock: &Stock) -> [String; 3] {
    [stock.content_hash(), stock.id.clone(), stock.to_json()]
}

impl Library {
    /// Adds a picture to the end of a roll: the original is stored, then the frame with the stock as it is.
    pub fn add_frame(&self, roll: i64, original: &[u8], new: NewFrame, stock: &Stock) -> Result<i64, LibraryError> {
        let name = checked_name(&new.name)?;
        self.roll(roll)?;
        let arriving = self.originals.receive(original)?;
        let hash = arriving.hash.clone();
        let development = new.development.unwrap_or_else(|| {
            let bare = Development::new(stock);
            Development { seed: seed_of(&hash), ..bare }
        });
        let bytes = original.len() as i64;
        let copy = copy_of(stock);
        // from here on no frame with this content may go
        let _together = self.arrivals.lock().unwrap_or_else(PoisonError::into_inner);
        let known = hash.clone();
        self.database
            .write(move |t| Ok(t.execute("INSERT OR IGNORE INTO loose VALUES (?1)", params![known]).map(drop)?))?;
        self.originals.settle(arriving)?;
        let content = hash.clone();
        let added = self.database.write(move |t| {
            t.execute(
                "INSERT INTO contents (hash, format, bytes, width, height, taken) VALUES (?1, ?2, ?3, ?4, ?5, ?6) \
                 ON CONFLICT (hash) DO UPDATE SET taken = COALESCE(taken, excluded.taken)",
                params![hash, new.format, bytes, new.width, new.height, new.taken],
            )?;
            keep_stock(t, &copy)?;
            t.execute(
                "INSERT INTO frames (roll, position, name, content) VALUES (?1, \
                 (SELECT COALESCE(MAX(position), 0) + 1 FROM frames WHERE roll = ?1), ?2, ?3)",
                params![roll, name, hash],
            )?;
            let frame = t.last_insert_rowid();
            keep_step(t, frame, 0, "Loaded", &development, &Beside::none())?;
            t.execute("DELETE FROM loose WHERE hash = ?1", params![hash])?;
            Ok(frame)
        });
        if added.is_err() {
            self.let_go(content)?;
        }
        added
    }

    /// Takes away an original that no frame has.
    fn let_go(&self, hash: String) -> Result<(), LibraryError> {
        let asked = hash.clone();
        let held = self.database.read(|c| {
            Ok(c.query_row("SELECT EXISTS (SELECT 1 FROM contents WHERE hash = ?1)", [&asked], |r| {
                r.get::<_, bool>(0)
            })?)
        })?;
        if !held {
            self.originals.remove(&hash);
        }
        self.database.write(move |t| Ok(t.execute("DELETE FROM loose WHERE hash = ?1", params![hash]).map(drop)?))
    }

    pub fn frames(&self, roll: i64) -> Result<Vec<FrameSummary>, LibraryError> {
        self.database.read(|c| {
            let asked = format!("{FRAMES} WHERE f.roll = ?1 AND f.off = 0 ORDER BY f.position, f.id");
            let mut statement = c.prepare_cached(&asked)?;
            let rows: Vec<_> = statement.query_map([roll], summary)?.collect::<Result<_, _>>()?;
            Ok(rows.into_iter().map(|row| read_summary(c, row)).collect())
        })
    }

    /// What is known of an original that the library has, as a frame of it begins; none where it has it not.
    pub fn content(&self, hash: &str) -> Result<Option<NewFrame>, LibraryError> {
        self.database.read(|c| {
            let asked = "SELECT format, width, height, taken FROM contents WHERE hash = ?1";
            let known = |r: &Row| {
                Ok(NewFrame {
                    name: String::new(),
                    format: r.get(0)?,
                    width: r.get(1)?,
                    height: r.get(2)?,
                    taken: r.get(3)?,
                    development: None,
                })
            };
            Ok(c.query_row(asked, [hash], known).optional()?)
        })
    }

    /// Some frames by their numbers, in that order; those that are gone are left out.
    pub fn some_frames(&self, ids: &[i64]) -> Result<Vec<FrameSummary>, LibraryError> {
        self.database.read(|c| {
            let mut statement = c.prepare_cached(&format!("{FRAMES} WHERE f.id = ?1"))?;
            let mut found = Vec::with_capacity(ids.len());
            for id in ids {
                found.extend(statement.query_row([id], summary).optional()?.map(|row| read_summary(c, row)));
            }
            Ok(found)
        })
    }

    pub fn frame(&self, id: i64) -> Result<Frame, LibraryError> {
        self.database.read(|c| read_frame(c, id))
    }

    /// The copy of a stock that a development was made with; the built-in one when the document names no copy.
    pub fn stock_of(&self, development: &Development) -> Result<Arc<Stock>, LibraryError> {
        self.database.read(|c| stock_of(c, development))
    }

    /// Keeps a copy of a stock, so that developments that name it can be read whenever they are.
    pub fn keep_stock_copy(&self, stock: &Stock) -> Result<(), LibraryError> {
        let copy = copy_of(stock);
        let known = copy[0].clone();
        let asked = "SELECT EXISTS (SELECT 1 FROM stocks WHERE hash = ?1)";
        if self.database.read(|c| Ok(c.query_row(asked, [&known], |r| r.get(0))?))? {
            return Ok(());
        }
        self.database.write(move |t| keep_stock(t, &copy))
    }

    /// Commits one step. Refused when the frame has moved on since `change.revision`.
    pub fn commit(&self, id: i64, change: Change, stock: &Stock) -> Result<Frame, LibraryError> {
        let copy = copy_of(stock);
        self.database.write(move |t| commit(t, id, &change, &copy, 0, None))?;
        self.frame(id)
    }

    /// Takes a step back or does it again.
    pub fn step(&self, id: i64, revision: i64, step: Step) -> Result<Frame, LibraryError> {
        self.database.write(move |t| {
            let cursor = at_revision(t, id, revision)?;
            let (to, word) = match step {
                Step::Undo => (cursor - 1, "undo"),
                Step::Redo => (cursor + 1, "redo"),
                Step::To(step) => (step, "go back to"),
            };
            let there: bool = t.query_row(
                "SELECT EXISTS (SELECT 1 FROM history WHERE frame = ?1 AND step = ?2)",
                params![id, to],
                |r| r.get(0),
            )?;
            if there { move_to(t, id, to) } else { Err(LibraryError::NothingTo(word)) }
        })?;
        self.frame(id)
    }

    pub fn rename_frame(&self, id: i64, name: &str) -> Result<(), LibraryError> {
        let name = checked_name(name)?;
        self.database.write(move |t| {
            match t.execute("UPDATE frames SET name = ?2 WHERE id = ?1", params![id, name])? {
                0 => Err(LibraryError::NotThere { what: "frame", id }),
                _ => Ok(()),
            }
        })
    }

    /// Takes a frame off its roll; the original goes when no other frame has it.
    pub fn remove_frame(&self, id: i64) -> Result<(), LibraryError> {
        let _together = self.arrivals.lock().unwrap_or_else(PoisonError::into_inner);
        let orphan = self.database.write(move |t| {
            let content: Option<String> =
                t.query_row("SELECT content FROM frames WHERE id = ?1", [id], |r| r.get(0)).optional()?;
            let content = content.ok_or(LibraryError::NotThere { what: "frame", id })?;
            t.execute("DELETE FROM frames WHERE id = ?1", [id])?;
            let removed = t.execute(
                "DELETE FROM contents WHERE hash = ?1 AND NOT EXISTS (SELECT 1 FROM frames WHERE content = ?1)",
                [&content],
            )?;
            if removed == 0 {
                return Ok(None);
            }
            t.execute("INSERT OR IGNORE INTO loose VALUES (?1)", [&content])?;
            Ok(Some(content))
        })?;
        orphan.map_or(Ok(()), |hash| self.let_go(hash))
    }
}

/// The seed of a picture's own accidents, from its content's hash: no two pictures share them.
pub fn seed_of(hash: &str) -> u32 {
    u32::from_str_radix(hash.get(..8).unwrap_or_default(), 16).unwrap_or(1)
}

pub(crate) fn read_frame(c: &Connection, id: i64) -> Result<Frame, LibraryError> {
    let row = c.prepare_cached(&format!("{FRAMES} WHERE f.id = ?1"))?.query_row([id], summary).optional()?;
    let (summary, kept) = row.ok_or(LibraryError::NotThere { what: "frame", id })?;
    let summary = FrameSummary { development: document(c, &kept)?, ..summary };
    let label = |offset: i64| {
        c.query_row(
            "SELECT h.label FROM history h JOIN frames f ON f.id = h.frame WHERE f.id = ?1 AND h.step = f.cursor + ?2",
            params![id, offset],
            |r| r.get::<_, String>(0),
        )
        .optional()
    };
    let loaded = c.query_row("SELECT cursor = 0 FROM frames WHERE id = ?1", [id], |r| r.get::<_, bool>(0))?;
    let undo = if loaded { None } else { label(0)? };
    Ok(Frame { stock: stock_of(c, &summary.development)?, undo, redo: label(1)?, summary })
}

pub(crate) fn stock_of(c: &Connection, development: &Development) -> Result<Arc<Stock>, LibraryError> {
    let reference = &development.stock;
    if let Ok(built_in) = Catalogue::find(&reference.id)
        && (reference.hash.is_empty() || built_in.content_hash() == reference.hash)
    {
        return Ok(built_in);
    }
    let kept: Option<String> =
        c.query_row("SELECT data FROM stocks WHERE hash = ?1", [&reference.hash], |r| r.get(0)).optional()?;
    if let Some(data) = kept {
        return Ok(Arc::new(Stock::from_json(&data)?));
    }
    match own_stock(c, &reference.id)? {
        Some(stock) => Ok(stock),
        None => Ok(Catalogue::find(&reference.id)?),
    }
}

/// The cursor of a frame that is still at a revision.
fn at_revision(t: &Transaction, id: i64, expected: i64) -> Result<i64, LibraryError> {
    let row: Option<(i64, i64)> = t
        .query_row("SELECT revision, cursor FROM frames WHERE id = ?1", [id], |r| Ok((r.get(0)?, r.get(1)?)))
        .optional()?;
    let (found, cursor) = row.ok_or(LibraryError::NotThere { what: "frame", id })?;
    if found == expected { Ok(cursor) } else { Err(LibraryError::ChangedElsewhere { found, expected }) }
}

/// Adds a step at a revision; `laid` is the preset that it lays.
pub(crate) fn commit(
    t: &Transaction,
    id: i64,
    change: &Change,
    copy: &[String; 3],
    batch: i64,
    laid: Option<&str>,
) -> Result<(), LibraryError> {
    let cursor = at_revision(t, id, change.revision)?;
    let presets = presets_after(t, id, cursor, &change.development, laid)?;
    keep_stock(t, copy)?;
    t.execute("DELETE FROM history WHERE frame = ?1 AND step > ?2", params![id, cursor])?;
    keep_step(t, id, cursor + 1, &change.label, &change.development, &Beside { batch, presets })?;
    move_to(t, id, cursor + 1)
}

/// The presets that lie on a frame after a step: none where it is its stock again.
fn presets_after(
    t: &Transaction,
    id: i64,
    cursor: i64,
    made: &Development,
    laid: Option<&str>,
) -> Result<String, LibraryError> {
    let before: String =
        t.query_row("SELECT presets FROM history WHERE frame = ?1 AND step = ?2", params![id, cursor], |r| r.get(0))?;
    let is_bare = made.values.is_empty() && made.off.is_empty();
    match laid {
        None if is_bare => Ok("[]".into()),
        None => Ok(before),
        Some(preset) => {
            let mut presets: Vec<String> = serde_json::from_str(&before).unwrap_or_default();
            presets.retain(|other| other != preset);
            presets.push(preset.into());
            Ok(serde_json::json!(presets).to_string())
        }
    }
}

pub(crate) fn move_to(t: &Transaction, id: i64, step: i64) -> Result<(), LibraryError> {
    t.execute("UPDATE frames SET cursor = ?2, revision = revision + 1 WHERE id = ?1", params![id, step])?;
    Ok(())
}
