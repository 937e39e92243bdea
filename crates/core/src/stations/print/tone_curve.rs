//! A tone curve through points.

/// Monotone cubic through points with rising x (Fritsch and Carlson 1980, harmonic-mean slopes); beyond the ends the
/// straight line of slope 1 goes on.
#[derive(Debug, Clone, PartialEq)]
pub struct ToneCurve {
    points: Vec<[f64; 2]>,
    tangents: Vec<f64>,
}

impl ToneCurve {
    /// Takes points in per cent, at least two, from left to right.
    pub fn through(percent: &[[f64; 2]]) -> Self {
        let points: Vec<[f64; 2]> = percent.iter().map(|p| p.map(|v| v / 100.0)).collect();
        let slope = |j: usize| (points[j + 1][1] - points[j][1]) / (points[j + 1][0] - points[j][0]);
        let last = points.len() - 1;
        let tangents = (0..=last)
            .map(|j| match j {
                0 => slope(0),
                j if j == last => slope(last - 1),
                j => {
                    let (a, b) = (slope(j - 1), slope(j));
                    if a * b <= 0.0 { 0.0 } else { 2.0 * a * b / (a + b) }
                }
            })
            .collect();
        Self { points, tangents }
    }

    /// The wanted tone for a tone, both 0..1.
    pub fn at(&self, x: f64) -> f64 {
        let (first, last) = (self.points[0], self.points[self.points.len() - 1]);
        if x <= first[0] {
            // the first point's tone holds down to black, the last one's up to white
            return if x < 0.0 { first[1] + x } else { first[1] };
        }
        if x >= last[0] {
            return if x > 1.0 { last[1] + (x - 1.0) } else { last[1] };
        }
        let i = self.points.partition_point(|p| p[0] <= x).clamp(1, self.points.len() - 1) - 1;
        let ([x0, y0], [x1, y1]) = (self.points[i], self.points[i + 1]);
        let h = x1 - x0;
        let t = (x - x0) / h;
        let (t2, t3) = (t * t, t * t * t);
        (2.0 * t3 - 3.0 * t2 + 1.0) * y0
            + (t3 - 2.0 * t2 + t) * h * self.tangents[i]
            + (-2.0 * t3 + 3.0 * t2) * y1
            + (t3 - t2) * h * self.tangents[i + 1]
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
