//! One way to write a file: its bytes are written and synced under another name in the same folder, then given the name
//! that they are to have, and the folder is synced. Whoever reads the name finds all of the file or none of it,
//! whatever ends the program.

use std::fs::File;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use tempfile::{Builder, NamedTempFile};

/// How the names of files begin that are not yet whole; what is left of them after a crash may be deleted.
pub const PARTIAL: &str = ".amber-part-";

/// Who may change a file once it is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Access {
    /// As any program's new file.
    Usual,
    /// Nobody: it is never written again.
    ReadOnly,
}

/// Whole and synced, not yet under its name; gone if it never gets one.
#[derive(Debug)]
pub struct Arriving {
    file: NamedTempFile,
    folder: PathBuf,
}

impl Arriving {
    /// Writes bytes beside the files of a folder.
    pub fn in_folder(folder: &Path, bytes: &[u8], access: Access) -> io::Result<Self> {
        let mut builder = Builder::new();
        builder.prefix(PARTIAL);
        // a temporary file would be the owner's alone
        #[cfg(unix)]
        if access == Access::Usual {
            builder.permissions(std::os::unix::fs::PermissionsExt::from_mode(0o666));
        }
        let mut file = builder.tempfile_in(folder)?;
        file.write_all(bytes)?;
        if access == Access::ReadOnly {
            let mut permissions = file.as_file().metadata()?.permissions();
            permissions.set_readonly(true);
            file.as_file().set_permissions(permissions)?;
        }
        file.as_file().sync_all()?;
        Ok(Self { file, folder: folder.to_owned() })
    }

    /// Gives it a name of the same folder; what had that name is replaced.
    pub fn replacing(self, path: &Path) -> io::Result<()> {
        self.file.persist(path).map_err(|e| e.error)?;
        sync(&self.folder)
    }

    /// Gives it a name that no file has yet; an error where one has it.
    pub fn new_at(self, path: &Path) -> io::Result<()> {
        self.file.persist_noclobber(path).map_err(|e| e.error)?;
        sync(&self.folder)
    }
}

/// The entry in the folder; where folders cannot be opened they need not be synced.
fn sync(folder: &Path) -> io::Result<()> {
    File::open(folder).and_then(|f| f.sync_all()).or(Ok(()))
}

fn folder_of(path: &Path) -> &Path {
    path.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."))
}

/// Saves a file; what had its name is replaced.
pub fn save(path: &Path, bytes: &[u8]) -> io::Result<()> {
    Arriving::in_folder(folder_of(path), bytes, Access::Usual)?.replacing(path)
}

/// [`save`] where no file may be replaced: an error when the name is taken.
pub fn save_new(path: &Path, bytes: &[u8]) -> io::Result<()> {
    Arriving::in_folder(folder_of(path), bytes, Access::Usual)?.new_at(path)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Many threads save one name while others read it: nobody sees half a file, and nothing is left over.
    #[test]
    fn saving_is_safe_against_itself() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.bin");
        save(&path, &[0; 50_000]).unwrap();
        std::thread::scope(|scope| {
            for k in 1..=4u8 {
                let path = &path;
                scope.spawn(move || (0..25).for_each(|_| save(path, &[k; 50_000]).unwrap()));
                scope.spawn(move || {
                    for _ in 0..200 {
                        let read = std::fs::read(path).unwrap();
                        assert!(read.len() == 50_000 && read.iter().all(|b| *b == read[0]));
                    }
                });
            }
        });
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1);
        assert!(save_new(&path, b"new").is_err());
        assert_eq!(std::fs::read(&path).unwrap().len(), 50_000, "what was there stays");
    }

    #[test]
    fn what_never_gets_a_name_is_gone() {
        let folder = tempfile::tempdir().unwrap();
        let arriving = Arriving::in_folder(folder.path(), b"bytes", Access::ReadOnly).unwrap();
        let names = || std::fs::read_dir(folder.path()).unwrap().map(|e| e.unwrap().file_name()).collect::<Vec<_>>();
        assert!(names()[0].to_string_lossy().starts_with(PARTIAL));
        drop(arriving);
        assert!(names().is_empty());
        let kept = folder.path().join("kept");
        Arriving::in_folder(folder.path(), b"bytes", Access::ReadOnly).unwrap().replacing(&kept).unwrap();
        assert!(std::fs::metadata(kept).unwrap().permissions().readonly());
    }
}
