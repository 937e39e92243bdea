//! Originals: files named by the hash of their content, written once.

use std::path::{Path, PathBuf};

use amber_saving::{Access, PARTIAL};

use crate::error::LibraryError;

/// The folder of originals.
#[derive(Debug, Clone)]
pub struct Originals {
    folder: PathBuf,
}

/// An original on its way in: whole and synced, not yet under its name.
pub(crate) struct Arriving {
    pub hash: String,
    file: amber_saving::Arriving,
}

impl Originals {
    pub(crate) fn new(folder: PathBuf) -> Self {
        Self { folder }
    }

    fn path(&self, hash: &str) -> PathBuf {
        self.folder.join(hash)
    }

    pub fn hash_of(bytes: &[u8]) -> String {
        blake3::hash(bytes).to_hex().to_string()
    }

    fn wrong(&self, source: std::io::Error) -> LibraryError {
        LibraryError::Folder { path: self.folder.clone(), source }
    }

    /// Writes bytes to a temporary name and syncs them.
    pub(crate) fn receive(&self, bytes: &[u8]) -> Result<Arriving, LibraryError> {
        let file = amber_saving::Arriving::in_folder(&self.folder, bytes, Access::ReadOnly);
        Ok(Arriving { hash: Self::hash_of(bytes), file: file.map_err(|e| self.wrong(e))? })
    }

    /// Puts an original under its name. One that is there already is left alone if it is whole, and replaced if not.
    pub(crate) fn settle(&self, arriving: Arriving) -> Result<(), LibraryError> {
        if self.read(&arriving.hash).is_ok() {
            return Ok(());
        }
        arriving.file.replacing(&self.path(&arriving.hash)).map_err(|e| self.wrong(e))
    }

    /// The bytes of an original, checked against their hash.
    pub fn read(&self, hash: &str) -> Result<Vec<u8>, LibraryError> {
        let damaged = || LibraryError::Original { hash: hash.into() };
        let bytes = std::fs::read(self.path(hash)).map_err(|_| damaged())?;
        if Self::hash_of(&bytes) == hash { Ok(bytes) } else { Err(damaged()) }
    }

    pub(crate) fn remove(&self, hash: &str) {
        let path = self.path(hash);
        match std::fs::remove_file(&path) {
            Err(error) if error.kind() != std::io::ErrorKind::NotFound => {
                tracing::warn!("the original {} could not be removed: {error}", path.display());
            }
            _ => {}
        }
    }

    /// Whether any original lies here.
    pub(crate) fn any(&self) -> bool {
        let named = |name: &str| name.len() == 64 && name.bytes().all(|b| b.is_ascii_hexdigit());
        std::fs::read_dir(&self.folder)
            .is_ok_and(|mut all| all.any(|e| e.is_ok_and(|e| e.file_name().to_str().is_some_and(named))))
    }
}

/// Takes away what was left half-written in a folder, by us or by earlier versions.
pub(crate) fn sweep_partial(folder: &Path) {
    let partial = |name: &str| {
        let older = name.starts_with(".tmp") || name.ends_with(".part");
        name.starts_with(PARTIAL) || older
    };
    for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
        if entry.file_name().to_str().is_some_and(partial)
            && let Err(error) = std::fs::remove_file(entry.path())
        {
            tracing::warn!("{} is left over and could not be removed: {error}", entry.path().display());
        }
    }
}
