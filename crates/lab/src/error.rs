//! What can go wrong in the lab.

use amber_core::CoreError;
use amber_files::FileError;
use amber_library::LibraryError;
use thiserror::Error;

#[derive(Debug, Error)]
pub enum LabError {
    #[error(transparent)]
    Core(#[from] CoreError),
    #[error(transparent)]
    File(#[from] FileError),
    #[error(transparent)]
    Library(#[from] LibraryError),
    #[error("the render threads could not be started: {0}")]
    Threads(String),
    #[error("there is no zoom step {0}; the steps go from 0 (full size) to 12")]
    Level(u8),
    #[error("there is no export with the number {0}")]
    NoExport(u64),
    #[error("this place is too dark to be a neutral; pick a lighter grey")]
    NoNeutral,
    #[error("an export's name needs at least one letter or digit")]
    ExportName,
    #[error("the JPEG quality goes from 1 to 100; {0} lies outside")]
    Quality(u32),
    #[error("{0} exports wait already; let some of them end first")]
    TooManyExports(usize),
    #[error("this picture could not be made: the program met an error of its own. Nothing was lost; please report it")]
    Broken,
    #[error("{0} sheets are the most on one frame; take one off first")]
    TooManySheets(u32),
    #[error("no frames were named; choose some first")]
    NoFrames,
    #[error("a name's pattern knows name, number, number:03, roll, stock and date in braces; '{0}' is none of them")]
    Pattern(String),
    #[error("a contact print has room for {0} frames; choose fewer")]
    TooManyForPrint(usize),
    #[error("a preset needs at least one value; tick some")]
    EmptyPreset,
    #[error("the file is not valid: it is not text")]
    NotText,
    #[error("the long edge goes from 16 to 65535 pixels; {0} lies outside")]
    LongEdge(u32),
}

impl LabError {
    /// A newer request took its place: nobody needs to be told.
    pub fn is_abandoned(&self) -> bool {
        matches!(self, Self::Core(CoreError::Abandoned))
    }
}
