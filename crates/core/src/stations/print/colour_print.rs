//! A colour film printed on paper or print film: a negative, or a slide on direct positive paper.
//!
//! The enlarger's lamp shines through the negative's dyes and its mask onto three paper layers; automatic balance sets
//! each layer's exposure so that an exposed 18 % grey prints as the wanted neutral grey, as an ideal subtractive colour
//! head would. Filtration comes after the balance: + yellow takes blue light away, so less yellow dye forms and the
//! print from a negative turns *bluer*.

use super::dye_tracking::DyeTracking;
use super::enlarger::{Enlarger, filter_density};
use super::film_dyes::{FilmDyes, film_dyes};
use super::transparency::{DyeMaterial, DyePicture};
use super::viewing::{DyeStack, ROW, Row};
use crate::colour::Spectrum;
use crate::colour::illuminant::black_body;
use crate::colour::space::SRGB_LUMINANCE;
use crate::numeric::{Sampled, log_exp};
use crate::stations::film::{CharacteristicCurve, FilmResponse};
use crate::stations::years::Losses;
use crate::stock::CurveShape;
use crate::stock::material::{PrintMaterial, dye_set, viewing_light};

/// Range of log10 paper exposures in the curve tables, and their samples.
const TABLE: (f64, f64, usize) = (-5.0, 3.0, 4097);
const SMALLEST_LIGHT: f64 = 1e-12;

/// Silver that a skipped bleach leaves at b = 1, relative to the mean density of the layers above fog.
pub const SKIPPED_SILVER: f64 = 0.6;

/// Shape of a paper that turns slides into prints: its contrast is low, the slide's is high.
const DIRECT_POSITIVE: (f64, f64, f64) = (1.05, 0.22, 0.30);

/// The way from film densities to a colour print.
#[derive(Debug, Clone)]
pub struct ColourPrint {
    negative: DyeStack,
    tracking: DyeTracking,
    curves: [Sampled; 3],
    /// Balance: added to the log10 of each paper layer's light.
    offsets: [f32; 3],
    /// Silver density for each unit of mean density, and the layers' fog.
    silver: f32,
    fog: [f32; 3],
    print: DyePicture,
}

/// The paper's curves, at a contrast of its own; a slide is printed on a direct positive.
fn paper_curves(material: &PrintMaterial, reversal: bool, contrast: f64) -> [CharacteristicCurve; 3] {
    material.curves().map(|shape| {
        let (gamma, toe, shoulder) = if reversal { DIRECT_POSITIVE } else { (shape.gamma, shape.toe, shape.shoulder) };
        let shape = CurveShape { gamma: gamma * contrast, toe, shoulder, ..shape };
        CharacteristicCurve::new(shape, 0.0, reversal)
    })
}

/// What each of a paper's layers takes of the enlarger's lamp, by wavelength; its sum is 1.
pub(super) fn paper_layers(material: &PrintMaterial) -> [Spectrum; 3] {
    let lamp = black_body(material.lamp).times(&Spectrum::edge(405.0, 5.0));
    material.sens.each_ref().map(|peaks| {
        let seen = lamp.times(&Spectrum::peaks(peaks));
        seen * (1.0 / seen.sum())
    })
}

/// The amounts of a film's dyes for the densities of its layers, as a paper's layers measure them.
pub(super) fn amounts_of(base: &Spectrum, dyes: &[Spectrum; 3], layers: &[Spectrum; 3]) -> DyeTracking {
    let light_through =
        |density: &Spectrum| layers.each_ref().map(|layer| layer.dot(&density.transmittance()).max(SMALLEST_LIGHT));
    let through_base = light_through(base);
    DyeTracking::solve(|amounts| {
        let density = *base + dyes[0] * amounts[0] + dyes[1] * amounts[1] + dyes[2] * amounts[2];
        let light = light_through(&density);
        std::array::from_fn(|i| (through_base[i] / light[i]).log10())
    })
}

