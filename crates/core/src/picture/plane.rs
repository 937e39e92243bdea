//! One plane of numbers over a whole frame, and what is done to it as a whole: halving, blurring, stretching.
//!
//! A plane is made once, anchored at the frame's corner; tiles only read it. So a region is a crop of the whole.

use multiversion::multiversion;

use super::Region;
use super::gaussian;
use crate::numeric::gather::between;
use crate::numeric::parallel::for_parts;
use crate::numeric::symmetric::{self, Weighed};

/// Gaussian kernels end after this many standard deviations.
const REACH: f64 = 3.2;

/// Values row by row.
#[derive(Debug, Clone)]
pub struct Plane {
    /// Numbers in a row.
    pub width: usize,
    /// Rows.
    pub height: usize,
    /// Row by row.
    pub values: Vec<f32>,
}

impl Plane {
    /// Half the size, each pixel the mean of four (the last row or column of fewer).
    pub fn halved(&self) -> Plane {
        let (width, height) = (self.width.div_ceil(2), self.height.div_ceil(2));
        let mut values = vec![0.0f32; width * height];
        for_parts(&mut values, width, &|y, out| {
            let row = |y: usize| &self.values[y * self.width..(y + 1) * self.width];
            halve(row(2 * y), row((2 * y + 1).min(self.height - 1)), out);
        });
        Plane { width, height, values }
    }

    /// Blurred by a Gaussian; beyond the edges the edge's values go on.
    pub fn blurred(&self, sigma: f64) -> Plane {
        if sigma < 0.2 {
            return self.clone();
        }
        let taps = gaussian::taps(sigma, REACH);
        let radius = taps.len() - 1;
        let (width, height) = (self.width, self.height);
        let mut across = vec![0.0f32; width * (height + 2 * radius)];
        for_parts(&mut across[radius * width..][..width * height], width, &|y, out| {
            let row = &self.values[y * width..(y + 1) * width];
            let mut padded = Vec::with_capacity(width + 2 * radius);
            padded.resize(radius, row[0]);
            padded.extend_from_slice(row);
            padded.resize(width + 2 * radius, row[width - 1]);
            symmetric::weigh(Weighed { rows: &padded, stride: 1, taps: &taps }, out);
        });
        gaussian::carry_edges(&mut across, width, radius..radius + height);
        let mut values = vec![0.0f32; width * height];
        for_parts(&mut values, width, &|y, out| {
            symmetric::weigh(Weighed { rows: &across[y * width..], stride: width, taps: &taps }, out);
        });
        Plane { width, height, values }
    }

    /// A rectangle of the plane stretched over a frame of `width` x `height`, between pixel centres linearly.
    pub fn enlarged(&self, width: usize, height: usize, region: Region) -> Vec<f32> {
        let place = |i: u32, small: usize, large: usize| {
            let u = ((f64::from(i) + 0.5) * small as f64 / large as f64 - 0.5).clamp(0.0, (small - 1) as f64);
            let first = (u as usize).min(small.saturating_sub(2));
            (first, (first + 1).min(small - 1), (u - first as f64) as f32)
        };
        let (columns, shares): (Vec<u32>, Vec<f32>) = (region.x..region.right())
            .map(|x| {
                let (first, _, share) = place(x, self.width, width);
                (first as u32, share)
            })
            .unzip();
        let mut out = vec![0.0f32; region.pixels()];
        // one more at the right, so that the last column has a neighbour
        let mut line = vec![0.0f32; self.width + 1];
        let first = columns.first().map_or(0, |c| *c as usize);
        let last = columns.last().map_or(0, |c| *c as usize + 1).min(self.width - 1);
        for (y, out) in (region.y..region.bottom()).zip(out.chunks_mut(region.width as usize)) {
            let (top, bottom, fy) = place(y, self.height, height);
            let (a, b) = (&self.values[top * self.width..], &self.values[bottom * self.width..]);
            match fy {
                0.0 => line[first..=last].copy_from_slice(&a[first..=last]),
                _ => mix_rows(&a[first..=last], &b[first..=last], fy, &mut line[first..=last]),
            }
            line[last + 1] = line[last];
            // of a plane as wide as the frame every column but its last is its own
            let own = if self.width == width { shares.partition_point(|share| *share == 0.0) } else { 0 };
            out[..own].copy_from_slice(&line[first..first + own]);
            between(&line, &columns[own..], &shares[own..], &mut out[own..]);
        }
        out
    }

