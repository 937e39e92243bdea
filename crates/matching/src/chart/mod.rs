//! A stock from a chart: what a photographer measured on a film becomes a stock.

pub mod csv;
pub mod d50;
mod fitted;
mod patches;
mod published;
mod wedge;

pub use self::csv::{ChartFile, KINDS, shown};
pub use fitted::{FEWEST_PATCHES, Fit, PatchResidual, fit};
pub use patches::read_patches;
pub use published::{PUBLISHED, Published};
pub use wedge::{FEWEST_STEPS, LayerFit};
