//! What Amber Grain keeps: rolls, frames, developments and their history in SQLite; originals as files beside it.
//!
//! One thread writes, readers are pooled, one process holds the folder. Originals are stored byte for byte under their
//! content hash and never written again; the row that names one is written after its file is complete, and what an
//! interruption left behind is taken away at the next start. `docs/reliability.md` says what is promised.

mod contact;
mod database;
mod error;
mod exports;
mod facts;
mod frames;
mod health;
mod log;
mod marks;
mod orders;
mod originals;
mod pictures;
mod pins;
mod presets;
mod proofs;
mod rolls;
mod stocks;
mod strokes;
mod together;

use std::fs::{File, TryLockError};
use std::path::{Path, PathBuf};
use std::sync::Mutex;

use rusqlite::params;

pub use contact::{OnSheet, Order, SheetAsked, Tuning};
pub use database::Database;
pub use error::LibraryError;
pub use exports::{NewExport, QueuedExport, Stage};
pub use frames::{Change, Frame, FrameSummary, NewFrame, Step, seed_of};
pub use health::{Finding, Weight};
pub use log::LogStep;
pub use marks::Mark;
pub use originals::Originals;
pub use pictures::KeptPicture;
pub use proofs::Proof;
pub use rolls::Roll;
pub use together::{Together, Undone};

/// The data folder: the database, the originals, the exports.
pub struct Library {
    pub(crate) database: Database,
    pub originals: Originals,
    /// Files of the pictures that are laid on others.
    pub pictures: Originals,
    /// Held while an original and the rows that name it come or go together.
    pub(crate) arrivals: Mutex<()>,
    folder: PathBuf,
    /// Held while the library is open; its lock goes with it.
    _lock: File,
}

impl Library {
    /// Opens a data folder, making what is missing, and takes away what an interruption left behind.
    pub fn open(folder: &Path) -> Result<Self, LibraryError> {
        for part in ["", "originals", "pictures", "exports", "cache"] {
            let path = folder.join(part);
            std::fs::create_dir_all(&path).map_err(|source| LibraryError::Folder { path, source })?;
        }
        let lock = locked(folder)?;
        let originals = Originals::new(folder.join("originals"));
        let path = folder.join("library.sqlite");
        if !path.exists() && originals.any() {
            return Err(LibraryError::DatabaseMissing { folder: folder.to_owned() });
        }
        let library = Self {
            database: Database::open(&path)?,
            originals,
            pictures: Originals::new(folder.join("pictures")),
            arrivals: Mutex::new(()),
            folder: folder.to_owned(),
            _lock: lock,
        };
        library.sweep()?;
        Ok(library)
    }

    /// Takes away what was interrupted: files half-written, originals that came or went without a frame, dropped
    /// proofs, unused strokes.
    fn sweep(&self) -> Result<(), LibraryError> {
        for part in ["originals", "pictures", "exports", "cache"] {
            originals::sweep_partial(&self.folder.join(part));
        }
        let loose = self.database.write(|t| {
            t.execute("DELETE FROM proofs WHERE dropped <> 0", params![])?;
            t.execute("DELETE FROM presets WHERE dropped <> 0", params![])?;
            strokes::sweep(t)?;
            let mut rows = t.prepare("SELECT hash FROM loose WHERE hash NOT IN (SELECT hash FROM contents)")?;
            let loose: Vec<String> = rows.query_map([], |r| r.get(0))?.collect::<Result<_, _>>()?;
            Ok(loose)
        })?;
        loose.iter().for_each(|hash| self.originals.remove(hash));
        self.database.write(|t| Ok(t.execute("DELETE FROM loose", params![]).map(drop)?))
    }

    /// Ends it cleanly: the database is one whole file afterwards, and nothing more is written.
    pub fn close(&self) {
        self.database.close();
    }

    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// Where exports are put.
    pub fn exports(&self) -> PathBuf {
        self.folder.join("exports")
    }

    /// Where small pictures are kept that can be made again.
    pub fn cache(&self) -> PathBuf {
        self.folder.join("cache")
    }
}

/// Locks a folder for this process.
fn locked(folder: &Path) -> Result<File, LibraryError> {
    let path = folder.join("library.lock");
    let wrong = |source| LibraryError::Folder { path: path.clone(), source };
    let file = File::options().create(true).truncate(false).write(true).open(&path).map_err(wrong)?;
    match file.try_lock() {
        Ok(()) => Ok(file),
        Err(TryLockError::WouldBlock) => Err(LibraryError::InUse { folder: folder.to_owned() }),
        Err(TryLockError::Error(source)) => Err(wrong(source)),
    }
}
