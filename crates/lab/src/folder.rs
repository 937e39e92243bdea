//! A folder of things that can be made again, bounded in bytes: the oldest go first. It may be deleted at any time, and
//! a full disk takes nothing away.

use std::path::PathBuf;
use std::sync::{Mutex, PoisonError};

use amber_files::write;

/// Of the most bytes, how many hundredths are left when the oldest go.
const LEFT_OF_100: u64 = 75;

/// Files by name.
pub(crate) struct Folder {
    path: PathBuf,
    most_bytes: u64,
    /// Bytes in it; not known before the first is put there.
    bytes: Mutex<Option<u64>>,
}

impl Folder {
    pub fn new(path: PathBuf, most_bytes: u64) -> Self {
        Self { path, most_bytes, bytes: Mutex::new(None) }
    }

    /// What lies there; whether it is whole is for who asks to see.
    pub fn read(&self, name: &str) -> Option<Vec<u8>> {
        std::fs::read(self.path.join(name)).ok()
    }

    /// Whether something lies there.
    pub fn has(&self, name: &str) -> bool {
        self.path.join(name).is_file()
    }

    /// Keeps something, where there is room on the disk.
    pub fn put(&self, name: &str, bytes: &[u8]) {
        let stored = std::fs::create_dir_all(&self.path)
            .map_err(|e| e.to_string())
            .and_then(|()| write::save(&self.path.join(name), bytes).map_err(|e| e.to_string()));
        match stored {
            Ok(()) => self.bound(bytes.len() as u64),
            Err(error) => tracing::warn!("what can be made again could not be kept: {error}"),
        }
    }

    /// Lets the oldest go where there are too many.
    fn bound(&self, added: u64) {
        let mut known = self.bytes.lock().unwrap_or_else(PoisonError::into_inner);
        let bytes = known.map_or(self.most_bytes + 1, |b| b + added);
        *known = Some(if bytes <= self.most_bytes { bytes } else { self.thinned() });
    }

    /// The bytes that are there, after the oldest have gone.
    fn thinned(&self) -> u64 {
        let entries = std::fs::read_dir(&self.path).into_iter().flatten().flatten();
        let mut files: Vec<_> = entries
            .filter_map(|e| Some((e.metadata().ok().filter(std::fs::Metadata::is_file)?, e.path())))
            .map(|(m, path)| (m.modified().ok(), m.len(), path))
            .collect();
        files.sort();
        let mut all: u64 = files.iter().map(|f| f.1).sum();
        if all <= self.most_bytes {
            return all;
        }
        for (_, length, path) in files {
            if all <= self.most_bytes / 100 * LEFT_OF_100 {
                break;
            }
            if std::fs::remove_file(path).is_ok() {
                all -= length;
            }
        }
        all
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_is_bounded_and_the_newest_stay() {
        const MOST: u64 = 1 << 20;
        let place = tempfile::tempdir().unwrap();
        let folder = Folder::new(place.path().to_owned(), MOST);
        std::fs::create_dir(place.path().join("another")).unwrap();
        for i in 0..20 {
            folder.put(&format!("{i}"), &vec![i; 128 << 10]);
        }
        let all = std::fs::read_dir(place.path()).unwrap().map(|e| e.unwrap().metadata().unwrap());
        let bytes: u64 = all.filter(std::fs::Metadata::is_file).map(|m| m.len()).sum();
        assert!(bytes <= MOST && bytes > MOST / 2, "{bytes}");
        assert_eq!(folder.read("19").unwrap()[0], 19);
        assert!(folder.read("0").is_none() && place.path().join("another").exists());
    }
}
