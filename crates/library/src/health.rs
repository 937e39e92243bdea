//! Whether a library is whole: its database, its originals, what lies beside them that nobody needs.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

use amber_saving::PARTIAL;

use crate::Library;
use crate::error::LibraryError;
use crate::originals::Originals;

/// Where what belongs to nobody is put by mending: nothing is deleted that cannot be made again.
const ORPHANED: &str = "orphaned";

/// How much a finding weighs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Weight {
    /// Only to be known.
    Note,
    /// Mending takes it away.
    Mendable,
    /// Something is lost or damaged, and cannot be mended from here.
    Damage,
}

/// What was found.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Finding {
    pub weight: Weight,
    /// A sentence: what it is, and what to do.
    pub sentence: String,
    /// The files that mending puts away.
    pub files: Vec<PathBuf>,
}

impl Finding {
    fn new(weight: Weight, sentence: impl Into<String>) -> Self {
        Self { weight, sentence: sentence.into(), files: Vec::new() }
    }
}

fn files_of(folder: &Path) -> Vec<PathBuf> {
    let mut files: Vec<PathBuf> =
        std::fs::read_dir(folder).into_iter().flatten().flatten().map(|e| e.path()).filter(|p| p.is_file()).collect();
    files.sort();
    files
}

fn name_of(path: &Path) -> String {
    path.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default()
}

fn bytes_below(folder: &Path) -> u64 {
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
    entries
        .map(|entry| match entry.path() {
            path if path.is_dir() => bytes_below(&path),
            _ => entry.metadata().map_or(0, |m| m.len()),
        })
        .sum()
}

impl Library {
    /// Looks at all of it; `tell` hears what is being looked at.
    pub fn examine(&self, tell: &mut dyn FnMut(&str)) -> Result<Vec<Finding>, LibraryError> {
        let mut found = Vec::new();
        tell("the database");
        found.extend(self.database_findings()?);
        tell("developments");
        found.extend(self.unreadable_frames()?);
        let known = self.hashes("SELECT hash FROM contents ORDER BY hash")?;
        found.extend(held(&known, &self.originals, "originals", &self.folder.join("originals"), tell));
        let known = self.hashes("SELECT hash FROM pictures ORDER BY hash")?;
        found.extend(held(&known, &self.pictures, "laid pictures", &self.folder.join("pictures"), tell));
        tell("exports");
        found.extend(self.missing_exports()?);
        for part in ["originals", "pictures", "exports", "cache"] {
            let left: Vec<PathBuf> = files_of(&self.folder.join(part))
                .into_iter()
                .filter(|path| name_of(path).starts_with(PARTIAL))
                .collect();
            if !left.is_empty() {
                let sentence = format!("{} half-written files lie in {part}", left.len());
                found.push(Finding { files: left, ..Finding::new(Weight::Mendable, sentence) });
            }
        }
        let cache = bytes_below(&self.cache()) as f64 / 1e6;
        found.push(Finding::new(Weight::Note, format!("caches hold {cache:.0} MB; they can be made again")));
        found.sort_by_key(|finding| std::cmp::Reverse(finding.weight));
        Ok(found)
    }

    fn database_findings(&self) -> Result<Vec<Finding>, LibraryError> {
        self.database.read(|c| {
            let mut said = c.prepare("PRAGMA integrity_check(20)")?;
            let lines: Vec<String> = said.query_map([], |r| r.get(0))?.collect::<Result<_, _>>()?;
            let broken = lines.iter().filter(|line| *line != "ok");
            let mut found: Vec<Finding> = broken
                .map(|line| {
                    Finding::new(Weight::Damage, format!("the database is damaged: {line}. Put back a copy of it"))
                })
                .collect();
            let loose: i64 = c.query_row("SELECT COUNT(*) FROM pragma_foreign_key_check", [], |r| r.get(0))?;
            if loose > 0 {
                let sentence = format!("{loose} rows of the database name others that are not there");
                found.push(Finding::new(Weight::Damage, sentence));
            }
            Ok(found)
        })
    }

    fn hashes(&self, asked: &str) -> Result<Vec<String>, LibraryError> {
        self.database.read(|c| Ok(c.prepare(asked)?.query_map([], |r| r.get(0))?.collect::<Result<_, _>>()?))
    }

    fn unreadable_frames(&self) -> Result<Vec<Finding>, LibraryError> {
        let mut found = Vec::new();
        for roll in self.rolls()? {
            for frame in self.frames(roll.id)? {
                let why = frame.trouble.or_else(|| self.stock_of(&frame.development).err().map(|e| e.to_string()));
                if let Some(why) = why {
                    let sentence = format!("{} on {} cannot be developed: {why}", frame.name, roll.name);
                    found.push(Finding::new(Weight::Damage, sentence));
                }
            }
        }
        Ok(found)
    }

    fn missing_exports(&self) -> Result<Vec<Finding>, LibraryError> {
        let done = self.exports_queued(0, usize::MAX >> 1)?;
        let is_missing = |e: &&crate::QueuedExport| {
            let folder = if e.folder.is_empty() { self.exports() } else { e.folder.clone().into() };
            e.stage == crate::Stage::Done && !folder.join(&e.file).exists()
        };
        let missing = done.iter().filter(is_missing).count();
        if missing == 0 {
            return Ok(Vec::new());
        }
        let sentence = format!("{missing} finished exports were moved or deleted since");
        Ok(vec![Finding::new(Weight::Note, sentence)])
    }

    /// Puts away what can be: files of nobody go into a folder of their own, half-written ones are deleted. Gives how
    /// many files there were.
    pub fn mend(&self, found: &[Finding]) -> Result<usize, LibraryError> {
        let place = self.folder.join(ORPHANED);
        let mut count = 0;
        for path in found.iter().filter(|f| f.weight == Weight::Mendable).flat_map(|f| &f.files) {
            let wrong = |source| LibraryError::Folder { path: path.clone(), source };
            if name_of(path).starts_with(PARTIAL) {
                std::fs::remove_file(path).map_err(wrong)?;
            } else {
                std::fs::create_dir_all(&place).map_err(wrong)?;
                std::fs::rename(path, place.join(name_of(path))).map_err(wrong)?;
            }
            count += 1;
        }
        Ok(count)
    }
}

/// What is wrong with a folder of files that are named by their content.
fn held(known: &[String], files: &Originals, what: &str, folder: &Path, tell: &mut dyn FnMut(&str)) -> Vec<Finding> {
    let mut found = Vec::new();
    for (i, hash) in known.iter().enumerate() {
        if i % 50 == 0 {
            tell(&format!("{what}, {} of {}", i + 1, known.len()));
        }
        if let Err(error) = files.read(hash) {
            found.push(Finding::new(Weight::Damage, error.to_string()));
        }
    }
    let known: BTreeSet<&String> = known.iter().collect();
    let orphans: Vec<PathBuf> = files_of(folder)
        .into_iter()
        .filter(|path| !name_of(path).starts_with(PARTIAL) && !known.contains(&name_of(path)))
        .collect();
    if !orphans.is_empty() {
        let sentence =
            format!("{} files among the {what} belong to no frame; --mend puts them into {ORPHANED}", orphans.len());
        found.push(Finding { files: orphans, ..Finding::new(Weight::Mendable, sentence) });
    }
    found
}
