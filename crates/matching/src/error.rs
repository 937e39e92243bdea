//! What can go wrong while matching, with a sentence that a person can act on.
#![allow(missing_docs, reason = "an error says itself in its sentence")]

use amber_core::CoreError;
use thiserror::Error;

#[derive(Debug, Error, Clone, PartialEq)]
pub enum MatchError {
    #[error("there is too little in it: {why}")]
    TooLittle { why: String },
    #[error("the patch is {width} × {height} pixels; mark at least {least} × {least}")]
    SmallPatch { width: u32, height: u32, least: u32 },
    #[error("the patch does not lie inside the picture, which is {width} × {height} pixels")]
    PatchOutside { width: u32, height: u32 },
    #[error("this is no chart: {why}")]
    Chart { why: String },
    #[error(transparent)]
    Core(#[from] CoreError),
}
