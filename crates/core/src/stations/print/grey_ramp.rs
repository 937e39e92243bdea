//! The print of a grey scale: what every tone of the picture becomes.

use super::exact::Viewing;
use crate::colour::lab::{self, Lab};
use crate::colour::space::SRGB_LUMINANCE;
use crate::controls::Values;
use crate::error::CoreError;
use crate::stations::film::FilmResponse;

/// Stops from mid grey of the darkest and the lightest tone.
const STOPS: (f64, f64) = (-8.0, 6.0);

/// One tone of the print.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PrintTone {
    /// Linear sRGB, as it is shown.
    pub rgb: [f64; 3],
    /// The print's colour in D50.
    pub lab: Lab,
    /// Visual density: -log10 of the luminance, white 0.
    pub density: f64,
}

/// Neutral tones from dark to light through film and print, without grain.
pub fn grey_ramp(film: &FilmResponse, values: &Values, count: usize) -> Result<Vec<PrintTone>, CoreError> {
    let viewing = Viewing::of(film, values)?;
    let at = |i: usize| {
        let stop = STOPS.0 + (STOPS.1 - STOPS.0) * i as f64 / (count - 1).max(1) as f64;
        let exposure = film.grey + stop * 2f64.log10();
        let density = |k: usize| film.curves[k.min(film.layers() - 1)].density(exposure) as f32;
        let rgb = viewing.shown([density(0), density(1), density(2)]);
        let luminance: f64 = SRGB_LUMINANCE.iter().zip(rgb).map(|(w, v)| w * v).sum();
        PrintTone { rgb, lab: lab::from_linear_srgb(rgb), density: -luminance.max(1e-4).log10() }
    };
    Ok((0..count).map(at).collect())
}
