//! What a surface that is not flat does to the light that falls on it: lighter where it faces the light, darker where
//! it turns away. As a picture it is half grey where it is flat.

use crate::stations::surface::matter::{Colours, Matter, Neutral, Stuff};
use crate::stations::surface::placing::Window;

/// Encoded value, away from half grey, of a density of 1: about, near mid grey.
const PER_DENSITY: f32 = 0.52;

/// A relief of a window: `density` is how much darker than flat, once for every pixel.
pub fn shaded(density: Vec<f32>) -> Matter {
    let grey: Vec<f32> = density.iter().map(|d| (0.5 - PER_DENSITY * d).clamp(0.0, 1.0)).collect();
    let cover = vec![1.0; grey.len()];
    Stuff::Paint { rgb: Colours::Grey(grey), cover, neutral: Neutral::Grey }.into()
}

/// How much of a structure of a length is seen in pixels of a size: its mean is flat.
pub fn seen(window: &Window, length_um: f32) -> f32 {
    ((1.6 * length_um / window.pixel_um()) - 0.6).clamp(0.0, 1.0)
}
