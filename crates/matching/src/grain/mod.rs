//! Grain that shows as much as the noise of another picture: measured there, rendered here, compared.

mod fit;
mod measure;
mod own;
mod strips;

pub use fit::{CONTROLS, GrainMatch, match_grain};
pub use measure::{GrainMeasure, LAGS, LEAST_PATCH, ToneNoise};
pub use own::own_noise;
pub use strips::{Enlarged, Strips};
