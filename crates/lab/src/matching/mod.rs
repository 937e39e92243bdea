//! Matching: a frame's grain and look brought to a reference, a frame seated on its stock, a stock from a chart.
//!
//! A reference is a frame of the library: a scan that was loaded, or another picture's print.

mod grain;
mod jobs;
mod look;
mod reference;
mod seating;
pub mod told;

pub use jobs::{Given, JobState, Matches};
pub use look::Taken;
pub use reference::{ReferenceAs, ReferenceOf};
