//! A function of one variable kept as equidistant samples, read by linear interpolation.

use super::gather;

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

    /// Number of samples.
    pub fn count(&self) -> usize {
        self.values.len()
    }

    /// Place of the last sample.
    pub fn end(&self) -> f64 {
        f64::from(self.start) + f64::from(self.last) / f64::from(self.per_step)
    }

    /// The value at `x`, between samples on a straight line; beyond the ends it is theirs.
    #[inline(always)]
    pub fn at(&self, x: f32) -> f32 {
        // max before min: what is not a number reads the first sample
        let u = ((x - self.start) * self.per_step).max(0.0).min(self.last);
        let i = (u as usize).min(self.values.len() - 2);
        let fraction = u - i as f32;
        let (a, b) = (self.values[i], self.values[i + 1]);
        a + (b - a) * fraction
    }

    /// Replaces every value by the function of it; the bits are those of [`Sampled::at`].
    pub fn map(&self, row: &mut [f32]) {
        let done = gather::map_in_place(self.start, self.per_step, self.last, &self.values, row);
        row[done..].iter_mut().for_each(|v| *v = self.at(*v));
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

    /// Eight at a time gives the bits of one at a time, beyond the ends and for what is not a number too.
    #[test]
    fn many_at_once_are_one_by_one() {
        let curve = Sampled::new(-2.0, 3.0, 77, |x| x.sin() + 0.1 * x);
        let row: Vec<f32> = (0..1003).map(|i| -4.0 + 0.009 * i as f32).chain([f32::NAN, f32::INFINITY]).collect();
        let mut many = row.clone();
        curve.map(&mut many);
        for (x, y) in row.iter().zip(&many) {
            assert_eq!(curve.at(*x).to_bits(), y.to_bits(), "{x}");
        }
    }
}
