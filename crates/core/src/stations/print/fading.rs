//! Fading: dyes lost and a base that yellows, over years.
//!
//! In the dark cyan goes first, on the wall magenta and yellow (common practice, no source); the rates are model choices.

use crate::colour::Spectrum;
use crate::stock::FadeMode;

/// Loss of cyan, magenta, yellow per year.
const DARK_PER_YEAR: [f64; 3] = [0.0165, 0.0026, 0.0080];
const LIGHT_PER_YEAR: [f64; 3] = [0.0058, 0.0130, 0.0142];
/// Density of the stain in the end, and how fast it comes.
const STAIN_IN_THE_END: (f64, f64) = (0.20, 0.10);
const STAIN_PER_YEAR: f64 = 0.022;

/// What is left of cyan, magenta, yellow at the reference temperature.
pub fn kept(mode: FadeMode, years: f64) -> [f64; 3] {
    let rates = match mode {
        FadeMode::Dark => DARK_PER_YEAR,
        FadeMode::Light => LIGHT_PER_YEAR,
    };
    rates.map(|k| (-k * years).exp())
}

/// Spectral density that the base has gained.
pub fn stain(mode: FadeMode, years: f64) -> Spectrum {
    let end = match mode {
        FadeMode::Dark => STAIN_IN_THE_END.0,
        FadeMode::Light => STAIN_IN_THE_END.1,
    };
    Spectrum::gaussian(400.0, 55.0) * (end * (1.0 - (-STAIN_PER_YEAR * years).exp()))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Common practice, no source.
    #[test]
    fn cyan_goes_first_in_the_dark_and_last_on_the_wall() {
        let [c, m, y] = kept(FadeMode::Dark, 30.0);
        assert!(c < y && y < m);
        let [c, m, y] = kept(FadeMode::Light, 30.0);
        assert!(c > m && m > y);
    }
}
