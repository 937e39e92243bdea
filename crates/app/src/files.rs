//! Input files: from paths and folders, from standard input; and output to standard output.

use std::io::{Read, Seek, Write};
use std::path::{Path, PathBuf};

use amber_files::is_picture;

/// Stands for standard input and output.
pub const STREAM: &str = "-";

/// Whether a path stands for standard input or output.
pub fn is_stream(path: &Path) -> bool {
    path.as_os_str() == STREAM
}

/// The bytes of a file, or of standard input.
pub fn bytes_of(path: &Path) -> Result<Vec<u8>, String> {
    if !is_stream(path) {
        return std::fs::read(path).map_err(|e| format!("{} cannot be read: {e}", path.display()));
    }
    let mut bytes = Vec::new();
    std::io::stdin().lock().read_to_end(&mut bytes).map_err(|e| format!("standard input cannot be read: {e}"))?;
    Ok(bytes)
}

/// Files as they were named, folders replaced by the pictures in them, by name.
pub fn all_of(paths: &[PathBuf]) -> Result<Vec<PathBuf>, String> {
    let mut files = Vec::new();
    for path in paths {
        if path.is_dir() {
            files.extend(pictures_in(path, false)?);
        } else {
            files.push(path.clone());
        }
    }
    Ok(files)
}

/// Pictures of a folder by name, and of the folders in it where that is asked for.
pub fn pictures_in(folder: &Path, deep: bool) -> Result<Vec<PathBuf>, String> {
    let entries = std::fs::read_dir(folder).map_err(|e| format!("{} cannot be read: {e}", folder.display()))?;
    let mut paths: Vec<PathBuf> = entries.filter_map(|entry| Some(entry.ok()?.path())).collect();
    paths.sort();
    let mut pictures = Vec::new();
    for path in paths {
        if path.is_file() && is_picture(&path) {
            pictures.push(path);
        } else if deep && path.is_dir() && !path.is_symlink() {
            pictures.extend(pictures_in(&path, deep)?);
        }
    }
    Ok(pictures)
}

/// Sends what was written into memory to standard output. A reader that has seen enough is no error.
pub fn to_standard_output(
    write: impl FnOnce(&mut std::io::Cursor<Vec<u8>>) -> Result<(), String>,
) -> Result<u64, String> {
    let mut whole = std::io::Cursor::new(Vec::new());
    write(&mut whole)?;
    let length = whole.stream_position().unwrap_or(0).max(whole.get_ref().len() as u64);
    let mut out = std::io::stdout().lock();
    match out.write_all(whole.get_ref()).and_then(|()| out.flush()) {
        Err(e) if e.kind() != std::io::ErrorKind::BrokenPipe => Err(format!("standard output cannot be written: {e}")),
        _ => Ok(length),
    }
}
