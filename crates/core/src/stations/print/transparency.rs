//! A slide on the light table or in the projector: seen through its own dyes.

use super::dye_tracking::DyeTracking;
use super::viewing::{DyeStack, Viewer};
use crate::colour::Spectrum;
use crate::colour::spectrum::Peak;
use crate::stock::material::{DyeSet, dye_set, viewing_light};
use crate::stock::{CurveShape, Stock};

/// A dye picture on a base, seen in a viewing light: slides and colour prints alike.
#[derive(Debug, Clone)]
pub struct DyePicture {
    stack: DyeStack,
    tracking: DyeTracking,
    scale: f32,
}

impl DyePicture {
    /// `clear` are the densities of the three layers where nothing was formed: the brightest white, shown as 1.
    pub fn new(dyes: &DyeSet, base: &[Peak], base_flat: f64, light: &Spectrum, clear: [f64; 3]) -> Self {
        let viewer = Viewer::under(light);
        let spectra = dyes.each_ref().map(|dye| dye.main() + dye.side());
        let tracking = DyeTracking::solve(|c| {
            let density = spectra[0] * c[0] + spectra[1] * c[1] + spectra[2] * c[2];
            viewer.see(&density.transmittance()).map(|v| -v.max(1e-12).log10())
        });
        let base = Spectrum::peaks(base) + Spectrum::ONE * base_flat;
        let stack = DyeStack::viewed(&base, &spectra, &viewer);
        let mut picture = Self { stack, tracking, scale: 1.0 };
        let white = picture.linear_srgb(clear.map(|d| d as f32));
        picture.scale = 1.0 / white[0].max(white[1]).max(white[2]);
        picture
    }

    /// The slide of a reversal stock; `curves` are its developed layers.
    pub fn of_slide(stock: &Stock, curves: [CurveShape; 3]) -> Option<Self> {
        let dyes = dye_set(stock.dyes.as_deref()?)?;
        let light = viewing_light(stock.view.as_deref()?)?;
        Some(Self::new(dyes, &stock.base, stock.base_flat, &light, curves.map(|c| c.dmin)))
    }

    /// Linear sRGB, unbounded, for equivalent neutral densities of the layers.
    pub fn linear_srgb(&self, densities: [f32; 3]) -> [f32; 3] {
        self.stack.integrate(self.tracking.amounts(densities)).map(|v| v * self.scale)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::material::print_material;

    /// Equal densities without a base are neutral: R = G = B = 10^-D, at the nodes of the tracking table.
    #[test]
    fn equal_densities_are_neutral() {
        for name in ["paper", "rev-rich"] {
            let light = viewing_light("D50").unwrap();
            let picture = DyePicture::new(dye_set(name).unwrap(), &[], 0.0, &light, [0.0; 3]);
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
        let light = viewing_light(&material.view).unwrap();
        let picture = DyePicture::new(dye_set(&material.dyes).unwrap(), &[], 0.0, &light, [0.0; 3]);
        for (d, expected) in [(1.0, [1.1953, 0.8278, 0.9049]), (2.0, [2.4212, 1.6571, 1.8395])] {
            for (a, b) in picture.tracking.amounts([d; 3]).iter().zip(expected) {
                assert!((a - b).abs() < 2e-4, "{d}: {a} {b}");
            }
        }
    }
}
