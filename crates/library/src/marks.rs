//! What is marked on the contact sheet, and what is written beside it.

use amber_core::text::is_plain;
use rusqlite::params;

use crate::Library;
use crate::error::LibraryError;

/// Most letters of a note.
const LONGEST_NOTE: usize = 400;

/// What a person means to do with a frame.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Mark {
    #[default]
    None,
    Keep,
    Maybe,
    Drop,
}

impl Mark {
    pub const ALL: [Self; 4] = [Self::None, Self::Keep, Self::Maybe, Self::Drop];

    /// As it is stored and said in addresses; empty for none.
    pub fn id(self) -> &'static str {
        match self {
            Self::None => "",
            Self::Keep => "keep",
            Self::Maybe => "maybe",
            Self::Drop => "drop",
        }
    }

    /// The mark with an id; none where there is no such mark.
    pub fn named(id: &str) -> Self {
        Self::ALL.into_iter().find(|mark| mark.id() == id).unwrap_or_default()
    }
}

impl Library {
    /// Marks frames; gives what each was marked before.
    pub fn mark(&self, ids: Vec<i64>, mark: Mark) -> Result<Vec<(i64, Mark)>, LibraryError> {
        self.marked(ids.into_iter().map(|id| (id, mark)).collect())
    }

    /// Marks each frame as it is said; gives what each was marked before.
    pub fn marked(&self, marks: Vec<(i64, Mark)>) -> Result<Vec<(i64, Mark)>, LibraryError> {
        self.database.write(move |t| {
            let mut before = Vec::with_capacity(marks.len());
            for (id, mark) in marks {
                let gone = |e| match e {
                    rusqlite::Error::QueryReturnedNoRows => LibraryError::NotThere { what: "frame", id },
                    other => other.into(),
                };
                let was: String =
                    t.query_row("SELECT mark FROM frames WHERE id = ?1", [id], |r| r.get(0)).map_err(gone)?;
                t.execute("UPDATE frames SET mark = ?2 WHERE id = ?1", params![id, mark.id()])?;
                before.push((id, Mark::named(&was)));
            }
            Ok(before)
        })
    }

    /// Writes a note beside a frame, or takes it away with an empty one.
    pub fn write_note(&self, id: i64, note: &str) -> Result<(), LibraryError> {
        let note = note.trim().to_owned();
        if note.chars().count() > LONGEST_NOTE || !is_plain(&note.replace('\n', " ")) {
            return Err(LibraryError::Note { most: LONGEST_NOTE });
        }
        self.database.write(move |t| {
            match t.execute("UPDATE frames SET note = ?2 WHERE id = ?1", params![id, note])? {
                0 => Err(LibraryError::NotThere { what: "frame", id }),
                _ => Ok(()),
            }
        })
    }
}
