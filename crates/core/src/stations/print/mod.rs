//! Print: density becomes something to look at.
//!
//! Comes in: density of each film layer (log10). Goes out: linear reflectance (or transmittance of a slide), white = 1.
//!
//! A colour negative is exposed through its dyes and mask onto paper and the paper's dyes are seen in D50
//! (`colour_print`); a slide is seen through its own dyes (`transparency`); a black-and-white negative goes onto graded
//! paper (`graded_print`). Equal densities become neutral because dye amounts come from `dye_tracking`. The whole is
//! kept as a table over density (`table`). Sources: CIE 15 for colorimetry; ISO 6846 for paper range; ISO 5 for the
//! notion of density. Dyes and papers are invented.

pub mod colour_print;
pub mod dye_tracking;
pub mod graded_print;
pub mod settings;
pub mod stage;
pub mod table;
pub mod transparency;
pub mod viewing;

pub use settings::PrintSettings;
pub use stage::PrintStage;
