//! Wet plates: silver on a dark ground, seen by its cover.
//!
//! Silver of density D covers 1 - 10^(-k (D - dmin)) of the plate; silver and ground reflect each with its own tint.
//! There is no white: the lightest is silver. A varnish that yellows with age lies over both.

use super::viewing::Viewer;
use crate::colour::Spectrum;
use crate::colour::spectrum::TABLES;
use crate::stations::film::FilmResponse;
use crate::stations::years::Losses;
use crate::stock::Plate;

/// Reflectance that a varnish gains for a density of 1 that it yellowed.
const CLOUD: f64 = 0.03;

/// A plate as it is seen.
#[derive(Debug, Clone)]
pub struct PlatePicture {
    k: f64,
    fog: f64,
    /// Linear sRGB of the bare plate and of silver.
    plate: [f64; 3],
    silver: [f64; 3],
}

impl PlatePicture {
    /// A developed plate after its years.
    pub fn new(film: &FilmResponse, plate: &Plate, losses: &Losses) -> Self {
        let viewer = Viewer::under(&TABLES.d50);
        let seen = |reflectance: f64, tint: &[[f64; 3]]| {
            let density = Spectrum::peaks(tint) + losses.stain_density();
            viewer.see(&(density.transmittance() * (reflectance * plate.gain)))
        };
        // varnish clouds as it yellows
        let clouded = plate.r_plate + CLOUD * losses.stain;
        let bare = seen(clouded, &plate.plate_tint);
        let silver = seen(plate.r_silver, &plate.silver_tint);
        // lost silver lets the plate through
        let kept: [f64; 3] = std::array::from_fn(|i| bare[i] + losses.silver * (silver[i] - bare[i]));
        Self { k: plate.k, fog: film.curves[0].shape.dmin, plate: bare, silver: kept }
    }

    /// Linear sRGB for a density of silver.
    pub fn linear_srgb(&self, density: f64) -> [f64; 3] {
        let cover = 1.0 - 10f64.powf(-self.k * (density - self.fog).max(0.0));
        std::array::from_fn(|i| self.plate[i] + cover * (self.silver[i] - self.plate[i]))
    }
}
