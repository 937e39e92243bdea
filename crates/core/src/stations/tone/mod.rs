//! Tone: what the picture's colour is made of, and colours given to its tones.
//!
//! Baths (`toners`) convert the silver of a print into substances with their own spectra; they act inside the way from
//! density to reflectance. Two-tone and four-tone give colours to places of the tone scale (`ramp`), the wash lies over
//! everything (`wash`): these act on the finished print, point by point. The coating of hand-coated processes
//! (`coating`) has an edge and is uneven. Each can be limited by a mask.

pub mod coating;
pub mod ramp;
pub mod settings;
pub mod toners;
pub mod wash;

pub use ramp::ToneRamp;
pub use settings::ToneSettings;
pub use toners::Toning;