    /// What was halved `times` over, at the size that it had: the last column and row of a halved plane may stand for
    /// one only.
    pub fn doubled(&self, times: u32, width: usize, height: usize) -> Vec<f32> {
        self.enlarged(self.width << times, self.height << times, Region::whole(width as u32, height as u32))
    }

    /// The mean over a square of side 2 radius + 1; beyond the edges, fewer pixels count.
    pub fn boxed(&self, radius: usize) -> Plane {
        let (width, height) = (self.width, self.height);
        let mut across = vec![0.0f32; width * height];
        for_parts(&mut across, width, &|y, out| {
            let row = &self.values[y * width..(y + 1) * width];
            // running sums in double precision: their rounding is below that of the values
            let mut sum: f64 = row[..radius.min(width)].iter().map(|v| f64::from(*v)).sum();
            for (x, o) in out.iter_mut().enumerate() {
                if x + radius < width {
                    sum += f64::from(row[x + radius]);
                }
                if x > radius {
                    sum -= f64::from(row[x - radius - 1]);
                }
                let count = (x + radius).min(width - 1) + 1 - x.saturating_sub(radius);
                *o = (sum / count as f64) as f32;
            }
        });
        let mut values = vec![0.0f32; width * height];
        let mut sums = vec![0.0f64; width];
        let row = |y: usize| &across[y * width..(y + 1) * width];
        for y in 0..radius.min(height) {
            sums.iter_mut().zip(row(y)).for_each(|(s, v)| *s += f64::from(*v));
        }
        for (y, out) in values.chunks_exact_mut(width).enumerate() {
            if y + radius < height {
                sums.iter_mut().zip(row(y + radius)).for_each(|(s, v)| *s += f64::from(*v));
            }
            if y > radius {
                sums.iter_mut().zip(row(y - radius - 1)).for_each(|(s, v)| *s -= f64::from(*v));
            }
            let share = 1.0 / ((y + radius).min(height - 1) + 1 - y.saturating_sub(radius)) as f64;
            out.iter_mut().zip(&sums).for_each(|(o, s)| *o = (s * share) as f32);
        }
        Plane { width, height, values }
    }

    /// Smallest or largest value in a square of side 2 radius + 1.
    pub fn extreme(&self, radius: usize, better: impl Fn(f32, f32) -> f32) -> Plane {
        let (width, height) = (self.width, self.height);
        let mut across = self.clone();
        for (line, out) in self.values.chunks_exact(width).zip(across.values.chunks_exact_mut(width)) {
            for (x, o) in out.iter_mut().enumerate() {
                *o = line[x.saturating_sub(radius)..(x + radius + 1).min(width)].iter().copied().fold(line[x], &better);
            }
        }
        let mut out = across.clone();
        for y in 0..height {
            let target = &mut out.values[y * width..(y + 1) * width];
            for row in y.saturating_sub(radius)..(y + radius + 1).min(height) {
                let line = &across.values[row * width..(row + 1) * width];
                target.iter_mut().zip(line).for_each(|(t, v)| *t = better(*t, *v));
            }
        }
        out
    }

    /// A plane of the same size whose values are a function of two planes' values.
    pub fn with(&self, other: &Plane, value: impl Fn(f32, f32) -> f32) -> Plane {
        let values = self.values.iter().zip(&other.values).map(|(a, b)| value(*a, *b)).collect();
        Plane { values, ..*self }
    }
}

/// The row that lies a share of the way from one row to another.
#[multiversion(targets("x86_64+avx2"))]
fn mix_rows(near: &[f32], far: &[f32], share: f32, out: &mut [f32]) {
    for ((v, a), b) in out.iter_mut().zip(near).zip(far) {
        *v = a + (b - a) * share;
    }
}

