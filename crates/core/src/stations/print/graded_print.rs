//! A black-and-white negative on graded paper.
//!
//! A grade is a log exposure range (ISO 6846: from 0.04 above paper white to 90 % of the net maximum density, times
//! 100). The curve's form is invariant under scaling of the exposure axis, so one constant, found once per paper, makes
//! every grade exact. Grades 0..5 as common practice: 155, 128, 105, 88, 73, 58.

use crate::colour::Spectrum;
use crate::colour::space::{SRGB_TO_WIDE, WIDE_TO_SRGB};
use crate::colour::spectrum::TABLES;
use crate::numeric::Sampled;
use crate::stations::film::{CharacteristicCurve, FilmResponse};
use crate::stations::tone::Toning;
use crate::stations::years::Losses;
use crate::stock::material::GradedPaper;
use crate::stock::{CurveShape, Process, Stock};

use super::viewing::Viewer;

/// ISO range of grades 0..5.
pub const GRADE_RANGES: [f64; 6] = [155.0, 128.0, 105.0, 88.0, 73.0, 58.0];
/// Widths of toe and shoulder as shares of the range.
const TOE: f64 = 0.13;
const SHOULDER: f64 = 0.14;
/// Callier factor: 1 for a diffuse enlarger.
const CALLIER_Q: f64 = 1.0;
/// Least light of a channel.
const LEAST_LIGHT: f64 = 1e-6;
/// Range of visual densities in the table of colours, and its samples.
const DENSITIES: (f64, f64, usize) = (0.0, 4.2, 719);

/// ISO range of a grade; grades between the whole ones are interpolated.
pub fn range_of_grade(grade: f64) -> f64 {
    let grade = grade.clamp(0.0, 5.0);
    let below = (grade.floor() as usize).min(4);
    let (a, b) = (GRADE_RANGES[below], GRADE_RANGES[below + 1]);
    a + (b - a) * (grade - below as f64)
}

/// ISO range of a paper curve, as ISO 6846 measures it.
pub fn iso_range(curve: &CharacteristicCurve) -> f64 {
    let net = curve.shape.dmax - curve.shape.dmin;
    100.0 * (curve.exposure(curve.shape.dmin + 0.90 * net) - curve.exposure(curve.shape.dmin + 0.04)).abs()
}

/// The paper's curve at a grade.
pub fn paper_curve(paper: &GradedPaper, grade: f64) -> CharacteristicCurve {
    let shaped = |r: f64, k: f64| {
        let gamma = k * paper.dmax / r;
        let shape = CurveShape {
            dmin: 0.0,
            gamma,
            toe: TOE * r,
            shoulder: SHOULDER * r,
            dmax: paper.dmax,
            shift: 0.0,
            push_skew: 0.0,
        };
        CharacteristicCurve::new(shape, 0.0, false)
    };
    // the slope factor for which a range of 1 comes out as 1; the range falls as the factor grows
    let (mut low, mut high) = (0.5, 4.0);
    for _ in 0..60 {
        let k = 0.5 * (low + high);
        if iso_range(&shaped(1.0, k)) > 100.0 { low = k } else { high = k }
    }
    shaped(range_of_grade(grade) / 100.0, 0.5 * (low + high))
}

/// The way from a film's density to a silver picture.
#[derive(Debug, Clone)]
pub struct SilverPicture {
    way: Way,
    colours: [Sampled; 3],
}

#[derive(Debug, Clone)]
enum Way {
    /// Exposed through the negative onto paper.
    Printed { curve: CharacteristicCurve, offset: f64 },
    /// The picture itself, less its fog.
    Direct { fog: f64 },
}

/// What a picture of silver is made of, and what became of it.
#[derive(Debug, Clone)]
pub struct SilverMaterial {
    /// Spectral density of the base.
    base: Spectrum,
    /// Spectral density of one unit of silver, or of a process's own image.
    image: Spectrum,
    toning: Option<Toning>,
    /// What is left of the image.
    kept: f64,
    /// Spectral density that age gave to the base.
    stain: Spectrum,
}

impl SilverMaterial {
    /// Silver on a paper.
    pub fn silver(paper: &GradedPaper, toning: Option<Toning>, losses: &Losses) -> Self {
        Self {
            base: Spectrum::peaks(&paper.base) + Spectrum::ONE * paper.flat,
            image: paper.image.unit_density(),
            toning,
            kept: losses.silver,
            stain: losses.stain_density(),
        }
    }

