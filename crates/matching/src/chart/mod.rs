//! A stock from a chart: what a photographer measured on a film becomes a stock.

pub mod csv;
pub mod d50;
mod fitted;
mod knobs;
mod patches;
mod published;
mod scanned;
mod wedge;

pub use self::csv::{ChartFile, KINDS, shown};
pub use fitted::{FEWEST_PATCHES, Fit, PatchResidual, fit};
pub use patches::{Fields, read_patches};
pub use published::{PUBLISHED, Published};
pub use scanned::read_wedge;
pub use wedge::{FEWEST_STEPS, LayerFit};
