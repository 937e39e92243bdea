//! The stock and the tuning that bring a frame to a reference.
//!
//! The reference shows another subject, so its tones cannot be laid over the frame's. For every stock the colours of
//! the reference are *undeveloped*: what a camera's picture must have held to give them (`undeveloped`). A stock
//! explains the reference well if all its colours can be printed with it and the undeveloped ones are like those of a
//! camera's picture (`energy`, `natural`), and if its grain would show as much noise as there is (`unexplained_grain`).
//! The best few are looked at closely: a handful of values are moved, each at a cost (`search`), in three ways that
//! become three proposals (`matched`), the surest first (`consensus`). What hangs on the place is measured apart:
//! grain, the glow round lights, falloff (`of_place`).

mod consensus;
pub mod energy;
pub mod falloff;
pub mod lights;
mod matched;
pub mod natural;
mod of_place;
pub mod search;
pub mod undeveloped;
pub mod unexplained_grain;

pub use matched::{Asked, Moved, Proposal, Ranked, ReferenceMatch, match_reference};
pub use search::Way;
