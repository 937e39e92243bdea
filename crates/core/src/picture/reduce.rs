//! Reducing a source as a whole, in linear light.
//!
//! Every render scale has its own reduced source, made once from the full one and then only cut: so a region of a
//! small render is a crop of that render. The fixed scales are half a stop of area apart (1, 1/sqrt 2, 1/2, ...).

use std::borrow::Cow;

use rayon::prelude::*;

use super::Source;
use super::peaks::{self, AT_ONCE};
use super::source::{Held, codes_of_light, linear_of_8_bit, linear_of_code};

/// Values of a row that are summed over rows together: they stay in the processor's nearest memory.
const PART: usize = 1536;

/// A fixed render scale: each step is smaller by the square root of two; 0 is the full size.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Level(pub u8);

impl Level {
    /// The full size.
    pub const FULL: Self = Self(0);
    /// The smallest scale, 1/64.
    pub const SMALLEST: Self = Self(12);

    /// Size of a frame at this scale; at least one pixel.
    pub fn size(self, width: u32, height: u32) -> (u32, u32) {
        let factor = 0.5f64.powf(self.0 as f64 / 2.0);
        let side = |v: u32| ((v as f64 * factor).round() as u32).max(1);
        (side(width), side(height))
    }

    /// The smallest scale at which the frame's long edge still has `long_edge` pixels.
    pub fn covering(long_edge: u32, width: u32, height: u32) -> Self {
        let enough = |level: &u8| {
            let (w, h) = Self(*level).size(width, height);
            w.max(h) >= long_edge
        };
        Self((0..=Self::SMALLEST.0).rev().find(enough).unwrap_or(0))
    }
}

/// Size of a frame reduced to a long edge; never enlarged.
pub fn size_for_long_edge(long_edge: u32, width: u32, height: u32) -> (u32, u32) {
    let longest = width.max(height);
    if long_edge >= longest {
        return (width, height);
    }
    let side = |v: u32| ((v as f64 * long_edge as f64 / longest as f64).round() as u32).max(1);
    (side(width), side(height))
}

/// The source pixels that one reduced pixel covers along an axis, each with its share; shares sum to one.
fn coverage(small: u32, full: u32) -> Vec<(usize, Vec<f32>)> {
    let ratio = full as f64 / small as f64;
    (0..small)
        .map(|i| {
            let (from, to) = (i as f64 * ratio, (i + 1) as f64 * ratio);
            let first = from.floor() as usize;
            let last = (to.ceil() as usize).min(full as usize);
            let share = |k: usize| ((to.min((k + 1) as f64) - from.max(k as f64)) / ratio) as f32;
            (first, (first..last).map(share).collect())
        })
        .collect()
}

/// The mean light of some rows, each `length` values long, by their shares; and a 0, so that four values can be read at
/// every pixel.
fn mean_of_rows(held: Held, length: usize, first_row: usize, shares: &[f32]) -> Vec<f32> {
    match held {
        Held::Codes(codes) => {
            let linear = linear_of_code();
            mean_by(codes, length, first_row, shares, |share, code: u16| share * linear[usize::from(code)])
        }
        Held::Srgb8(values) => {
            // a share of every light there is, once for a row
            let light = shares.iter().map(|share| linear_of_8_bit().map(|light| share * light));
            let light: Vec<[f32; 256]> = light.collect();
            let rows: Vec<&[f32; 256]> = light.iter().collect();
            mean_by(values, length, first_row, &rows, |light, value: u8| light[usize::from(value)])
        }
    }
}

/// Sums over rows of what `light` makes of a value and what is said of its row.
#[inline(always)]
fn mean_by<T: Copy, R: Copy>(
    held: &[T],
    length: usize,
    first_row: usize,
    rows: &[R],
    light: impl Fn(R, T) -> f32,
) -> Vec<f32> {
    let mut line = vec![0.0f32; length + 1];
    for (part, sums) in line[..length].chunks_mut(PART).enumerate() {
        let count = sums.len();
        let values = |row: usize| &held[(first_row + row) * length + part * PART..][..count];
        let mut k = 0;
        // four rows while a sum is at hand, in the order in which one after the other would be added
        while let Some(four) = rows.get(k..k + 4) {
            let rows = [four[0], four[1], four[2], four[3]];
            let columns = values(k).iter().zip(values(k + 1)).zip(values(k + 2)).zip(values(k + 3));
            for (sum, (((a, b), c), d)) in sums.iter_mut().zip(columns) {
                *sum = *sum + light(rows[0], *a) + light(rows[1], *b) + light(rows[2], *c) + light(rows[3], *d);
            }
            k += 4;
        }
        for (k, row) in rows.iter().enumerate().skip(k) {
            sums.iter_mut().zip(values(k)).for_each(|(sum, value)| *sum += light(*row, *value));
        }
    }
    line
}

