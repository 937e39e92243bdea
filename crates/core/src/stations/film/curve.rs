//! The characteristic curve: density over log10 exposure.

use crate::numeric::smooth::{softplus, softplus_inverse};
use crate::stock::CurveShape;

/// A layer's curve, placed on the exposure axis.
///
/// A strictly monotone form with a soft toe and shoulder whose limits are exactly dmin and dmax:
/// y = gamma t sp((x - x0)/t), D = dmin + R (R + o - s sp((R - y)/s))/(R + o), with R = dmax - dmin, s = gamma w and
/// o = s ln(1 + e^(-R/s)). Reversal films run the other way: x0 - x in place of x - x0.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CharacteristicCurve {
    /// Its densities and slopes.
    pub shape: CurveShape,
    /// Where the straight line, prolonged, meets base and fog (log10 exposure).
    pub x0: f64,
    /// Density falls with exposure.
    pub reversal: bool,
}

impl CharacteristicCurve {
    /// Placed so that its middle lies at a log exposure.
    pub fn new(shape: CurveShape, x0: f64, reversal: bool) -> Self {
        Self { shape, x0, reversal }
    }

    fn range_and_rounding(&self) -> (f64, f64, f64) {
        let range = self.shape.dmax - self.shape.dmin;
        let s = self.shape.gamma * self.shape.shoulder;
        (range, s, s * (-range / s).exp().ln_1p())
    }

    /// Density at a log10 exposure.
    pub fn density(&self, x: f64) -> f64 {
        let (range, s, o) = self.range_and_rounding();
        let along = if self.reversal { self.x0 - x } else { x - self.x0 };
        let y = self.shape.gamma * self.shape.toe * softplus(along / self.shape.toe);
        self.shape.dmin + range * (range + o - s * softplus((range - y) / s)) / (range + o)
    }

    /// The log10 exposure that gives a density strictly between dmin and dmax.
    pub fn exposure(&self, density: f64) -> f64 {
        let (range, s, o) = self.range_and_rounding();
        let z = (density - self.shape.dmin) * (range + o) / range;
        let y = range - s * softplus_inverse((range + o - z) / s);
        let along = self.shape.toe * softplus_inverse(y / (self.shape.gamma * self.shape.toe));
        if self.reversal { self.x0 - along } else { self.x0 + along }
    }

    /// Measured gamma: the greatest slope (in absolute value).
    pub fn greatest_slope(&self) -> f64 {
        let (range, _, _) = self.range_and_rounding();
        let s = &self.shape;
        // the straight part lies between toe and shoulder; half a hundredth of log exposure resolves it
        let span = range / s.gamma + 3.0 * (s.toe + s.shoulder);
        let step = (span / 400.0).min(0.01);
        let along = |u: f64| self.density(if self.reversal { self.x0 - u } else { self.x0 + u });
        let count = (span / step) as usize;
        let from = -3.0 * s.toe;
        (0..count)
            .map(|i| from + step * i as f64)
            .map(|u| ((along(u + step) - along(u)) / step).abs())
            .fold(0.0, f64::max)
    }

    /// The shape whose greatest slope is `gamma`: the form's parameter is solved for it.
    ///
    /// Where toe and shoulder are too wide for such a slope, they are drawn in until there is one.
    pub fn shape_with_slope(shape: CurveShape, gamma: f64) -> CurveShape {
        const STEEPEST: f64 = 40.0;
        let slope = |s: CurveShape| CharacteristicCurve::new(s, 0.0, false).greatest_slope();
        let mut shaped = shape;
        while slope(CurveShape { gamma: STEEPEST, ..shaped }) < gamma && shaped.shoulder > 0.01 {
            shaped.shoulder *= 0.8;
            shaped.toe *= 0.8;
        }
        let (mut low, mut high) = (0.02f64, STEEPEST);
        for _ in 0..24 {
            let middle = (low * high).sqrt();
            shaped.gamma = middle;
            if slope(shaped) < gamma { low = middle } else { high = middle }
        }
        shaped
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn monotone_within_limits_and_invertible(
            dmin in 0.0..0.5f64, range in 0.3..3.8f64, gamma in 0.3..6.0f64, toe in 0.03..0.5f64,
            shoulder in 0.03..0.8f64, reversal: bool,
        ) {
            let shape = CurveShape { dmin, gamma, toe, shoulder, dmax: dmin + range, shift: 0.0, push_skew: 0.0 };
            let curve = CharacteristicCurve::new(shape, 0.3, reversal);
            let mut last = curve.density(-6.0);
            for i in 1..400 {
                let d = curve.density(-6.0 + 0.03 * i as f64);
                let rises = if reversal { last - d } else { d - last };
                prop_assert!(rises >= -1e-13);
                prop_assert!(d >= dmin - 1e-12 && d <= dmin + range + 1e-12);
                last = d;
            }
            for k in 1..20 {
                let d = dmin + 0.02 + (range - 0.04) * k as f64 / 20.0;
                prop_assert!((curve.density(curve.exposure(d)) - d).abs() < 1e-9);
            }
        }
    }

    #[test]
    fn the_slope_that_was_asked_for() {
        let shape =
            CurveShape { dmin: 0.1, gamma: 0.6, toe: 0.2, shoulder: 0.45, dmax: 2.4, shift: 0.0, push_skew: 0.0 };
        for gamma in [0.2, 0.4, 0.6, 0.9, 1.4, 2.0, 6.0] {
            let solved = CharacteristicCurve::new(CharacteristicCurve::shape_with_slope(shape, gamma), 0.0, false);
            assert!((solved.greatest_slope() / gamma - 1.0).abs() < 0.002, "{gamma}: {}", solved.greatest_slope());
        }
    }
}
