//! A tone curve through points, in shares of the tone scale.

use super::MonotoneCubic;

/// A monotone curve. The first point's tone holds down to black, the last one's up to white; beyond black and white the
/// straight line of slope 1 goes on.
#[derive(Debug, Clone, PartialEq)]
pub struct ToneCurve(MonotoneCubic);

impl ToneCurve {
    /// Takes points in per cent, at least two, from left to right.
    pub fn through(percent: &[[f64; 2]]) -> Self {
        Self(MonotoneCubic::through(percent.iter().map(|p| p.map(|v| v / 100.0)).collect()))
    }

    /// Every tone is left as it is.
    pub fn is_straight(&self) -> bool {
        let near = |a: f64, b: f64| (a - b).abs() < 1e-9;
        self.0.points().iter().all(|[x, y]| near(*x, *y)) && near(self.0.first()[0], 0.0) && near(self.0.last()[0], 1.0)
    }

    /// The wanted tone for a tone, both 0..1.
    pub fn at(&self, x: f64) -> f64 {
        let beyond = x - x.clamp(0.0, 1.0);
        self.0.at(x) + beyond
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn goes_through_its_points_and_never_turns_back() {
        let curve = ToneCurve::through(&[[0.0, 5.0], [25.0, 15.0], [50.0, 60.0], [75.0, 62.0], [100.0, 98.0]]);
        assert!((curve.at(0.5) - 0.6).abs() < 1e-12 && (curve.at(0.25) - 0.15).abs() < 1e-12);
        let mut last = -1.0;
        for i in 0..=1000 {
            let y = curve.at(i as f64 / 1000.0);
            assert!(y >= last);
            last = y;
        }
        assert_eq!(ToneCurve::through(&[[10.0, 0.0], [90.0, 100.0]]).at(0.05), 0.0);
    }
}
