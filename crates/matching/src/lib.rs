//! A stock tuned to a picture: what a picture shows is measured, and values are proposed that bring a frame there.
//!
//! Every proposal is a list of ordinary control values. Nothing is learned from anybody's photographs: what is measured
//! is compared with what the model itself renders. No I/O, no interface, no clock; the renderer is handed in.

#![warn(missing_docs)]

pub mod chart;
pub mod colour;
mod error;
pub mod grain;
pub mod numeric;
pub mod reference;
pub mod seat;

pub use error::MatchError;
