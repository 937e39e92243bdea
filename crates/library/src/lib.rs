//! What Amber Grain keeps: rolls, frames, developments and their history in SQLite; originals as files beside it.
//!
//! One thread writes, readers are pooled. Originals are stored byte for byte under their content hash and never written
//! again; the row that names one is written after its file is complete.

mod database;
mod error;
mod frames;
mod originals;
mod rolls;
mod stocks;

use std::path::{Path, PathBuf};

pub use database::Database;
pub use error::LibraryError;
pub use frames::{Change, Frame, FrameSummary, NewFrame, Step};
pub use originals::Originals;
pub use rolls::Roll;

/// The data folder: the database, the originals, the exports.
pub struct Library {
    pub(crate) database: Database,
    pub originals: Originals,
    folder: PathBuf,
}

impl Library {
    /// Opens a data folder, making what is missing.
    pub fn open(folder: &Path) -> Result<Self, LibraryError> {
        for part in ["", "originals", "exports"] {
            let path = folder.join(part);
            std::fs::create_dir_all(&path).map_err(|source| LibraryError::Folder { path, source })?;
        }
        Ok(Self {
            database: Database::open(&folder.join("library.sqlite"))?,
            originals: Originals::new(folder.join("originals")),
            folder: folder.to_owned(),
        })
    }

    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// Where exports are put.
    pub fn exports(&self) -> PathBuf {
        self.folder.join("exports")
    }
}