impl Source {
    /// Smaller by a whole factor; by 1 it is itself.
    pub fn reduced_by(&self, factor: u32) -> Cow<'_, Source> {
        match factor {
            1 => Cow::Borrowed(self),
            _ => Cow::Owned(self.reduced(self.width().div_ceil(factor), self.height().div_ceil(factor))),
        }
    }

    /// A smaller copy, each pixel the mean light of the area that it covers (as a coarser sensor would see it).
    ///
    /// Rows are independent, so the threads that share them do not change the bits. Never enlarges.
    pub fn reduced(&self, width: u32, height: u32) -> Source {
        let (width, height) = (width.clamp(1, self.width()), height.clamp(1, self.height()));
        if (width, height) == (self.width(), self.height()) {
            return self.clone();
        }
        let (columns, rows) = (coverage(width, self.width()), coverage(height, self.height()));
        let mut pixels = vec![0u16; 3 * width as usize * height as usize];
        let lines = pixels.par_chunks_exact_mut(3 * width as usize).zip(&rows).with_max_len(AT_ONCE);
        lines.for_each(|(out, (first_row, row_shares))| {
            // the mean of the rows first: one line of full width, then its columns
            let line = mean_of_rows(self.held(), 3 * self.width() as usize, *first_row, row_shares);
            let mut means = vec![0.0f32; out.len()];
            for (pixel, (first, shares)) in means.chunks_exact_mut(3).zip(&columns) {
                // with a fourth value, of which nothing is kept, the three are a vector
                let mut sum = [0.0f32; 4];
                for (light, share) in line[3 * first..].windows(4).step_by(3).zip(shares) {
                    for k in 0..4 {
                        sum[k] += share * light[k];
                    }
                }
                pixel.copy_from_slice(&sum[..3]);
            }
            codes_of_light(&means, out);
        });
        let small = Source::from_parts(width, height, pixels);
        let peaks = peaks::of_reduced(self, &small, &columns, &rows);
        small.with_peaks(peaks)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn averages_light_not_code_values() {
        // black and white stripes average to half the light, which is encoded 0.735, not 0.5
        let source = Source::from_linear_srgb(64, 64, |x, _| [f64::from(x % 2 == 0); 3]);
        let small = source.reduced(8, 8);
        let middle = linear_of_code()[small.row(4, 4, 1)[0] as usize];
        assert!((middle - 0.5).abs() < 0.001, "{middle}");
    }

    /// Four rows at a time are added as one after the other would be.
    #[test]
    fn rows_are_added_in_their_order() {
        let length = PART + 5;
        let codes: Vec<u16> = (0..11 * length).map(|i| (i * 7919 % 65_536) as u16).collect();
        let linear = linear_of_code();
        for count in 1..=9 {
            let shares: Vec<f32> = (0..count).map(|k| 1.0 / (k + 3) as f32).collect();
            let sum = |i: usize| {
                let light = |k: usize| shares[k] * linear[usize::from(codes[(2 + k) * length + i])];
                (0..count).fold(0.0, |sum: f32, k| sum + light(k))
            };
            let found = mean_of_rows(Held::Codes(&codes), length, 2, &shares);
            assert!(found[..length].iter().enumerate().all(|(i, v)| v.to_bits() == sum(i).to_bits()), "{count} rows");
        }
    }

    #[test]
    fn keeps_the_mean_at_odd_ratios() {
        let source = Source::from_linear_srgb(101, 67, |x, y| [((x * 7 + y * 13) % 17) as f64 / 17.0; 3]);
        let mean = |s: &Source| {
            s.pixels().iter().map(|c| linear_of_code()[*c as usize] as f64).sum::<f64>() / s.pixels().len() as f64
        };
        assert!((mean(&source) - mean(&source.reduced(37, 23))).abs() < 1e-4);
    }

    #[test]
    fn levels_shrink_by_root_two() {
        assert_eq!(Level(2).size(6000, 4000), (3000, 2000));
        assert_eq!(Level::covering(690, 6000, 4000), Level(6));
        assert_eq!(Level::covering(9000, 6000, 4000), Level::FULL);
        assert_eq!(size_for_long_edge(1500, 4000, 6000), (1000, 1500));
        assert_eq!(size_for_long_edge(9000, 4000, 6000), (4000, 6000));
    }
}
