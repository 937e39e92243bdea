//! What can go wrong in the library.

use std::path::PathBuf;

use amber_core::CoreError;
use thiserror::Error;

#[derive(Debug, Error)]
pub enum LibraryError {
    #[error("the folder {} cannot be used: {source}", path.display())]
    Folder { path: PathBuf, source: std::io::Error },
    #[error("the library's database failed: {0}")]
    Database(#[from] rusqlite::Error),
    #[error("the library was made by a newer Amber Grain, or its database is damaged: {0}")]
    Migration(#[from] rusqlite_migration::Error),
    #[error("the library has stopped")]
    Stopped,
    #[error("there is no {what} with the number {id}")]
    NotThere { what: &'static str, id: i64 },
    #[error("this frame was changed elsewhere (revision {found}, here {expected}). Reload it to go on")]
    ChangedElsewhere { found: i64, expected: i64 },
    #[error("there is nothing to {0}")]
    NothingTo(&'static str),
    #[error("a name needs at least one letter and at most 120")]
    Name,
    #[error("'{id}' is a built-in stock and stays as it is; give yours another id")]
    BuiltIn { id: String },
    #[error("there is a stock of yours with the id '{id}' already; delete it first, or give this one another id")]
    StockTaken { id: String },
    #[error("the original {hash} is missing or damaged on disk")]
    Original { hash: String },
    #[error(transparent)]
    Core(#[from] CoreError),
}
