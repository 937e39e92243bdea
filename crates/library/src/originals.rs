//! Originals: files named by the hash of their content, written once.

use std::io::Write;
use std::path::PathBuf;

use crate::error::LibraryError;

/// The folder of originals.
#[derive(Debug, Clone)]
pub struct Originals {
    folder: PathBuf,
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

    /// Stores bytes under their hash: to a temporary name, synced, renamed. What is there already is left alone.
    pub fn store(&self, bytes: &[u8]) -> Result<String, LibraryError> {
        let hash = Self::hash_of(bytes);
        let path = self.path(&hash);
        if path.exists() {
            return Ok(hash);
        }
        let wrong = |source: std::io::Error| LibraryError::Folder { path: self.folder.clone(), source };
        let mut partial = tempfile::NamedTempFile::new_in(&self.folder).map_err(wrong)?;
        partial.write_all(bytes).map_err(wrong)?;
        partial.as_file().sync_all().map_err(wrong)?;
        let file = partial.persist(&path).map_err(|e| wrong(e.error))?;
        let mut permissions = file.metadata().map_err(wrong)?.permissions();
        permissions.set_readonly(true);
        file.set_permissions(permissions).map_err(wrong)?;
        Ok(hash)
    }

    /// The bytes of an original, checked against their hash.
    pub fn read(&self, hash: &str) -> Result<Vec<u8>, LibraryError> {
        let damaged = || LibraryError::Original { hash: hash.into() };
        let bytes = std::fs::read(self.path(hash)).map_err(|_| damaged())?;
        if Self::hash_of(&bytes) == hash { Ok(bytes) } else { Err(damaged()) }
    }

    pub(crate) fn remove(&self, hash: &str) {
        let path = self.path(hash);
        if let Err(error) = std::fs::remove_file(&path) {
            tracing::warn!("the original {} could not be removed: {error}", path.display());
        }
    }
}
