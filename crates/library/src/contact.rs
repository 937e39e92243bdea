//! The contact sheet of a roll, however long: which frames lie on it, in which order, read without their developments.

use rusqlite::{OptionalExtension, Row, params};

use crate::Library;
use crate::error::LibraryError;
use crate::marks::Mark;

/// Whether frames are asked for that depart from their stock.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Tuning {
    #[default]
    Any,
    Tuned,
    Untuned,
}

/// In which order frames lie on the sheet.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Order {
    /// As they were loaded.
    #[default]
    Loaded,
    /// By the camera's clock; those without a date last.
    Taken,
    Name,
    /// Keep, maybe, unmarked, drop.
    Mark,
    Stock,
    /// The most tuned first.
    Tuned,
    /// By the preset that was laid last.
    Preset,
}

/// What is to lie on the sheet.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct SheetAsked {
    pub order: Order,
    /// Only frames with this mark.
    pub mark: Option<Mark>,
    /// Only frames on this stock.
    pub stock: Option<String>,
    pub tuning: Tuning,
    /// Only frames on which this preset was laid.
    pub preset: Option<String>,
    /// Only frames with all of these words in their name or note.
    pub words: String,
}

/// A frame as far as its place on the sheet depends on it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OnSheet {
    pub id: i64,
    pub position: i64,
    pub name: String,
    pub mark: Mark,
    pub note: String,
    pub taken: Option<i64>,
    /// Id of its stock; empty where its development cannot be read.
    pub stock: String,
    /// Values tuned away from the stock.
    pub tuned: i64,
    /// Presets laid on it, the latest last.
    pub presets: Vec<String>,
}

const ROWS: &str = "SELECT f.id, f.position, f.name, f.mark, f.note, c.taken, h.presets, \
     CASE WHEN json_valid(h.development) THEN json_extract(h.development, '$.stock.id') END, \
     CASE WHEN json_valid(h.development) THEN (SELECT COUNT(*) FROM json_each(h.development, '$.values')) END \
     FROM frames f JOIN contents c ON c.hash = f.content JOIN history h ON h.frame = f.id AND h.step = f.cursor \
     WHERE f.roll = ?1 AND f.off = ?2 ORDER BY f.position, f.id";

fn on_sheet(row: &Row) -> rusqlite::Result<OnSheet> {
    Ok(OnSheet {
        id: row.get(0)?,
        position: row.get(1)?,
        name: row.get(2)?,
        mark: Mark::named(&row.get::<_, String>(3)?),
        note: row.get(4)?,
        taken: row.get(5)?,
        presets: serde_json::from_str(&row.get::<_, String>(6)?).unwrap_or_default(),
        stock: row.get::<_, Option<String>>(7)?.unwrap_or_default(),
        tuned: row.get::<_, Option<i64>>(8)?.unwrap_or(0),
    })
}

impl SheetAsked {
    /// Whether a frame lies on the sheet.
    pub fn takes(&self, frame: &OnSheet) -> bool {
        let text = format!("{} {}", frame.name, frame.note).to_lowercase();
        self.mark.is_none_or(|mark| frame.mark == mark)
            && self.stock.as_ref().is_none_or(|stock| frame.stock == *stock)
            && self.preset.as_ref().is_none_or(|preset| frame.presets.contains(preset))
            && match self.tuning {
                Tuning::Any => true,
                Tuning::Tuned => frame.tuned > 0,
                Tuning::Untuned => frame.tuned == 0,
            }
            && self.words.to_lowercase().split_whitespace().all(|word| text.contains(word))
    }

    /// Brings frames into order; those that are equal stay as they were loaded.
    pub fn sort(&self, frames: &mut [OnSheet]) {
        match self.order {
            Order::Loaded => {}
            Order::Taken => frames.sort_by_key(|f| (f.taken.is_none(), f.taken)),
            Order::Name => frames.sort_by_cached_key(|f| f.name.to_lowercase()),
            Order::Mark => frames.sort_by_key(|f| match f.mark {
                Mark::Keep => 0,
                Mark::Maybe => 1,
                Mark::None => 2,
                Mark::Drop => 3,
            }),
            Order::Stock => frames.sort_by(|a, b| a.stock.cmp(&b.stock)),
            Order::Tuned => frames.sort_by_key(|f| -f.tuned),
            Order::Preset => frames.sort_by_cached_key(|f| (f.presets.is_empty(), f.presets.last().cloned())),
        }
    }
}

impl Library {
    /// All frames of a roll as far as its sheet needs them, as they were loaded.
    pub fn on_sheet(&self, roll: i64) -> Result<Vec<OnSheet>, LibraryError> {
        self.rows(roll, false)
    }

    /// The frames that were taken off a roll.
    pub fn taken_off(&self, roll: i64) -> Result<Vec<OnSheet>, LibraryError> {
        self.rows(roll, true)
    }

    fn rows(&self, roll: i64, off: bool) -> Result<Vec<OnSheet>, LibraryError> {
        self.database.read(|c| {
            let mut rows = c.prepare_cached(ROWS)?;
            Ok(rows.query_map(params![roll, off], on_sheet)?.collect::<Result<_, _>>()?)
        })
    }

    /// A frame's place on its roll from 1, how many there are, and the frames before and after it.
    pub fn place_on_roll(&self, id: i64) -> Result<(i64, i64, Option<i64>, Option<i64>), LibraryError> {
        self.database.read(|c| {
            let at: Option<(i64, i64)> = c
                .query_row("SELECT roll, position FROM frames WHERE id = ?1", [id], |r| Ok((r.get(0)?, r.get(1)?)))
                .optional()?;
            let (roll, position) = at.ok_or(LibraryError::NotThere { what: "frame", id })?;
            let counted = |sign: &str| -> rusqlite::Result<i64> {
                let asked = format!(
                    "SELECT COUNT(*) FROM frames WHERE roll = ?1 AND off = 0 AND (position, id) {sign} (?2, ?3)"
                );
                c.prepare_cached(&asked)?.query_row(params![roll, position, id], |r| r.get(0))
            };
            let next = |sign: &str, way: &str| -> rusqlite::Result<Option<i64>> {
                let asked = format!(
                    "SELECT id FROM frames WHERE roll = ?1 AND off = 0 AND (position, id) {sign} (?2, ?3) \
                     ORDER BY position {way}, id {way} LIMIT 1"
                );
                c.prepare_cached(&asked)?.query_row(params![roll, position, id], |r| r.get(0)).optional()
            };
            let before = counted("<")?;
            Ok((before + 1, before + counted(">=")?, next("<", "DESC")?, next(">", "ASC")?))
        })
    }
}
