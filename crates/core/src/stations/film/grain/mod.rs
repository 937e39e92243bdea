//! Grain: the silver or dye clouds of which density is made.
//!
//! The reference is the inhomogeneous Boolean model (Newson, Delon, Galerne 2017), extended by a grain opacity kappa
//! (overlapping dye clouds through the depth of the emulsion) and by clusters. Its mean and its covariance are
//! reproduced on the pixel lattice: hashed white noise, addressed by (seed, layer, pixel of the full frame at this
//! scale), a small filter that gives it the model's correlation (`kernel`), and a pointwise map from a unit Gaussian
//! field to density that keeps mean transmittance exactly and has the model's spread and skew (`pixel_map`).
//!
//! Lengths are micrometres on the film. Grain is *shown* in Film and *computed* on layer density after the curves.
//! Noise depends on position only, so a region is a crop of the whole, bit for bit.

mod ahead;
pub mod covariance;
pub mod field;
pub mod kernel;
pub mod pixel_map;
pub mod stage;
pub mod unresolved;

pub use covariance::{Emulsion, GrainShape};
pub use stage::GrainStage;
pub use unresolved::UnresolvedGrain;
