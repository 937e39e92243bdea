//! The guided filter: smoothing that keeps to the edges of a guide (He, Sun, Tang 2010).
//!
//! Round every pixel the filtered values are a straight line of the guide. The lines are fitted on a small picture and
//! read at any size (He, Sun 2015, "Fast guided filter"): the full picture's own guide brings its fine edges back. So
//! previews and exports rest on the same lines, and a region is a crop of the whole.

use crate::picture::{Plane, Region};

/// Slope and offset of the local lines over the whole frame.
#[derive(Debug, Clone)]
pub struct LocalLines {
    slope: Plane,
    offset: Plane,
}

impl LocalLines {
    /// Fits `input` as a line of `guide` in squares of side 2 radius + 1. Variances of the guide well below `epsilon`
    /// are smoothed away, those well above it stay as edges.
    pub fn fit(guide: &Plane, input: &Plane, radius: usize, epsilon: f32) -> Self {
        let mean = guide.boxed(radius);
        let mean_input = input.boxed(radius);
        let variance = guide.with(guide, |a, b| a * b).boxed(radius).with(&mean, |square, m| (square - m * m).max(0.0));
        let product = guide.with(input, |a, b| a * b).boxed(radius);
        let means = mean.with(&mean_input, |a, b| a * b);
        let covariance = product.with(&means, |p, m| p - m);
        // squared, where the paper has c / (v + epsilon): the decision between texture and edge is sharper, so that
        // hard edges leave no rim (an edge of 4 stops: 0.02 stops instead of 0.17)
        let slope = covariance.with(&variance, |c, v| c * v / (v * v + epsilon * epsilon));
        let offset = mean_input.with(&slope.with(&mean, |s, m| s * m), |i, sm| i - sm);
        Self { slope: slope.boxed(radius), offset: offset.boxed(radius) }
    }

    /// The guide smoothed by itself.
    pub fn smoothing(guide: &Plane, radius: usize, epsilon: f32) -> Self {
        Self::fit(guide, guide, radius, epsilon)
    }

    /// The filtered values over a region of a frame of `width` x `height`, whose guide values there are given.
    pub fn read(&self, [width, height]: [u32; 2], region: Region, guide: &[f32]) -> Vec<f32> {
        let stretched = |plane: &Plane| plane.enlarged(width as usize, height as usize, region);
        let mut out = stretched(&self.slope);
        for ((slope, offset), g) in out.iter_mut().zip(stretched(&self.offset)).zip(guide) {
            *slope = *slope * g + offset;
        }
        out
    }

    /// Slopes of the lines.
    pub fn slope(&self) -> &Plane {
        &self.slope
    }

    /// Offsets of the lines.
    pub fn offset(&self) -> &Plane {
        &self.offset
    }

    /// Bytes of both planes.
    pub fn bytes(&self) -> usize {
        2 * size_of::<f32>() * self.slope.values.len()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn smooths_texture_and_keeps_the_edge() {
        let (width, height) = (120usize, 40usize);
        let value = |x: usize, y: usize| if x < 60 { 0.0 } else { 4.0 } + 0.2 * ((x * 7 + y * 5) % 3) as f32;
        let values = (0..width * height).map(|i| value(i % width, i / width)).collect();
        let guide = Plane { width, height, values };
        let lines = LocalLines::smoothing(&guide, 6, 0.25);
        let whole = Region::whole(120, 40);
        let smooth = lines.read([120, 40], whole, &guide.values);
        let row = &smooth[20 * 120..21 * 120];
        let range = |part: &[f32]| {
            part.iter().copied().fold(f32::MIN, f32::max) - part.iter().copied().fold(f32::MAX, f32::min)
        };
        assert!(range(&row[10..40]) < 0.12, "{}", range(&row[10..40]));
        assert!(row[62] - row[57] > 3.5, "{} {}", row[57], row[62]);
        let part = Region::new(50, 9, 20, 11);
        let cut: Vec<f32> = (0..part.pixels()).map(|i| guide.values[(9 + i / 20) * width + 50 + i % 20]).collect();
        let read = lines.read([120, 40], part, &cut);
        assert!((0..part.pixels()).all(|i| read[i] == smooth[(9 + i / 20) * width + 50 + i % 20]));
    }
}
