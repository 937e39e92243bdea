//! A slide on the light table or in the projector: seen through its own dyes.

use super::dye_tracking::DyeTracking;
use super::enlarger::Enlarger;
use super::film_dyes::film_dyes;
use super::viewing::{DyeStack, Row, Viewer};
use crate::colour::Spectrum;
use crate::stations::film::FilmResponse;
use crate::stations::years::Losses;
use crate::stock::material::{viewing_light, visual_density};

/// A dye picture on a base, seen in a viewing light: slides, instant prints and colour prints alike.
#[derive(Debug, Clone)]
pub struct DyePicture {
    stack: DyeStack,
    tracking: DyeTracking,
    /// What is left of each dye.
    kept: [f32; 3],
    scale: [f32; 3],
}

/// What a dye picture is made of.
#[derive(Debug, Clone)]
pub struct DyeMaterial {
    /// Spectral density of each dye at unit amount.
    pub dyes: [Spectrum; 3],
    /// Spectral density of the clear base.
    pub base: Spectrum,
    /// The light behind it.
    pub light: Spectrum,
    /// Densities of the layers where nothing was formed: the brightest white, shown as 1.
    pub clear: [f64; 3],
}

impl DyePicture {
    /// Seen by the standard observer.
    pub fn new(material: &DyeMaterial) -> Self {
        let viewer = Viewer::under(&material.light);
        let spectra = &material.dyes;
        let tracking = DyeTracking::solve(|c| {
            let density = spectra[0] * c[0] + spectra[1] * c[1] + spectra[2] * c[2];
            viewer.see(&density.transmittance()).map(|v| -v.max(1e-12).log10())
        });
        let stack = DyeStack::viewed(&material.base, spectra, &viewer);
        let mut picture = Self { stack, tracking, kept: [1.0; 3], scale: [1.0; 3] };
        let white = picture.linear_srgb(material.clear.map(|d| d as f32));
        picture.scale = [1.0 / white[0].max(white[1]).max(white[2]); 3];
        picture
    }

    /// The picture after years (dyes are lost, the base yellows), looked at through filters and in brighter or dimmer
    /// light. White is not scaled anew.
    pub fn seen_after(self, material: &DyeMaterial, losses: &Losses, light: &Enlarger) -> Self {
        let plain = light.filtration_cc == [0.0; 3] && light.log_exposure == 0.0;
        if losses.is_none() && plain {
            return self;
        }
        let viewer = Viewer::under(&material.light);
        let mut base = material.base + losses.stain_density();
        if !plain {
            let filters = light.filters();
            let taken = if light.keep_brightness { visual_density(&filters) } else { 0.0 };
            base = base + filters + Spectrum::ONE * (-taken - light.log_exposure);
        }
        let stack = DyeStack::viewed(&base, &material.dyes, &viewer);
        Self { stack, kept: losses.dyes.map(|v| v as f32), ..self }
    }

    /// The slide or instant print of a stock, its layers as developed; the enlarger's settings are those of the light
    /// table.
    pub fn of_slide(film: &FilmResponse, losses: &Losses, light_table: &Enlarger) -> Option<Self> {
        let stock = &film.stock;
        let negative = film_dyes(stock)?;
        let material = DyeMaterial {
            dyes: negative.dyes,
            base: negative.base,
            light: viewing_light(stock.view.as_deref()?)?,
            clear: std::array::from_fn(|i| film.curves[i].shape.dmin),
        };
        let mut picture = Self::new(&material);
        if let Some(adaptation) = &stock.viewer {
            // the eye takes the colour of the clear film partly away; what is then brightest is shown a little brighter
            let mask = Viewer::under(&material.light).see(&negative.mask.transmittance());
            for (scale, seen) in picture.scale.iter_mut().zip(mask) {
                *scale *= seen.max(1e-6).powf(-adaptation.share) as f32;
            }
            let white = picture.linear_srgb(material.clear.map(|d| d as f32));
            let gain = adaptation.gain as f32 / white[0].max(white[1]).max(white[2]);
            picture.scale = picture.scale.map(|s| s * gain);
        }
        // the eye's white is that of the fresh picture: years and lamps do not move it
        Some(picture.seen_after(&material, losses, light_table))
    }

    /// Linear sRGB, unbounded, for equivalent neutral densities of the layers.
    pub fn linear_srgb(&self, densities: [f32; 3]) -> [f32; 3] {
        let amounts = self.tracking.amounts(densities);
        let seen = self.stack.integrate(std::array::from_fn(|i| amounts[i] * self.kept[i]));
        std::array::from_fn(|i| seen[i] * self.scale[i])
    }

    /// [`DyePicture::linear_srgb`] of a row.
    pub fn linear_srgb_row(&self, row: &mut [Row; 3]) {
        self.tracking.amounts_row(row);
        for (row, kept) in row.iter_mut().zip(self.kept) {
            row.iter_mut().for_each(|v| *v *= kept);
        }
        self.stack.integrate_row(row);
        for (row, scale) in row.iter_mut().zip(self.scale) {
            row.iter_mut().for_each(|v| *v *= scale);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::material::{dye_set, print_material};

    fn plain(dyes: &str, view: &str) -> DyePicture {
        let dyes = dye_set(dyes).unwrap().each_ref().map(|dye| dye.main() + dye.side());
        let light = viewing_light(view).unwrap();
        DyePicture::new(&DyeMaterial { dyes, base: Spectrum::ZERO, light, clear: [0.0; 3] })
    }

    /// Equal densities without a base are neutral: R = G = B = 10^-D, at the nodes of the tracking table.
    #[test]
    fn equal_densities_are_neutral() {
        for name in ["paper", "rev-rich"] {
            let picture = plain(name, "D50");
            for level in 0..=34 {
                let d = 0.1 * level as f32;
                let expected = 10f32.powf(-d);
                for v in picture.linear_srgb([d; 3]) {
                    assert!((v / expected - 1.0).abs() < 2e-5, "{name} {d}: {v} {expected}");
                }
            }
        }
    }

    /// The model's own example: gloss-paper, END 1 and 2, dye amounts.
    #[test]
    fn dyes_do_not_track_by_scaling() {
        let material = print_material("gloss-paper").unwrap();
        let picture = plain(&material.dyes, &material.view);
        for (d, expected) in [(1.0, [1.1953, 0.8278, 0.9049]), (2.0, [2.4212, 1.6571, 1.8395])] {
            for (a, b) in picture.tracking.amounts([d; 3]).iter().zip(expected) {
                assert!((a - b).abs() < 2e-4, "{d}: {a} {b}");
            }
        }
    }
}
