//! Windows of 8 x 8 pixels, two apart, over a strip of rows.
//!
//! The transform is separable and averaging is linear: columns are transformed once for each row of windows, then each
//! coefficient row across; even and odd columns lie apart, so that windows two pixels apart are neighbours in memory.

use std::ops::Range;

use multiversion::multiversion;

use super::dct::{SIDE, forward, inverse, levels};
use crate::numeric::Sampled;

/// Pixels that a window reaches before and after a row or column.
const BEFORE: usize = 6;
/// Distance of windows.
const STEP: usize = 2;
/// Windows that cover a pixel.
const COVER: f32 = ((SIDE / STEP) * (SIDE / STEP)) as f32;
/// A window's mean of the luminance axis as an encoded value: over the transform's scale and the axis's.
const LEVEL_OF_DC: f32 = 0.577_350_26 / SIDE as f32;

/// What happens to coefficients.
#[derive(Debug, Clone)]
pub struct Shrink {
    /// Magnitude below which a coefficient counts as noise, by the window's mean encoded value.
    pub threshold: Sampled,
    /// Share of such a coefficient that stays.
    pub kept: f32,
}

/// One plane of a strip with what its windows reach, even columns before odd ones.
#[derive(Debug)]
pub struct Windows {
    width: usize,
    rows: usize,
    /// Columns of each parity.
    half: usize,
    values: Vec<f32>,
}

/// Row or column `i` of a frame that is mirrored beyond its edges.
pub fn mirrored(i: i64, size: u32) -> u32 {
    let size = i64::from(size);
    let period = (2 * size).max(1);
    let folded = i.rem_euclid(period);
    (if folded < size { folded } else { period - 1 - folded }) as u32
}

impl Windows {
    pub fn new(width: usize, rows: usize) -> Self {
        let half = (width + 2 * BEFORE + 3) / 2;
        let rows = rows.next_multiple_of(STEP);
        Self { width, rows, half, values: vec![0.0; 2 * half * (rows + 2 * BEFORE + 2)] }
    }

    /// The rows that the windows need, relative to the strip's first.
    pub fn rows_wanted(&self) -> Range<i64> {
        -(BEFORE as i64)..(self.rows + BEFORE + 2) as i64
    }

    /// Puts one of the wanted rows in its place.
    pub fn put(&mut self, row: i64, line: &[f32]) {
        let start = (row + BEFORE as i64) as usize * 2 * self.half;
        let (even, odd) = self.values[start..start + 2 * self.half].split_at_mut(self.half);
        let at = |column: usize| line[mirrored(column as i64 - BEFORE as i64, line.len() as u32) as usize];
        // pairs that lie within the frame as a whole
        let within = BEFORE / 2..(BEFORE / 2 + line.len() / 2).min(self.half);
        split(&line[..2 * within.len()], &mut even[within.clone()], &mut odd[within.clone()]);
        for i in (0..within.start).chain(within.end..self.half) {
            even[i] = at(2 * i);
            odd[i] = at(2 * i + 1);
        }
    }

    fn row(&self, row: usize) -> &[f32] {
        &self.values[row * 2 * self.half..(row + 1) * 2 * self.half]
    }
}

impl Windows {
    /// The strip's own pixels of values that lie as its windows do, each times a share.
    fn read(&self, values: &[f32], share: f32) -> Vec<f32> {
        let (width, half) = (self.width, self.half);
        let mut out = vec![0.0f32; width * self.rows];
        for (row, out) in out.chunks_exact_mut(width).enumerate() {
            let (even, odd) = values[(row + BEFORE) * 2 * half..(row + BEFORE + 1) * 2 * half].split_at(half);
            join(&even[BEFORE / 2..], &odd[BEFORE / 2..], share, out);
        }
        out
    }
}

/// The strip's planes, smoothed; the first plane's windows tell the tone. A plane without a shrink stays.
pub fn smooth(planes: &mut [Windows], shrinks: &[Option<&Shrink>]) -> Vec<Vec<f32>> {
    let half = planes[0].half;
    let mut sums: Vec<Vec<f32>> = planes.iter().map(|p| vec![0.0; p.values.len()]).collect();
    let mut work = Work::new();
    for from in (0..half).step_by(SEGMENT) {
        work.smooth_segment(planes, shrinks, &mut sums, from..half.min(from + SEGMENT));
    }
    let taken = |index: usize| match shrinks[index] {
        Some(_) => planes[index].read(&sums[index], 1.0 / COVER),
        None => planes[index].read(&planes[index].values, 1.0),
    };
    (0..planes.len()).map(taken).collect()
}

