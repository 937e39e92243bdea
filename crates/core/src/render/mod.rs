//! The renderer: from a source and a development to any rectangle of any quantity.
//!
//! A region is a crop of the whole, bit for bit, whatever the tiling or the number of threads: a stage is pointwise, or
//! addresses its randomness by the place on the film, or reads a plane made once for the whole frame, or is given its
//! region with as many pixels around as it reaches. Work is cut into tiles anchored at the frame's
//! corner; between tiles a newer request can abandon an older one. Stages and developed tiles are cached by the hash of
//! everything that they depend on, so moving a late control recomputes only from there.

mod alone;
mod bands;
mod beforehand;
mod exposing;
mod finish;
mod mounted;
mod plan;
mod renderer;
mod scaled;
mod tables;

pub use crate::memory::Memory;
pub use alone::Alone;
pub use finish::Finish;
pub use mounted::Code;
pub use plan::{GrainShown, RenderRequest};
pub use renderer::{Renderer, Watch};
pub use scaled::Scaled;
