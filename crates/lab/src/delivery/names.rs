//! Names of files.

use std::path::{Path, PathBuf};

use amber_core::text::is_plain;

use crate::error::LabError;

/// Most bytes of an export's name: with a number and an ending it stays below what any file system takes.
const LONGEST_NAME: usize = 180;
/// Names that some systems keep for devices, whatever the ending.
const DEVICES: [&str; 4] = ["CON", "PRN", "AUX", "NUL"];
const NUMBERED_DEVICES: [&str; 2] = ["COM", "LPT"];

/// A file name that is safe on every system: no folders, no hidden characters, no leading dots, no device.
pub fn safe_name(name: &str) -> Result<String, LabError> {
    let hidden = |c: char| !is_plain(c.encode_utf8(&mut [0; 4]));
    let plain = |c: char| if hidden(c) || "/\\:*?\"<>|".contains(c) { '-' } else { c };
    let mut name: String = name.trim().chars().map(plain).take(120).collect();
    while name.len() > LONGEST_NAME {
        name.pop();
    }
    let mut name = name.trim_matches(['.', ' ', '-']).to_string();
    if !name.chars().any(char::is_alphanumeric) {
        return Err(LabError::ExportName);
    }
    let stem = name.split('.').next().unwrap_or_default().trim().to_uppercase();
    let digit = |rest: &str| rest.len() == 1 && rest.chars().all(|c| c.is_ascii_digit());
    if DEVICES.contains(&stem.as_str()) || NUMBERED_DEVICES.iter().any(|d| stem.strip_prefix(d).is_some_and(digit)) {
        name.insert(0, '_');
    }
    Ok(name)
}

/// A path in a folder that no file has: the name, numbered where it is taken.
pub fn free_path(folder: &Path, name: &str, ending: &str) -> PathBuf {
    let numbered = |n: u32| if n == 1 { format!("{name}.{ending}") } else { format!("{name} {n}.{ending}") };
    let free = (1..u32::MAX).map(|n| folder.join(numbered(n))).find(|path| !path.exists());
    free.unwrap_or_else(|| folder.join(numbered(1)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_cannot_leave_the_folder() {
        assert_eq!(safe_name("../../etc/passwd").unwrap(), "etc-passwd".to_string());
        assert_eq!(safe_name(" Hill road: plover ").unwrap(), "Hill road- plover");
        assert!(safe_name("../..").is_err());
        assert_eq!(safe_name("con").unwrap(), "_con");
        assert_eq!(safe_name("COM1.old").unwrap(), "_COM1.old");
        assert_eq!(safe_name("console").unwrap(), "console");
        assert_eq!(safe_name("a\u{202E}gpj").unwrap(), "a-gpj");
        assert!(safe_name(&"漢".repeat(120)).unwrap().len() <= LONGEST_NAME);
    }
}
