//! The enlarger: light, filters, and how its paper is set.

use crate::colour::Spectrum;

/// How the enlarger and its paper are set.
#[derive(Debug, Clone, PartialEq)]
pub struct Enlarger {
    /// Print exposure in log10 units.
    pub log_exposure: f64,
    /// Filtration C, M, Y in CC (1 CC = 0.01 density).
    pub filtration_cc: [f64; 3],
    /// Makes up for the light that the filters take, so that grey keeps its luminance.
    pub keep_brightness: bool,
    /// Contrast of the paper relative to its own.
    pub contrast: f64,
}

impl Enlarger {
    /// No filters, no change.
    pub fn neutral() -> Self {
        Self { log_exposure: 0.0, filtration_cc: [0.0; 3], keep_brightness: false, contrast: 1.0 }
    }

    /// Spectral density of the filters, with brightness kept where it is wished.
    pub fn filters(&self) -> Spectrum {
        filter_density(self.filtration_cc)
    }
}

/// Spectral density of a colour head's filters at `cc` = [C, M, Y].
pub(super) fn filter_density(cc: [f64; 3]) -> Spectrum {
    let (long, middle) = (Spectrum::edge(600.0, 6.0), Spectrum::edge(500.0, 6.0));
    let cyan = long;
    let magenta = middle + long * -1.0;
    let yellow = Spectrum::ONE + middle * -1.0;
    (cyan * cc[0] + magenta * cc[1] + yellow * cc[2]) * 0.01
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