/// Means of squares of four from two rows; a last column that stands alone counts twice.
#[multiversion(targets("x86_64+avx2"))]
pub fn halve(top: &[f32], bottom: &[f32], out: &mut [f32]) {
    let pairs = top.chunks_exact(2).zip(bottom.chunks_exact(2));
    for (o, (t, b)) in out.iter_mut().zip(pairs) {
        *o = 0.25 * ((t[0] + t[1]) + (b[0] + b[1]));
    }
    if let ([t], [b], Some(o)) = (top.chunks_exact(2).remainder(), bottom.chunks_exact(2).remainder(), out.last_mut()) {
        *o = 0.25 * ((t + t) + (b + b));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn blur_and_stretch_keep_a_constant_and_the_sum() {
        let flat = Plane { width: 37, height: 21, values: vec![0.7; 37 * 21] };
        for v in flat.blurred(4.0).enlarged(80, 50, Region::new(11, 7, 30, 20)) {
            assert!((v - 0.7).abs() < 1e-6);
        }
        let mut dot = Plane { width: 101, height: 101, values: vec![0.0; 101 * 101] };
        dot.values[50 * 101 + 50] = 1.0;
        let blurred = dot.blurred(5.0);
        assert!((blurred.values.iter().sum::<f32>() - 1.0).abs() < 1e-4);
        let spread: f32 = (0..101)
            .map(|x| (x as f32 - 50.0).powi(2) * (0..101).map(|y| blurred.values[y * 101 + x]).sum::<f32>())
            .sum();
        assert!((spread.sqrt() - 5.0).abs() < 0.1, "{}", spread.sqrt());
    }

    /// Sizes that halve badly do not push the picture aside.
    #[test]
    fn halved_and_doubled_lies_where_it_lay() {
        for (width, height) in [(850usize, 651usize), (1000, 37), (129, 65)] {
            let values = (0..width * height).map(|i| (i % width + 3 * (i / width)) as f32).collect();
            let plane = Plane { width, height, values };
            let back = plane.halved().halved().halved().doubled(3, width, height);
            let (x0, y0) = (8..width - 16, 8..height - 16);
            for (x, y) in x0.flat_map(|x| y0.clone().map(move |y| (x, y))) {
                let off = back[y * width + x] - plane.values[y * width + x];
                assert!(off.abs() < 1e-2, "{width} x {height} at {x}, {y}: {off}");
            }
        }
    }

    /// Against the mean written down as it is defined.
    #[test]
    fn a_box_mean_is_the_mean_of_its_box() {
        let (width, height) = (23usize, 17usize);
        let values: Vec<f32> = (0..width * height).map(|i| ((i * 37) % 101) as f32 / 10.0).collect();
        let plane = Plane { width, height, values };
        for radius in [0usize, 1, 4, 30] {
            let boxed = plane.boxed(radius);
            for y in 0..height {
                for x in 0..width {
                    let rows = y.saturating_sub(radius)..(y + radius + 1).min(height);
                    let columns = x.saturating_sub(radius)..(x + radius + 1).min(width);
                    let all: Vec<f32> = rows
                        .flat_map(|r| columns.clone().map(move |c| (r, c)))
                        .map(|(r, c)| plane.values[r * width + c])
                        .collect();
                    let mean = all.iter().sum::<f32>() / all.len() as f32;
                    assert!((boxed.values[y * width + x] - mean).abs() < 1e-5, "{radius} {x} {y}");
                }
            }
        }
    }

    /// Means of four, written down as they are defined, at odd sizes too.
    #[test]
    fn halves_are_means_of_four() {
        for (width, height) in [(1usize, 1usize), (2, 3), (7, 5), (64, 33), (131, 2)] {
            let values: Vec<f32> = (0..width * height).map(|i| (i * 37 % 101) as f32 / 7.0).collect();
            let plane = Plane { width, height, values };
            let half = plane.halved();
            assert_eq!((half.width, half.height), (width.div_ceil(2), height.div_ceil(2)));
            for (i, found) in half.values.iter().enumerate() {
                let (x, y) = (2 * (i % half.width), 2 * (i / half.width));
                let at = |x: usize, y: usize| plane.values[y.min(height - 1) * width + x.min(width - 1)];
                let wanted = 0.25 * ((at(x, y) + at(x + 1, y)) + (at(x, y + 1) + at(x + 1, y + 1)));
                assert_eq!(found.to_bits(), wanted.to_bits(), "{width} x {height}: {i}");
            }
        }
    }
}
