//! Seating: what a careful printer would do for a picture on a chosen stock.
//!
//! Exposure and balance come from metering, or from a marked grey. The paper's contrast follows the range of the
//! picture, the print's exposure puts a marked or found tone on its zone, filtration makes a marked grey neutral on
//! this very paper. Then the ends are looked at: where more of the print has become solid black or bare paper than
//! may, the contrast is taken back, and in the end the light. Grain and halation are scaled to the print's size and the
//! distance from which it is seen.

mod printed;
mod seated;
mod size;
mod skin;

pub use printed::Reading;
pub use seated::{Asked, Mark, MarkOf, Seating, seat};
pub use size::{PrintSize, Seen};
pub use skin::skin_in;
