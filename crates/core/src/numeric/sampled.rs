//! A function of one variable kept as equidistant samples, read by linear interpolation.

/// Samples over [start, end]; outside, the end values hold.
#[derive(Debug, Clone)]
pub struct Sampled {
    start: f32,
    per_step: f32,
    last: f32,
    values: Vec<f32>,
}

impl Sampled {
    /// Samples `f` at `count` >= 2 points.
    pub fn new(start: f64, end: f64, count: usize, f: impl Fn(f64) -> f64) -> Self {
        let step = (end - start) / (count - 1) as f64;
        Self::from_values(start, end, (0..count).map(|i| f(start + step * i as f64) as f32).collect())
    }

    /// Takes at least two samples, equidistant from `start` to `end`.
    pub fn from_values(start: f64, end: f64, values: Vec<f32>) -> Self {
        debug_assert!(values.len() >= 2);
        let last = (values.len() - 1) as f64;
        Self { start: start as f32, per_step: (last / (end - start)) as f32, last: last as f32, values }
    }

    #[inline(always)]
    pub fn at(&self, x: f32) -> f32 {
        let u = ((x - self.start) * self.per_step).clamp(0.0, self.last);
        let i = (u as usize).min(self.values.len() - 2);
        let fraction = u - i as f32;
        let (a, b) = (self.values[i], self.values[i + 1]);
        a + (b - a) * fraction
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn keeps_ends_and_interpolates() {
        let line = Sampled::new(-1.0, 3.0, 5, |x| 2.0 * x);
        assert_eq!(line.at(-9.0), -2.0);
        assert_eq!(line.at(0.25), 0.5);
        assert_eq!(line.at(9.0), 6.0);
    }
}
