//! Least squares by Levenberg and Marquardt (Levenberg 1944, Marquardt 1963), with slopes by differences.

use levenberg_marquardt::{LeastSquaresProblem, LevenbergMarquardt};
use nalgebra::storage::Owned;
use nalgebra::{DMatrix, DVector, Dyn};

/// A value that is looked for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Unknown {
    /// Where the search begins.
    pub start: f64,
    /// Least and greatest.
    pub bounds: [f64; 2],
    /// By how much it is moved to see what follows.
    pub step: f64,
}

struct Problem<F> {
    unknowns: Vec<Unknown>,
    at: DVector<f64>,
    residuals: F,
}

impl<F: Fn(&[f64]) -> Option<Vec<f64>>> Problem<F> {
    fn inside(&self, at: &DVector<f64>) -> Vec<f64> {
        at.iter().zip(&self.unknowns).map(|(v, u)| v.max(u.bounds[0]).min(u.bounds[1])).collect()
    }

    /// The residuals inside the bounds, and how far outside they are.
    fn all(&self, at: &DVector<f64>) -> Option<DVector<f64>> {
        let inside = self.inside(at);
        let mut all = (self.residuals)(&inside)?;
        all.extend(at.iter().zip(&inside).zip(&self.unknowns).map(|((v, i), u)| 0.1 * (v - i) / u.step));
        all.iter().all(|v| v.is_finite()).then(|| DVector::from_vec(all))
    }
}

impl<F: Fn(&[f64]) -> Option<Vec<f64>>> LeastSquaresProblem<f64, Dyn, Dyn> for Problem<F> {
    type ParameterStorage = Owned<f64, Dyn>;
    type ResidualStorage = Owned<f64, Dyn>;
    type JacobianStorage = Owned<f64, Dyn, Dyn>;

    fn set_params(&mut self, at: &DVector<f64>) {
        self.at.copy_from(at);
    }

    fn params(&self) -> DVector<f64> {
        self.at.clone()
    }

    fn residuals(&self) -> Option<DVector<f64>> {
        self.all(&self.at)
    }

    fn jacobian(&self) -> Option<DMatrix<f64>> {
        let here = self.all(&self.at)?;
        let mut slopes = DMatrix::zeros(here.len(), self.at.len());
        for (k, unknown) in self.unknowns.iter().enumerate() {
            // away from the nearer bound
            let [low, high] = unknown.bounds;
            let step = if self.at[k] - low > high - self.at[k] { -unknown.step } else { unknown.step };
            let mut there = self.at.clone();
            there[k] += step;
            slopes.set_column(k, &((self.all(&there)? - &here) / step));
        }
        Some(slopes)
    }
}

/// The values within their bounds for which the sum of the squares of `residuals` is least, after at most so many
/// rounds (each asks once for every value and about once more).
pub fn least_squares(
    unknowns: Vec<Unknown>,
    rounds: usize,
    residuals: impl Fn(&[f64]) -> Option<Vec<f64>>,
) -> Vec<f64> {
    let at = DVector::from_iterator(unknowns.len(), unknowns.iter().map(|u| u.start));
    let problem = Problem { unknowns, at, residuals };
    let search = LevenbergMarquardt::new().with_patience(rounds).with_ftol(1e-5).with_xtol(1e-5).with_stepbound(3.0);
    let (found, _) = search.minimize(problem);
    found.inside(&found.at)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_valley_is_found_within_bounds() {
        let unknown = |start: f64| Unknown { start, bounds: [-2.0, 2.0], step: 1e-4 };
        let valley = |v: &[f64]| Some(vec![1.0 - v[0], 10.0 * (v[1] - v[0] * v[0])]);
        let found = least_squares(vec![unknown(-1.2), unknown(1.0)], 60, valley);
        assert!(found.iter().all(|v| (v - 1.0).abs() < 1e-2), "{found:?}");
        let bounded = Unknown { start: 0.0, bounds: [-0.5, 0.5], step: 1e-4 };
        let found = least_squares(vec![bounded], 60, |v| Some(vec![v[0] - 3.0]));
        assert!(found[0] == 0.5, "{found:?}");
    }
}
