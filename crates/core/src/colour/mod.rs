//! Colour: transfer functions, spaces, adaptation, spectra, difference formulas.

pub mod adaptation;
pub mod blend;
pub mod difference;
pub mod gamut;
pub mod hue_bands;
pub mod illuminant;
pub mod lab;
pub mod look;
pub mod oklab;
pub mod rooted;
pub mod space;
pub mod spectrum;
pub mod transfer;

pub use spectrum::Spectrum;
