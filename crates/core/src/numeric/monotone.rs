//! A smooth curve through points that never turns back.

/// Monotone cubic through points with rising x (Fritsch and Carlson 1980, with harmonic-mean slopes).
#[derive(Debug, Clone, PartialEq)]
pub struct MonotoneCubic {
    points: Vec<[f64; 2]>,
    tangents: Vec<f64>,
}

impl MonotoneCubic {
    /// Takes at least two points, from left to right.
    pub fn through(points: Vec<[f64; 2]>) -> Self {
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

    /// The points that it goes through.
    pub fn points(&self) -> &[[f64; 2]] {
        &self.points
    }

    /// The leftmost point.
    pub fn first(&self) -> [f64; 2] {
        self.points[0]
    }

    /// The rightmost point.
    pub fn last(&self) -> [f64; 2] {
        self.points[self.points.len() - 1]
    }

    /// The curve at `x`; beyond the ends the end's value.
    pub fn at(&self, x: f64) -> f64 {
        let x = x.clamp(self.first()[0], self.last()[0]);
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
    fn goes_through_its_points_without_overshoot() {
        let points = vec![[-5.0, -4.0], [-1.0, -3.9], [0.0, 1.0], [2.0, 1.1], [5.0, 7.0]];
        let curve = MonotoneCubic::through(points.clone());
        for [x, y] in points {
            assert!((curve.at(x) - y).abs() < 1e-12);
        }
        let mut last = -4.0;
        for i in 0..=1000 {
            let y = curve.at(-5.0 + 0.01 * f64::from(i));
            assert!(y >= last - 1e-12 && y <= 7.0 + 1e-12);
            last = y;
        }
        assert_eq!((curve.at(-9.0), curve.at(9.0)), (-4.0, 7.0));
    }
}
