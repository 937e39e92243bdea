//! What was made of which file by which order: a small document beside each picture, and all of them as one.
//!
//! Documents lie in a folder of their own within the one that is written into, one for each picture, so that any number
//! of workers can write at once. A picture is known to be there when its document names its input, the order, and the
//! hash that the file still has.

use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};

use crate::delivery::hash_of_file;
use crate::error::LabError;

/// The folder of the documents.
pub const FOLDER: &str = ".amber-grain";

/// What was made of a file.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Record {
    /// Name of the file that was written.
    pub output: String,
    /// The file that it was made of, as it was named.
    pub input: String,
    /// Content hashes (BLAKE3, hexadecimal): of the input, of the order, of what was written.
    pub input_hash: String,
    pub order_hash: String,
    pub output_hash: String,
    pub bytes: u64,
}

/// All that lies in a folder.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Manifest {
    pub files: Vec<Record>,
}

impl Record {
    fn path(folder: &Path, output: &str) -> PathBuf {
        folder.join(FOLDER).join(format!("{output}.json"))
    }

    /// What is known of a file of a folder.
    pub fn of(folder: &Path, output: &str) -> Option<Self> {
        let text = std::fs::read_to_string(Self::path(folder, output)).ok()?;
        serde_json::from_str(&text).ok().filter(|record: &Self| record.output == output)
    }

    /// Writes it down; before the picture gets its name, so that none is ever there without.
    pub fn keep(&self, folder: &Path) -> Result<(), LabError> {
        let path = Self::path(folder, &self.output);
        let of = |source| amber_files::FileError::Write { path: path.display().to_string(), source };
        std::fs::create_dir_all(folder.join(FOLDER)).map_err(of)?;
        let text = serde_json::to_string(self).unwrap_or_default();
        amber_saving::save(&path, text.as_bytes()).map_err(of)?;
        Ok(())
    }

    /// Whether the picture is there as it was written; with `quickly`, by its size alone.
    pub fn is_there(&self, folder: &Path, quickly: bool) -> bool {
        let path = folder.join(&self.output);
        if quickly {
            return std::fs::metadata(path).is_ok_and(|m| m.len() == self.bytes);
        }
        hash_of_file(&path).is_ok_and(|hash| hash == self.output_hash)
    }
}

/// All documents of a folder as one, by the names of the files; whichever workers wrote them.
pub fn merged(folder: &Path) -> Result<Manifest, LabError> {
    let place = folder.join(FOLDER);
    let entries = match std::fs::read_dir(&place) {
        Ok(entries) => entries,
        Err(e) if e.kind() == std::io::ErrorKind::NotFound => return Ok(Manifest::default()),
        Err(source) => {
            return Err(amber_files::FileError::Read { path: place.display().to_string(), source }.into());
        }
    };
    let read = |path: PathBuf| serde_json::from_str::<Record>(&std::fs::read_to_string(path).ok()?).ok();
    let mut files: Vec<Record> = entries.flatten().filter_map(|entry| read(entry.path())).collect();
    files.retain(|record| folder.join(&record.output).is_file());
    files.sort_by(|a, b| a.output.cmp(&b.output));
    Ok(Manifest { files })
}