    /// A historic process on its own paper; `pigment` where it was chosen.
    pub fn process(
        stock: &Stock,
        process: &Process,
        pigment: Option<[u8; 3]>,
        toning: Option<Toning>,
        losses: &Losses,
    ) -> Self {
        Self {
            base: Spectrum::peaks(&stock.base) + Spectrum::ONE * stock.base_flat,
            image: pigment.map_or_else(|| process.image.unit_density(), crate::stock::process::pigment_density),
            toning,
            kept: losses.image,
            stain: losses.stain_density() * process.yellowing,
        }
    }

    fn density(&self, silver: f64) -> Spectrum {
        let image = match &self.toning {
            None => self.image * silver,
            Some(toning) => toning.density(silver, &self.image),
        };
        self.base + self.stain + image * self.kept
    }

    /// Density of each channel of the working space over visual density; the fresh paper white's largest sRGB channel
    /// is 1.
    fn colours(&self) -> [Sampled; 3] {
        let viewer = Viewer::under(&TABLES.d50);
        let white = viewer.see(&self.base.transmittance()).into_iter().fold(0.0, f64::max);
        // in the working space even iron blue has no negative light
        let seen = |d: f64| SRGB_TO_WIDE.apply(viewer.see(&self.density(d).transmittance()));
        // kept as density of the channel: straight lines between samples
        let density = |k: usize, d: f64| -(seen(d)[k] / white).max(LEAST_LIGHT).log10();
        std::array::from_fn(|k| Sampled::new(DENSITIES.0, DENSITIES.1, DENSITIES.2, |d| density(k, d)))
    }
}

impl SilverPicture {
    /// A negative on paper, `log_exposure` added to the print's.
    pub fn print(
        film: &FilmResponse,
        paper: &GradedPaper,
        material: &SilverMaterial,
        grade: f64,
        log_exposure: f64,
    ) -> Self {
        Self::through(film, paper_curve(paper, grade), material, log_exposure)
    }

    /// A negative printed in contact by a historic process; `black` is the wanted density of black, `contrast` is
    /// relative to the process's own.
    pub fn contact(
        film: &FilmResponse,
        process: &Process,
        black: Option<f64>,
        contrast: f64,
        material: &SilverMaterial,
        log_exposure: f64,
    ) -> Self {
        let own = process.curve;
        let shape = CurveShape { dmax: black.unwrap_or(own.dmax), gamma: own.gamma * contrast, ..own };
        Self::through(film, CharacteristicCurve::new(shape, 0.0, false), material, log_exposure)
    }

    fn through(film: &FilmResponse, curve: CharacteristicCurve, material: &SilverMaterial, log_exposure: f64) -> Self {
        let stock = &film.stock;
        let offset = curve.exposure(-stock.aim.log10()) + CALLIER_Q * film.curves[0].density(film.grey);
        let offset = offset + stock.dens + log_exposure;
        Self { way: Way::Printed { curve, offset }, colours: material.colours() }
    }

    /// An instant print: density above fog is the silver that is seen.
    pub fn instant(film: &FilmResponse, material: &SilverMaterial) -> Self {
        Self { way: Way::Direct { fog: film.curves[0].shape.dmin }, colours: material.colours() }
    }

    /// Visual density of the picture for a density of the film.
    pub fn density(&self, film: f64) -> f64 {
        match &self.way {
            Way::Printed { curve, offset } => curve.density(offset - CALLIER_Q * film),
            Way::Direct { fog } => film - fog,
        }
    }

    /// Linear sRGB of the picture, unbounded.
    pub fn linear_srgb(&self, film: f64) -> [f64; 3] {
        let d = self.density(film) as f32;
        WIDE_TO_SRGB.apply(std::array::from_fn(|k| 10f64.powf(-self.colours[k].at(d) as f64)))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::material::graded_paper;

    /// ISO 6846 (definition from memory); grades as common practice.
    #[test]
    fn grades_have_their_iso_range() {
        for name in ["glossy-neutral", "glossy-warm", "matt-warm"] {
            let paper = graded_paper(name).unwrap();
            for (grade, range) in GRADE_RANGES.iter().enumerate() {
                let measured = iso_range(&paper_curve(paper, grade as f64));
                assert!((measured - range).abs() < 0.1, "{name} {grade}: {measured}");
            }
        }
        assert!((range_of_grade(2.5) - 96.5).abs() < 1e-12);
    }

    /// The form's greatest slopes at dmax 2.15, as the model states them.
    #[test]
    fn harder_grades_are_steeper() {
        let paper = graded_paper("glossy-neutral").unwrap();
        for (grade, slope) in [1.85, 2.24, 2.73, 3.26, 3.93, 4.94].into_iter().enumerate() {
            let measured = paper_curve(paper, grade as f64).greatest_slope();
            assert!((measured / slope - 1.0).abs() < 0.01, "{grade}: {measured}");
        }
    }
}
