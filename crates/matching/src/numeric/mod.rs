//! What the measures compute with.

mod least_squares;
mod spectrum;
mod weighted;

use amber_core::Source;
use amber_core::picture::source::code_of_encoded;

pub use least_squares::{Unknown, least_squares};
pub use spectrum::{BLOCK, SECTORS, Spectrometer, covariance, cycles, sector};
pub use weighted::quantile;

/// A print as a picture: display values in 16 bits, interleaved.
pub fn source_of_16_bit(width: u32, height: u32, shown: &[u16]) -> Source {
    let value = |i: usize| f64::from(shown[i]) / 65535.0;
    let codes = (0..shown.len()).map(|i| code_of_encoded(value(i))).collect();
    Source::new(width, height, codes).unwrap_or_else(|| Source::from_linear_srgb(1, 1, |_, _| [0.0; 3]))
}