/// Columns of each parity that are smoothed together, over all rows of a strip, so that their coefficients stay in the
/// nearest caches.
const SEGMENT: usize = 128;
/// Columns of each parity under a window beside its first.
const BESIDE: usize = SIDE / STEP - 1;

/// One value for each column of a segment and of what its windows reach, even columns before odd ones.
type Line = [f32; 2 * (SEGMENT + 2 * BESIDE)];

fn parts<const N: usize>(lines: &mut [[f32; N]; SIDE], part: Range<usize>) -> [&mut [f32]; SIDE] {
    lines.each_mut().map(|line| &mut line[part.clone()])
}

/// What is written again and again.
struct Work {
    columns: [Line; SIDE],
    across: [Line; SIDE],
    values: [Line; SIDE],
    together: [Line; SIDE],
    back: [Line; SIDE],
    level: Line,
    threshold: Line,
}

impl Work {
    fn new() -> Box<Self> {
        let lines = [[0.0; _]; SIDE];
        let (columns, across, values, together, back) = (lines, lines, lines, lines, lines);
        Box::new(Self { columns, across, values, together, back, level: [0.0; _], threshold: [0.0; _] })
    }

    /// Adds the windows' values to the columns `own` of both parities, over all rows.
    fn smooth_segment(
        &mut self,
        planes: &[Windows],
        shrinks: &[Option<&Shrink>],
        sums: &mut [Vec<f32>],
        own: Range<usize>,
    ) {
        let (rows, half) = (planes[0].rows, planes[0].half);
        // a window covers its first column and three more of each parity
        let reached = own.start.saturating_sub(BESIDE)..half.min(own.end + BESIDE);
        let (span, count) = (reached.len(), reached.len() - BESIDE);
        for top in (0..rows + BEFORE).step_by(STEP) {
            for (index, plane) in planes.iter().enumerate() {
                let told = index == 0;
                if !told && shrinks[index].is_none() {
                    continue;
                }
                let row = |k: usize, parity: usize| &plane.row(top + k)[parity * half..][reached.clone()];
                let Some(shrink) = shrinks[index] else {
                    // only its tone is asked for
                    for parity in 0..2 {
                        let to = &mut self.columns[0][parity * span..(parity + 1) * span];
                        levels(std::array::from_fn(|k| row(k, parity)), to);
                    }
                    levels(neighbours(&self.columns[0], span, count), &mut self.across[0][..count]);
                    self.read_level(count);
                    continue;
                };
                for parity in 0..2 {
                    let to = parts(&mut self.columns, parity * span..(parity + 1) * span);
                    forward(std::array::from_fn(|k| row(k, parity)), to, span);
                }
                self.shrink_windows(shrink, told, span, count);
                inverse(self.together.each_ref().map(|line| &line[..]), parts(&mut self.back, 0..2 * span), 2 * span);
                for (k, line) in self.back.iter().enumerate() {
                    for parity in 0..2 {
                        let start = ((top + k) * 2 + parity) * half + own.start;
                        let from = parity * span + own.start - reached.start;
                        add(&mut sums[index][start..start + own.len()], &line[from..from + own.len()]);
                    }
                }
            }
        }
    }

    /// A row of transformed columns transformed across, for every window.
    fn across_row(&mut self, k: usize, span: usize, count: usize) {
        forward(neighbours(&self.columns[k], span, count), parts(&mut self.across, 0..count), count);
    }

    /// The mean of every window from its first coefficient; both transforms have scaled it.
    fn read_level(&mut self, count: usize) {
        for (level, c) in self.level[..count].iter_mut().zip(&self.across[0]) {
            *level = c * LEVEL_OF_DC;
        }
    }

