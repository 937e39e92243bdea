//! What can go wrong in the lab.

use amber_core::CoreError;
use amber_files::FileError;
use amber_library::LibraryError;
use amber_matching::MatchError;
use thiserror::Error;

#[derive(Debug, Error)]
pub enum LabError {
    #[error(transparent)]
    Core(#[from] CoreError),
    #[error(transparent)]
    File(#[from] FileError),
    #[error(transparent)]
    Library(#[from] LibraryError),
    #[error(transparent)]
    Match(#[from] MatchError),
    #[error("this match is no longer known; begin it again")]
    NoMatch,
    #[error("the patch lies outside the picture; mark another one")]
    EmptyPatch,
    #[error("the render threads could not be started: {0}")]
    Threads(String),
    #[error("there is no zoom step {0}; the steps go from 0 (full size) to 12")]
    Level(u8),
    #[error("there is no finished export with the number {0}")]
    NoExport(i64),
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
    #[error(
        "a name's pattern knows name, number, number:03, counter, roll, stock and date in braces; '{0}' is none of them"
    )]
    Pattern(String),
    #[error("a contact print has room for {0} frames; choose fewer")]
    TooManyForPrint(usize),
    #[error("a preset needs at least one value; tick some")]
    EmptyPreset,
    #[error("the file is not valid: it is not text")]
    NotText,
    #[error("the long edge goes from 16 to 65535 pixels; {0} lies outside")]
    LongEdge(u32),
    #[error("a side goes from 16 to 65535 pixels; {0} lies outside")]
    Side(u32),
    #[error("{what}: from {low} to {high}; {value} lies outside")]
    Size { what: &'static str, value: f64, low: f64, high: f64 },
    #[error("a .{ending} file has at most {most} pixels a side, this picture {side}; make it smaller")]
    TooLong { side: u32, most: u32, ending: &'static str },
    #[error("{path} cannot be a hand-off folder: {why}")]
    Folder { path: String, why: String },
    #[error(
        "{path} is there already and was not made of this file by an order; move it, or choose another pattern or \
        folder"
    )]
    Foreign { path: String },
    #[error("this is no archive of a roll that can be read: {why}")]
    Archive { why: String },
    #[error("no development travels in this picture's file")]
    NothingTravels,
    #[error("the original of this development is not in this library; load it, and try again")]
    OriginalElsewhere,
    #[error("this document cannot be used: {why}")]
    Document { why: String },
}

impl LabError {
    /// A newer request took its place: nobody needs to be told.
    pub fn is_abandoned(&self) -> bool {
        matches!(self, Self::Core(CoreError::Abandoned) | Self::Match(MatchError::Core(CoreError::Abandoned)))
    }
}
