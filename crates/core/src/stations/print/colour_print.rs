//! A colour negative printed on paper or print film.
//!
//! The enlarger's lamp shines through the negative's dyes and its mask onto three paper layers; automatic balance sets
//! each layer's exposure so that an exposed 18 % grey prints as the wanted neutral grey, as an ideal subtractive colour
//! head would. Filtration comes after the balance: + yellow takes blue light away, so less yellow dye forms and the
//! print from a negative turns *bluer*.

use super::dye_tracking::DyeTracking;
use super::transparency::DyePicture;
use super::viewing::DyeStack;
use crate::colour::Spectrum;
use crate::colour::illuminant::black_body;
use crate::numeric::{Sampled, log_exp};
use crate::stations::film::CharacteristicCurve;
use crate::stock::Stock;
use crate::stock::material::{dye_set, print_material, viewing_light};

/// Range of log10 paper exposures in the curve tables, and their samples.
const TABLE: (f64, f64, usize) = (-5.0, 3.0, 4097);
const SMALLEST_LIGHT: f64 = 1e-12;

/// Print exposure in log10 units and filtration C, M, Y in CC (1 CC = 0.01 density).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Enlarger {
    pub log_exposure: f64,
    pub filtration_cc: [f64; 3],
}

/// The way from film densities to a colour print.
#[derive(Debug, Clone)]
pub struct ColourPrint {
    negative: DyeStack,
    tracking: DyeTracking,
    curves: [Sampled; 3],
    /// Balance: added to the log10 of each paper layer's light.
    offsets: [f32; 3],
    print: DyePicture,
}

/// Spectral density of a colour head's filters at `cc` = [C, M, Y].
fn filter_density(cc: [f64; 3]) -> Spectrum {
    let (long, middle) = (Spectrum::edge(600.0, 6.0), Spectrum::edge(500.0, 6.0));
    let cyan = long;
    let magenta = middle + long * -1.0;
    let yellow = Spectrum::ONE + middle * -1.0;
    (cyan * cc[0] + magenta * cc[1] + yellow * cc[2]) * 0.01
}

impl ColourPrint {
    /// `film` are the developed layers, `grey` the log10 exposure of an 18 % grey in each of them.
    pub fn new(stock: &Stock, film: &[CharacteristicCurve], grey: f64, enlarger: Enlarger) -> Option<Self> {
        let material = print_material(stock.print.as_deref()?)?;
        let dyes = dye_set(stock.dyes.as_deref()?)?;
        let [c, m, y] = dyes;
        let film_dyes = [c, m, y].map(|dye| dye.main() + dye.side() * (1.0 - stock.mask));
        let mask = [c, m, y]
            .iter()
            .zip(stock.cref)
            .fold(Spectrum::ZERO, |sum, (dye, amount)| sum + dye.side() * (stock.mask * amount));
        let film_base = Spectrum::peaks(&stock.base) + Spectrum::ONE * stock.base_flat + mask;

        let lamp = black_body(material.lamp).times(&Spectrum::edge(405.0, 5.0));
        let layers = material.sens.each_ref().map(|peaks| {
            let seen = lamp.times(&Spectrum::peaks(peaks));
            seen * (1.0 / seen.sum())
        });
        let light_through =
            |density: &Spectrum| layers.each_ref().map(|layer| layer.dot(&density.transmittance()).max(SMALLEST_LIGHT));
        let through_base = light_through(&film_base);
        let tracking = DyeTracking::solve(|amounts| {
            let density = film_base + film_dyes[0] * amounts[0] + film_dyes[1] * amounts[1] + film_dyes[2] * amounts[2];
            let light = light_through(&density);
            std::array::from_fn(|i| (through_base[i] / light[i]).log10())
        });

        let negative = DyeStack::new(&film_base, &film_dyes, &layers);
        let paper = material.curves().map(|shape| CharacteristicCurve::new(shape, 0.0, false));
        let grey_density = std::array::from_fn(|i| film[i].density(grey) as f32);
        let grey_light = negative.integrate(tracking.amounts(grey_density));
        let offsets = std::array::from_fn(|i| {
            let wanted = paper[i].exposure(paper[i].shape.dmin - stock.aim.log10());
            (wanted - (grey_light[i] as f64).log10() + stock.dens + enlarger.log_exposure) as f32
        });
        let filter = filter_density(enlarger.filtration_cc).transmittance();
        let filtered = layers.each_ref().map(|layer| layer.times(&filter));
        Some(Self {
            negative: DyeStack::new(&film_base, &film_dyes, &filtered),
            tracking,
            curves: paper.map(|curve| Sampled::new(TABLE.0, TABLE.1, TABLE.2, |x| curve.density(x))),
            offsets,
            print: DyePicture::new(
                dye_set(&material.dyes)?,
                &material.base,
                material.base_flat,
                &viewing_light(&material.view)?,
                paper.map(|curve| curve.shape.dmin),
            ),
        })
    }

    /// Linear sRGB of the print, unbounded, for densities of the negative's layers.
    pub fn linear_srgb(&self, densities: [f32; 3]) -> [f32; 3] {
        let light = self.negative.integrate(self.tracking.amounts(densities));
        let mut paper = [0.0; 3];
        for i in 0..3 {
            let x = log_exp::log10(light[i].max(SMALLEST_LIGHT as f32)) + self.offsets[i];
            paper[i] = self.curves[i].at(x);
        }
        self.print.linear_srgb(paper)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A filter of 20 CC has a density of 0.20 in its band (CC unit, common practice).
    #[test]
    fn filters_have_their_density() {
        for (cc, nm) in [([20.0, 0.0, 0.0], 680), ([0.0, 20.0, 0.0], 550), ([0.0, 0.0, 20.0], 440)] {
            let density = filter_density(cc).0[(nm - 380) / 10];
            assert!((density - 0.20).abs() < 0.001, "{nm}: {density}");
        }
    }
}
