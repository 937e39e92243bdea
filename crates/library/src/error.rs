//! What can go wrong in the library.

use std::path::PathBuf;

use amber_core::CoreError;
use thiserror::Error;

#[derive(Debug, Error)]
pub enum LibraryError {
    #[error("the folder {} cannot be used: {source}", path.display())]
    Folder { path: PathBuf, source: std::io::Error },
    #[error("the library in {} is in use by another Amber Grain. Stop that one, or choose another folder with \
        --data", folder.display())]
    InUse { folder: PathBuf },
    #[error("the library's database failed: {0}")]
    Database(#[from] rusqlite::Error),
    #[error(
        "the library's database {} cannot be opened: {source}. If it is damaged, put back a copy of it",
        path.display()
    )]
    Open { path: PathBuf, source: rusqlite::Error },
    #[error(
        "the library's database {} has version {found}; this Amber Grain reads up to version {known}. Use a newer \
            Amber Grain",
        path.display()
    )]
    TooNew { path: PathBuf, found: i64, known: i64 },
    #[error("{} is not a library of Amber Grain, or is damaged. Put back a copy of it, or choose another folder \
        with --data", path.display())]
    Damaged { path: PathBuf },
    #[error("the library's database {} could not be brought up to date: {source}. Nothing was changed in \
        it", path.display())]
    Migration { path: PathBuf, source: Box<rusqlite_migration::Error> },
    #[error(
        "the folder {} holds originals but no library.sqlite. Put the database back, or move the originals away and \
            load them again",
        folder.display()
    )]
    DatabaseMissing { folder: PathBuf },
    #[error("the library's database {} was moved or deleted while it was in use. Nothing is kept any more: stop, \
        and put it back", path.display())]
    Gone { path: PathBuf },
    #[error("the masks of this step cannot be read: {0}")]
    Masks(String),
    #[error("the library has stopped")]
    Stopped,
    #[error("there is no {what} with the number {id}")]
    NotThere { what: &'static str, id: i64 },
    #[error("this frame was changed elsewhere (revision {found}, here {expected}). Reload it to go on")]
    ChangedElsewhere { found: i64, expected: i64 },
    #[error("a frame has room for {most} proofs: drop one first")]
    TooManyProofs { most: i64 },
    #[error("there is no preset called '{}'", amber_core::text::shortened(id))]
    NoPreset { id: String },
    #[error("there is no lab order called '{}'", amber_core::text::shortened(name))]
    NoOrder { name: String },
    #[error("'{name}' ships with the application and stays as it is; keep yours under another name")]
    ShippedPreset { name: String },
    #[error("a note has at most {most} letters and no control characters")]
    Note { most: usize },
    #[error("there is nothing to {0}")]
    NothingTo(&'static str),
    #[error("a name needs at least one letter and at most 120, and no control characters")]
    Name,
    #[error("'{id}' is a built-in stock and stays as it is; give yours another id")]
    BuiltIn { id: String },
    #[error("there is a stock of yours with the id '{id}' already; delete it first, or give this one another id")]
    StockTaken { id: String },
    #[error("the original of this picture is missing or damaged on disk ({hash}). Load the picture again to mend it")]
    Original { hash: String },
    #[error("there is no such picture of yours; it may have been deleted")]
    NoPicture,
    #[error("'{name}' lies on {frames}: take it off there first")]
    PictureUsed { name: String, frames: String },
    #[error(transparent)]
    Core(#[from] CoreError),
}
