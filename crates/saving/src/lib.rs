//! One way to write a file: its bytes are written and synced under another name in the same folder, then given the name
//! that they are to have, and the folder is synced. Whoever reads the name finds all of the file or none of it,
//! whatever ends the program.

use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};

use tempfile::{Builder, NamedTempFile};

/// How the names of files begin that are not yet whole; what is left of them after a crash may be deleted.
pub const PARTIAL: &str = ".amber-part-";

/// Bytes that are written together.
const BUFFER: usize = 1 << 18;

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
        Self::written(folder, access, |file| file.write_all(bytes))
    }

    /// The same for bytes that are made while they are written: nothing holds all of them.
    pub fn written<E: From<io::Error>>(
        folder: &Path,
        access: Access,
        write: impl FnOnce(&mut BufWriter<&File>) -> Result<(), E>,
    ) -> Result<Self, E> {
        let mut builder = Builder::new();
        builder.prefix(PARTIAL);
        // a temporary file would be the owner's alone
        #[cfg(unix)]
        if access == Access::Usual {
            builder.permissions(std::os::unix::fs::PermissionsExt::from_mode(0o666));
        }
        let file = builder.tempfile_in(folder)?;
        let mut buffered = BufWriter::with_capacity(BUFFER, file.as_file());
        write(&mut buffered)?;
        buffered.flush()?;
        drop(buffered);
        if access == Access::ReadOnly {
            let mut permissions = file.as_file().metadata()?.permissions();
            permissions.set_readonly(true);
            file.as_file().set_permissions(permissions)?;
        }
        file.as_file().sync_all()?;
        Ok(Self { file, folder: folder.to_owned() })
    }

    /// How many bytes it has.
    pub fn bytes(&self) -> io::Result<u64> {
        Ok(self.file.as_file().metadata()?.len())
    }

    /// Opens it again, to be read from its beginning.
    pub fn reopened(&self) -> io::Result<File> {
        self.file.reopen()
    }

    /// Gives it a name of the same folder; what had that name is replaced.
    pub fn replacing(self, path: &Path) -> io::Result<()> {
        self.file.persist(path).map_err(|e| e.error)?;
        sync(&self.folder)
    }

    /// Gives it a name that no file has yet; an error where one has it.
    pub fn new_at(self, path: &Path) -> io::Result<()> {
        self.try_new_at(path).map_err(|(error, _)| error)
    }

    /// [`Arriving::new_at`] that gives the file back where it cannot have the name.
    pub fn try_new_at(self, path: &Path) -> Result<(), (io::Error, Option<Self>)> {
        let folder = self.folder;
        match self.file.persist_noclobber(path) {
            Ok(_) => sync(&folder).map_err(|error| (error, None)),
            Err(refused) => Err((refused.error, Some(Self { file: refused.file, folder }))),
        }
    }
}

/// The entry in the folder; where folders cannot be opened they need not be synced.
fn sync(folder: &Path) -> io::Result<()> {
    File::open(folder).and_then(|f| f.sync_all()).or(Ok(()))
}

/// The folder in which a file is to lie.
pub fn folder_of(path: &Path) -> &Path {
    path.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."))
}

/// Takes away what was left half-written in a folder that others may write into as well: only what has not been touched
/// for a while.
pub fn sweep_old(folder: &Path, age: std::time::Duration) {
    for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
        let is_ours = entry.file_name().to_str().is_some_and(|name| name.starts_with(PARTIAL));
        let touched = entry.metadata().and_then(|m| m.modified()).ok().and_then(|at| at.elapsed().ok());
        if is_ours && touched.is_some_and(|since| since > age) {
            // somebody else may have been quicker
            let _ = std::fs::remove_file(entry.path());
        }
    }
}

/// Saves a file; what had its name is replaced.
pub fn save(path: &Path, bytes: &[u8]) -> io::Result<()> {
    Arriving::in_folder(folder_of(path), bytes, Access::Usual)?.replacing(path)
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
        let new = Arriving::in_folder(folder.path(), b"new", Access::Usual).unwrap();
        let Err((_, Some(unplaced))) = new.try_new_at(&path) else { panic!("the name is taken") };
        unplaced.new_at(&folder.path().join("b.bin")).unwrap();
        assert_eq!(std::fs::read(folder.path().join("b.bin")).unwrap(), b"new");
        std::fs::remove_file(folder.path().join("b.bin")).unwrap();
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