    /// From columns that are transformed to the same, each the sum of all windows that cover it, shrunk.
    fn shrink_windows(&mut self, shrink: &Shrink, told: bool, span: usize, count: usize) {
        for k in 0..SIDE {
            self.across_row(k, span, count);
            if k == 0 {
                if told {
                    self.read_level(count);
                }
                self.threshold = self.level;
                shrink.threshold.map(&mut self.threshold[..count]);
            }
            for coefficients in self.across.iter_mut().skip(usize::from(k == 0)) {
                reduce(&mut coefficients[..count], &self.threshold, shrink.kept);
            }
            let across = self.across.each_ref().map(|line| &line[..count]);
            inverse(across, parts(&mut self.values, 0..count), count);
            let together = &mut self.together[k][..2 * span];
            together.fill(0.0);
            let (even, odd) = together.split_at_mut(span);
            for i in 0..SIDE / 2 {
                add(&mut even[i..], &self.values[2 * i][..count]);
                add(&mut odd[i..], &self.values[2 * i + 1][..count]);
            }
        }
    }
}

/// The eight columns of every window, as rows.
fn neighbours(line: &[f32], half: usize, count: usize) -> [&[f32]; SIDE] {
    std::array::from_fn(|i| &line[(i % 2) * half + i / 2..][..count])
}

#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
fn reduce(coefficients: &mut [f32], threshold: &[f32], kept: f32) {
    for (c, t) in coefficients.iter_mut().zip(threshold) {
        *c = if c.abs() < *t { *c * kept } else { *c };
    }
}

/// Even columns and odd ones apart.
#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
fn split(line: &[f32], even: &mut [f32], odd: &mut [f32]) {
    for ((pair, e), o) in line.chunks_exact(2).zip(even).zip(odd) {
        (*e, *o) = (pair[0], pair[1]);
    }
}

/// Even columns and odd ones side by side, each times a share.
#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
fn join(even: &[f32], odd: &[f32], share: f32, line: &mut [f32]) {
    for ((pair, e), o) in line.chunks_exact_mut(2).zip(even).zip(odd) {
        pair.copy_from_slice(&[share * e, share * o]);
    }
    let whole = line.len() / 2;
    if let [last] = line.chunks_exact_mut(2).into_remainder() {
        *last = share * even[whole];
    }
}

#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
fn add(to: &mut [f32], from: &[f32]) {
    to.iter_mut().zip(from).for_each(|(t, f)| *t += f);
}

#[cfg(test)]
mod tests {
    use super::*;

    fn strip(width: usize, rows: usize, value: impl Fn(usize, i64) -> f32) -> Windows {
        let mut windows = Windows::new(width, rows);
        for row in windows.rows_wanted() {
            let line: Vec<f32> = (0..width).map(|x| value(x, row)).collect();
            windows.put(row, &line);
        }
        windows
    }

    #[test]
    fn frames_are_mirrored() {
        assert_eq!([-1, -3, 0, 4, 5, 9, 10].map(|i| mirrored(i, 5)), [0, 2, 0, 4, 4, 0, 0]);
        assert_eq!(mirrored(-7, 1), 0);
    }

    #[test]
    fn nothing_below_the_threshold_means_nothing_changes() {
        let value = |x: usize, y: i64| ((x * 13 + y.unsigned_abs() as usize * 7) % 29) as f32 / 29.0;
        for width in [1, 7, 40] {
            let shrink = Shrink { threshold: Sampled::from_values(0.0, 1.0, vec![0.0, 0.0]), kept: 0.0 };
            let mut planes = [strip(width, 10, value)];
            let out = smooth(&mut planes, &[Some(&shrink)]);
            for (i, v) in out[0].iter().take(width * 10).enumerate() {
                assert!((v - value(i % width, (i / width) as i64)).abs() < 2e-6, "{width} {i}");
            }
        }
    }

    #[test]
    fn everything_below_the_threshold_leaves_the_mean() {
        let value = |x: usize, _: i64| 0.5 + 0.01 * (x % 2) as f32;
        let shrink = Shrink { threshold: Sampled::from_values(0.0, 1.0, vec![9.0, 9.0]), kept: 0.0 };
        let out = smooth(&mut [strip(40, 8, value)], &[Some(&shrink)]);
        assert!(out[0].iter().all(|v| (v - 0.505).abs() < 1e-6));
    }
}
