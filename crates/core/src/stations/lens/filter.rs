//! Filters in front of the lens, as transmission spectra.
//!
//! They stand before the film and change what its layers see (`film/layer_matrix`); metered through the lens, they
//! change colour and tone, not the exposure as a whole. Warming and cooling shift the light by reciprocal megakelvin:
//! the ratio of two black bodies. The coloured ones are edges and a peak; their shapes are model choices.

use super::settings::{COLOUR, DENSITY, MIRED};
use crate::colour::illuminant::black_body;
use crate::colour::spectrum::Spectrum;
use crate::controls::Values;

/// The light for which a mired shift is stated.
const DAYLIGHT_KELVIN: f64 = 5500.0;

/// What stands in front of the lens.
#[derive(Debug, Clone, PartialEq)]
pub struct LensFilter {
    /// Shift of the light in mired, positive warms.
    pub mired: f64,
    /// `none` or the id of a coloured filter.
    pub colour: String,
    /// Density of the coloured filter relative to its own: 1 is the filter as it is sold.
    pub density: f64,
}

impl LensFilter {
    /// No filter.
    pub fn none() -> Self {
        Self { mired: 0.0, colour: "none".into(), density: 1.0 }
    }

    /// As a development has it.
    pub fn read(values: &Values) -> Self {
        Self {
            mired: values.number(&MIRED),
            colour: values.value(&COLOUR).choice().unwrap_or("none").into(),
            density: values.number(&DENSITY),
        }
    }

    /// Transmittance by wavelength, at most 1.
    pub fn transmittance(&self) -> Spectrum {
        let coloured = match self.colour.as_str() {
            "yellow" => above(0.010, 0.91, 488.0, 8.0),
            "orange" => above(0.005, 0.915, 548.0, 8.0),
            "red" => above(0.002, 0.918, 598.0, 7.0),
            "green" => Spectrum::ONE * 0.02 + Spectrum::gaussian(532.0, 38.0) * 0.68,
            "blue" => Spectrum::ONE * 0.01 + Spectrum::gaussian(430.0, 34.0) * 0.72,
            _ => Spectrum::ONE,
        };
        // density is proportional to thickness (Beer, Lambert)
        let thick = coloured.map(|t| t.powf(self.density));
        if self.mired == 0.0 { thick } else { shifted(self.mired).times(&thick) }
    }
}

fn above(floor: f64, rise: f64, from_nm: f64, width_nm: f64) -> Spectrum {
    Spectrum::ONE * floor + Spectrum::edge(from_nm, width_nm) * rise
}

fn shifted(mired: f64) -> Spectrum {
    let daylight = black_body(DAYLIGHT_KELVIN);
    let wanted = black_body(1e6 / (1e6 / DAYLIGHT_KELVIN + mired));
    let ratio = Spectrum(std::array::from_fn(|i| wanted.0[i] / daylight.0[i]));
    let most = ratio.0.iter().copied().fold(0.0, f64::max);
    ratio * (1.0 / most)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn none_lets_all_through_and_density_multiplies() {
        assert_eq!(LensFilter::none().transmittance(), Spectrum::ONE);
        let of = |density: f64| LensFilter { colour: "red".into(), density, ..LensFilter::none() }.transmittance();
        for (one, two) in of(1.0).0.iter().zip(of(2.0).0) {
            assert!((one * one - two).abs() < 1e-12 && *one <= 1.0);
        }
        assert_eq!(of(0.0), Spectrum::ONE);
    }

    /// Handbook values (common practice): 5500 K seen through +112 mired is light of 3400 K.
    #[test]
    fn a_warming_filter_of_112_mired_makes_3400_kelvin() {
        let filter = LensFilter { mired: 112.0, ..LensFilter::none() }.transmittance();
        let through = black_body(5500.0).times(&filter);
        let kelvin: f64 = 1e6 / (1e6 / 5500.0 + 112.0);
        let wanted = black_body(kelvin);
        assert!((kelvin - 3400.0).abs() < 10.0);
        let scale = wanted.0[18] / through.0[18];
        for (a, b) in through.0.iter().zip(wanted.0) {
            assert!((a * scale / b - 1.0).abs() < 1e-9);
        }
    }
}