impl ColourPrint {
    /// A film on a paper; from a slide the paper is a direct positive one.
    pub fn new(film: &FilmResponse, material: &PrintMaterial, enlarger: &Enlarger, losses: &Losses) -> Option<Self> {
        let stock = &film.stock;
        let FilmDyes { dyes: film_dyes, base: film_base, .. } = film_dyes(stock)?;
        let layers = paper_layers(material);
        let tracking = amounts_of(&film_base, &film_dyes, &layers);

        let reversal = stock.kind.is_reversal();
        let paper = paper_curves(material, reversal, enlarger.contrast);
        let material = DyeMaterial {
            dyes: dye_set(&material.dyes)?.each_ref().map(|dye| dye.main() + dye.side()),
            base: Spectrum::peaks(&material.base) + Spectrum::ONE * material.base_flat,
            light: viewing_light(&material.view)?,
            clear: paper.map(|curve| curve.shape.dmin),
        };
        let mut print = Self {
            negative: DyeStack::new(&film_base, &film_dyes, &layers),
            tracking,
            curves: paper.map(|curve| Sampled::new(TABLE.0, TABLE.1, TABLE.2, |x| curve.density(x))),
            offsets: [0.0; 3],
            silver: (SKIPPED_SILVER * stock.skip_bleach) as f32,
            fog: std::array::from_fn(|i| film.curves[i].shape.dmin as f32),
            print: DyePicture::new(&material).seen_after(&material, losses, &Enlarger::neutral()),
        };
        let grey: [f32; 3] = std::array::from_fn(|i| film.curves[i].density(film.grey) as f32);
        let grey_light = print.paper_light(grey);
        print.offsets = std::array::from_fn(|i| {
            let wanted = paper[i].exposure(paper[i].shape.dmin - stock.aim.log10());
            (wanted - grey_light[i] as f64 + stock.dens + enlarger.log_exposure) as f32
        });
        let through = |cc: [f64; 3]| {
            let filter = filter_density(cc).transmittance();
            DyeStack::new(&film_base, &film_dyes, &layers.each_ref().map(|layer| layer.times(&filter)))
        };
        if enlarger.keep_brightness {
            // the brightness that the stock's own filtration gives
            print.negative = through(stock.cc);
            let own = luminance(print.linear_srgb(grey));
            print.negative = through(enlarger.filtration_cc);
            print.brightened_to(grey, own, reversal);
        } else {
            print.negative = through(enlarger.filtration_cc);
        }
        Some(print)
    }

    /// Changes the exposure until `grey` has a luminance.
    fn brightened_to(&mut self, grey: [f32; 3], wanted: f32, reversal: bool) {
        let own = self.offsets;
        let (mut low, mut high) = (-2.0f32, 2.0f32);
        for _ in 0..40 {
            let middle = 0.5 * (low + high);
            self.offsets = own.map(|o| o + middle);
            // more exposure makes a print from a negative darker, from a slide lighter
            let too_dark = luminance(self.linear_srgb(grey)) < wanted;
            if too_dark == reversal { low = middle } else { high = middle }
        }
    }

    /// log10 of the light on each paper layer, before balance.
    fn paper_light(&self, densities: [f32; 3]) -> [f32; 3] {
        let light = self.negative.integrate(self.tracking.amounts(densities));
        let above = (densities[0] - self.fog[0]) + (densities[1] - self.fog[1]) + (densities[2] - self.fog[2]);
        let silver = self.silver * above * (1.0 / 3.0);
        light.map(|l| log_exp::log10(l.max(SMALLEST_LIGHT as f32)) - silver)
    }

    /// Linear sRGB of the print, unbounded, for densities of the film's layers.
    pub fn linear_srgb(&self, densities: [f32; 3]) -> [f32; 3] {
        let light = self.paper_light(densities);
        let mut paper = [0.0; 3];
        for i in 0..3 {
            paper[i] = self.curves[i].at(light[i] + self.offsets[i]);
        }
        self.print.linear_srgb(paper)
    }

    /// [`ColourPrint::linear_srgb`] of a row.
    pub fn linear_srgb_row(&self, row: &mut [Row; 3]) {
        let mut silver = [0.0f32; ROW];
        for (i, silver) in silver.iter_mut().enumerate() {
            let above = (row[0][i] - self.fog[0]) + (row[1][i] - self.fog[1]) + (row[2][i] - self.fog[2]);
            *silver = self.silver * above * (1.0 / 3.0);
        }
        self.tracking.amounts_row(row);
        self.negative.integrate_row(row);
        for ((row, curve), offset) in row.iter_mut().zip(&self.curves).zip(self.offsets) {
            for (v, silver) in row.iter_mut().zip(&silver) {
                *v = log_exp::log10(v.max(SMALLEST_LIGHT as f32)) - silver + offset;
            }
            curve.map(row);
        }
        self.print.linear_srgb_row(row);
    }
}

fn luminance(rgb: [f32; 3]) -> f32 {
    let w = SRGB_LUMINANCE.map(|v| v as f32);
    w[0] * rgb[0] + w[1] * rgb[1] + w[2] * rgb[2]
}
