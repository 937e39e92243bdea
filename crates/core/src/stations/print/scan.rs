//! A straight scan: every layer's density read back as log exposure, flat and honest.
//!
//! x_i = (D_i - dmin_i)/gamma_i, mid grey at mid grey, then the camera's rendering back again. No paper, no mask, no
//! taste.

use crate::colour::look::Look;
use crate::colour::transfer::{decode_srgb, encode_srgb_f32};
use crate::stations::film::FilmResponse;
use crate::stations::film::placement::MID_GREY;
use crate::stations::scene::decoding::Decoding;

/// The scanner, set to one film.
#[derive(Debug, Clone)]
pub struct Scan {
    /// Density of grey and signed slope, by layer.
    layers: Vec<(f32, f32)>,
    /// Gain of each channel.
    gain: [f32; 3],
    decoding: Decoding,
    /// Laid on the scan, where the stock was made of one.
    look: Option<Look>,
}

impl Scan {
    /// `log_exposure` brightens; filters C, M, Y in CC take their channel's light, the stock's own taste left out.
    pub fn new(film: &FilmResponse, decoding: Decoding, log_exposure: f64, filtration_cc: [f64; 3]) -> Self {
        let density = |k: usize| 0.01 * (filtration_cc[k] - film.stock.cc[k]);
        let layers = film
            .curves
            .iter()
            .map(|c| {
                let slope = c.greatest_slope() * if c.reversal { -1.0 } else { 1.0 };
                (c.density(film.grey) as f32, slope as f32)
            })
            .collect();
        Self {
            layers,
            gain: std::array::from_fn(|k| 10f64.powf(log_exposure - density(k)) as f32),
            decoding,
            look: film.stock.look.clone(),
        }
    }

    /// Linear sRGB for the densities of the layers.
    pub fn linear_srgb(&self, densities: [f32; 3]) -> [f32; 3] {
        let light = std::array::from_fn(|i| {
            let (grey, slope) = self.layers[i.min(self.layers.len() - 1)];
            self.gain[i] * MID_GREY as f32 * 10f32.powf((densities[i] - grey) / slope)
        });
        let scanned = self.decoding.render(light);
        let Some(look) = &self.look else { return scanned };
        look.apply(scanned.map(encode_srgb_f32)).map(|v| decode_srgb(f64::from(v)) as f32)
    }
}
