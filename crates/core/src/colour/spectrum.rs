//! Spectra on the grid 380..730 nm in steps of 10, and the tables that ship with the application.
//!
//! The tables (`data/spectra.json`): CIE 1931 2-degree observer and the daylight components S0, S1, S2 (CIE 15),
//! D50, D55, D65, and the three basis spectra of Mallett and Yuksel (2019) renormalised to sum to one.

use std::ops::{Add, Mul};
use std::sync::LazyLock;

use serde::Deserialize;

/// Number of samples of a spectrum.
pub const SAMPLES: usize = 36;

/// One value per wavelength: relative power, sensitivity, transmittance or density.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spectrum(pub [f64; SAMPLES]);

/// A weighted Gaussian: peak in nm, standard deviation in nm, weight.
pub type Peak = [f64; 3];

/// Wavelength of a sample in nm.
pub fn wavelength_nm(sample: usize) -> f64 {
    380.0 + 10.0 * sample as f64
}

impl Spectrum {
    /// Nothing at any wavelength.
    pub const ZERO: Self = Self([0.0; SAMPLES]);
    /// The same at every wavelength.
    pub const ONE: Self = Self([1.0; SAMPLES]);

    /// Samples a function of the wavelength in nm.
    pub fn from_fn(f: impl Fn(f64) -> f64) -> Self {
        Self(std::array::from_fn(|i| f(wavelength_nm(i))))
    }

    /// exp(-((l - peak)/sigma)^2 / 2)
    pub fn gaussian(peak_nm: f64, sigma_nm: f64) -> Self {
        Self::from_fn(|l| (-0.5 * ((l - peak_nm) / sigma_nm).powi(2)).exp())
    }

    /// 1/(1 + exp(-(l - centre)/width)): rises to long wavelengths for a positive width.
    pub fn edge(centre_nm: f64, width_nm: f64) -> Self {
        Self::from_fn(|l| 1.0 / (1.0 + (-(l - centre_nm) / width_nm).exp()))
    }

    /// The sum of peaks.
    pub fn peaks(list: &[Peak]) -> Self {
        list.iter().fold(Self::ZERO, |sum, p| sum + Self::gaussian(p[0], p[1]) * p[2])
    }

    /// The sum over all samples.
    pub fn sum(&self) -> f64 {
        self.0.iter().sum()
    }

    /// Sample by sample product.
    pub fn times(&self, other: &Self) -> Self {
        Self(std::array::from_fn(|i| self.0[i] * other.0[i]))
    }

    /// Each sample changed.
    pub fn map(&self, f: impl Fn(f64) -> f64) -> Self {
        Self(self.0.map(f))
    }

    /// 10^-D of a spectral density.
    pub fn transmittance(&self) -> Self {
        self.map(|d| 10f64.powf(-d))
    }

    /// Sum of the products: an unnormalised integral over wavelength.
    pub fn dot(&self, other: &Self) -> f64 {
        self.0.iter().zip(&other.0).map(|(a, b)| a * b).sum()
    }
}

impl Add for Spectrum {
    type Output = Self;
    fn add(self, other: Self) -> Self {
        Self(std::array::from_fn(|i| self.0[i] + other.0[i]))
    }
}

impl Mul<f64> for Spectrum {
    type Output = Self;
    fn mul(self, factor: f64) -> Self {
        self.map(|v| v * factor)
    }
}

/// The published tables.
#[derive(Debug)]
pub struct Tables {
    /// CIE 1931 2-degree colour matching functions x, y, z.
    pub observer: [Spectrum; 3],
    /// Reflectance basis of red, green, blue (Mallett and Yuksel 2019).
    pub uplift: [Spectrum; 3],
    /// Daylight of 5003 K.
    pub d50: Spectrum,
    /// Daylight of 5503 K.
    pub d55: Spectrum,
    /// Daylight of 6504 K.
    pub d65: Spectrum,
    /// Daylight components S0, S1, S2.
    pub daylight: [Spectrum; 3],
    /// Daylight at 5500 K as tabulated, to test the locus against.
    pub d5500: Spectrum,
}

#[derive(Deserialize)]
struct RawTables {
    cie1931_xyz: Vec<[f64; 3]>,
    mallett_basis_rgb: Vec<[f64; 3]>,
    #[serde(rename = "D50")]
    d50: Vec<f64>,
    #[serde(rename = "D55")]
    d55: Vec<f64>,
    #[serde(rename = "D65")]
    d65: Vec<f64>,
    #[serde(rename = "D5500_locus")]
    d5500: Vec<f64>,
    #[serde(rename = "daylight_S0_S1_S2")]
    daylight: Vec<[f64; 3]>,
}

/// Three spectra scaled so that they sum to one at every wavelength.
fn normalised(spectra: [Spectrum; 3]) -> [Spectrum; 3] {
    let sum = spectra[0] + spectra[1] + spectra[2];
    spectra.map(|s| Spectrum(std::array::from_fn(|i| s.0[i] / sum.0[i])))
}

/// The tables, read once from the data that is compiled in.
pub static TABLES: LazyLock<Tables> = LazyLock::new(|| {
    let raw: RawTables = serde_json::from_str(include_str!("../../data/spectra.json"))
        .expect("the built-in spectral tables are valid, as their test shows");
    let line = |v: &[f64]| Spectrum(std::array::from_fn(|i| v[i]));
    let three = |v: &[[f64; 3]]| std::array::from_fn(|k| Spectrum(std::array::from_fn(|i| v[i][k])));
    Tables {
        observer: three(&raw.cie1931_xyz),
        // tabulated to nine digits: renormalised, so that a neutral stays one to the last bit
        uplift: normalised(three(&raw.mallett_basis_rgb)),
        d50: line(&raw.d50),
        d55: line(&raw.d55),
        d65: line(&raw.d65),
        daylight: three(&raw.daylight),
        d5500: line(&raw.d5500),
    }
});

#[cfg(test)]
mod tests {
    use super::*;
    use crate::colour::space::XYZ_TO_SRGB;

    /// Mallett and Yuksel 2019: the three basis spectra sum to one at every wavelength.
    #[test]
    fn uplift_sums_to_one() {
        for i in 0..SAMPLES {
            let sum: f64 = TABLES.uplift.iter().map(|b| b.0[i]).sum();
            assert!((sum - 1.0).abs() < 1e-12, "{} nm: {sum}", wavelength_nm(i));
        }
    }

    /// Mallett and Yuksel 2019: a primary's spectrum, integrated under D65, comes back as that primary.
    #[test]
    fn uplift_round_trip() {
        let white = TABLES.d65.dot(&TABLES.observer[1]);
        for (j, basis) in TABLES.uplift.iter().enumerate() {
            let lit = TABLES.d65.times(basis);
            let xyz = std::array::from_fn(|k| lit.dot(&TABLES.observer[k]) / white);
            for (i, v) in XYZ_TO_SRGB.apply(xyz).into_iter().enumerate() {
                assert!((v - f64::from(i == j)).abs() < 0.01, "{i} {j} {v}");
            }
        }
    }
}
