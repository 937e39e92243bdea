//! Windows of 8 x 8 pixels, two apart, over a cell of a frame.
//!
//! The transform is separable and averaging is linear: columns are transformed once for each row of windows, then each
//! coefficient row across; even and odd columns lie apart, so that windows two pixels apart are neighbours in memory.
//! What a cell needs stays in the second cache.

use std::ops::Range;

use multiversion::multiversion;

use super::dct::{Reduction, SIDE, forward, inverse, levels, reduced};
use crate::numeric::Sampled;
use crate::picture::Region;

/// Pixels that a window reaches before and after a row or column.
const BEFORE: usize = 6;
/// Distance of windows.
const STEP: usize = 2;
/// Windows that cover a pixel.
const COVER: f32 = ((SIDE / STEP) * (SIDE / STEP)) as f32;
/// Columns of each parity under a window beside its first.
const BESIDE: usize = SIDE / STEP - 1;
/// A window's mean of the luminance axis as an encoded value: over the transform's scale and the axis's.
const LEVEL_OF_DC: f32 = 0.577_350_26 / SIDE as f32;

/// Columns of a cell at most; cells begin at its multiples, for windows lie on even columns.
const WIDEST: u32 = 256;

/// The cells of a strip of rows.
pub fn cells(strip: Region) -> impl Iterator<Item = Region> {
    let width = move |x: u32| WIDEST.min(strip.right() - x);
    let starts = (strip.x..strip.right()).step_by(WIDEST as usize);
    starts.map(move |x| Region::new(x, strip.y, width(x), strip.height))
}

/// What happens to coefficients.
#[derive(Debug, Clone)]
pub struct Shrink {
    /// Magnitude below which a coefficient counts as noise, by the window's mean encoded value.
    pub threshold: Sampled,
    /// Share of such a coefficient that stays.
    pub kept: f32,
}

/// Row or column `i` of a frame that is mirrored beyond its edges.
fn mirrored(i: i64, size: u32) -> u32 {
    let size = i64::from(size);
    let period = (2 * size).max(1);
    let folded = i.rem_euclid(period);
    (if folded < size { folded } else { period - 1 - folded }) as u32
}

/// Smooths planes cell by cell; what it needs for one is kept for the next.
pub struct Smoother<const N: usize> {
    rows: usize,
    /// Columns of each parity, with those that windows reach.
    half: usize,
    /// Each plane with what its windows reach, row by row, even columns before odd ones.
    values: [Vec<f32>; N],
    /// The sums of what windows make of a plane, in the same places.
    sums: [Vec<f32>; N],
    /// A row of each plane as it is read.
    lines: [Vec<f32>; N],
    shrunk: [bool; N],
    work: Box<Work>,
}

impl<const N: usize> Smoother<N> {
    pub fn new() -> Self {
        let none = || [(); N].map(|()| Vec::new());
        let (values, sums, lines) = (none(), none(), none());
        Self { rows: 0, half: 0, values, sums, lines, shrunk: [false; N], work: Work::new() }
    }

    /// Smooths a cell of a frame. `read` gives some columns of a row of each plane. The first plane's windows tell the
    /// tone; a plane without a shrink stays.
    pub fn smooth(
        &mut self,
        [width, height]: [u32; 2],
        cell: Region,
        shrinks: [Option<&Shrink>; N],
        mut read: impl FnMut(u32, Range<u32>, [&mut [f32]; N]),
    ) {
        self.begin(cell);
        let first = i64::from(cell.x) - BEFORE as i64;
        let columns = first..first + 2 * self.half as i64;
        let within = columns.start.max(0) as u32..columns.end.min(i64::from(width)) as u32;
        let place = |column: u32| (i64::from(column) - first) as usize;
        for row in 0..self.rows + 2 * BEFORE + 2 {
            let y = mirrored(i64::from(cell.y) + row as i64 - BEFORE as i64, height);
            read(
                y,
                within.clone(),
                self.lines.each_mut().map(|line| &mut line[place(within.start)..place(within.end)]),
            );
            for (line, values) in self.lines.iter_mut().zip(&mut self.values) {
                for column in (columns.start..0).chain(i64::from(width)..columns.end) {
                    line[(column - first) as usize] = line[place(mirrored(column, width))];
                }
                let (even, odd) = values[row * 2 * self.half..(row + 1) * 2 * self.half].split_at_mut(self.half);
                split(line, even, odd);
            }
        }
        self.shrunk = shrinks.map(|shrink| shrink.is_some());
        self.work.smooth(self.rows, self.half, (&self.values, &mut self.sums), shrinks);
    }

    fn begin(&mut self, cell: Region) {
        self.rows = (cell.height as usize).next_multiple_of(STEP);
        // as many windows as cover a pixel of the cell, two columns for each, and what the last ones reach
        self.half = (cell.width as usize + BEFORE + 1) / STEP + BESIDE;
        for line in &mut self.lines {
            line.resize(2 * self.half, 0.0);
        }
        for values in &mut self.values {
            values.resize(2 * self.half * (self.rows + 2 * BEFORE + 2), 0.0);
        }
        for sums in &mut self.sums {
            sums.clear();
            sums.resize(2 * self.half * (self.rows + 2 * BEFORE + 2), 0.0);
        }
    }

    /// A row of a plane of the cell, smoothed.
    pub fn row(&self, plane: usize, row: usize, out: &mut [f32]) {
        let (values, share) = match self.shrunk[plane] {
            true => (&self.sums[plane], 1.0 / COVER),
            false => (&self.values[plane], 1.0),
        };
        let start = (row + BEFORE) * 2 * self.half;
        let (even, odd) = values[start..start + 2 * self.half].split_at(self.half);
        join(&even[BEFORE / 2..], &odd[BEFORE / 2..], share, out);
    }
}

/// One value for each column of a cell and of what its windows reach, even columns before odd ones.
type Line = [f32; 2 * ((WIDEST as usize + BEFORE + 1) / STEP + BESIDE)];

/// One value for each window over a cell, between zeros for the windows that lie beside it.
type Padded = [f32; (WIDEST as usize + BEFORE + 1) / STEP + 2 * BESIDE];

fn parts<const N: usize>(lines: &mut [[f32; N]; SIDE], part: Range<usize>) -> [&mut [f32]; SIDE] {
    lines.each_mut().map(|line| &mut line[part.clone()])
}

/// What is written again and again.
struct Work {
    columns: [Line; SIDE],
    values: [Padded; SIDE],
    together: [Line; SIDE],
    back: [Line; SIDE],
    level: Line,
    threshold: Line,
}

impl Work {
    fn new() -> Box<Self> {
        let (columns, together, back) = ([[0.0; _]; SIDE], [[0.0; _]; SIDE], [[0.0; _]; SIDE]);
        let values = [[0.0; _]; SIDE];
        Box::new(Self { columns, values, together, back, level: [0.0; _], threshold: [0.0; _] })
    }

    /// Adds what the windows make of the planes to their sums.
    fn smooth<const N: usize>(
        &mut self,
        rows: usize,
        half: usize,
        (planes, sums): (&[Vec<f32>; N], &mut [Vec<f32>; N]),
        shrinks: [Option<&Shrink>; N],
    ) {
        let count = half - BESIDE;
        for values in &mut self.values {
            values[BESIDE + count..].fill(0.0);
        }
        for top in (0..rows + BEFORE).step_by(STEP) {
            for (index, (plane, sums)) in planes.iter().zip(&mut *sums).enumerate() {
                let row = |k: usize| &plane[(top + k) * 2 * half..(top + k + 1) * 2 * half];
                let from = std::array::from_fn(row);
                let told = index == 0;
                match shrinks[index] {
                    None if told => {
                        levels(from, &mut self.columns[0][..2 * half]);
                        self.read_level(half, count);
                    }
                    None => {}
                    Some(shrink) => {
                        forward(from, parts(&mut self.columns, 0..2 * half), 2 * half);
                        if told {
                            self.read_level(half, count);
                        }
                        self.shrink_windows(shrink, half, count);
                        let together = self.together.each_ref().map(|line| &line[..]);
                        inverse(together, parts(&mut self.back, 0..2 * half), 2 * half);
                        for (sums, back) in sums[top * 2 * half..].chunks_exact_mut(2 * half).zip(&self.back) {
                            add(sums, back);
                        }
                    }
                }
            }
        }
    }

    /// The mean of every window from its first coefficient; both transforms have scaled it.
    fn read_level(&mut self, half: usize, count: usize) {
        let level = &mut self.level[..count];
        levels(neighbours(&self.columns[0], half, count), level);
        level.iter_mut().for_each(|c| *c *= LEVEL_OF_DC);
    }

    /// From columns that are transformed to the same, each the sum of all windows that cover it, shrunk.
    fn shrink_windows(&mut self, shrink: &Shrink, half: usize, count: usize) {
        self.threshold = self.level;
        shrink.threshold.map(&mut self.threshold[..count]);
        let (threshold, kept) = (&self.threshold[..count], shrink.kept);
        for (k, columns) in self.columns.iter().enumerate() {
            let reduction = Reduction { threshold, kept, keeps_first: k == 0 };
            let windows = parts(&mut self.values, BESIDE..BESIDE + count);
            reduced(neighbours(columns, half, count), windows, &reduction, count);
            let (even, odd) = self.together[k][..2 * half].split_at_mut(half);
            for (parity, together) in [even, odd].into_iter().enumerate() {
                // the window that begins i pairs before a column covers it with its pair i
                add_four(std::array::from_fn(|i| &self.values[2 * i + parity][BESIDE - i..][..half]), together);
            }
        }
    }
}

/// The eight columns of every window, as rows.
fn neighbours(line: &[f32], half: usize, count: usize) -> [&[f32]; SIDE] {
    std::array::from_fn(|i| &line[(i % 2) * half + i / 2..][..count])
}

/// Even columns and odd ones apart.
#[multiversion(targets("x86_64+avx2"))]
fn split(line: &[f32], even: &mut [f32], odd: &mut [f32]) {
    for ((pair, e), o) in line.chunks_exact(2).zip(even).zip(odd) {
        (*e, *o) = (pair[0], pair[1]);
    }
}

/// Even columns and odd ones side by side, each times a share.
#[multiversion(targets("x86_64+avx2"))]
fn join(even: &[f32], odd: &[f32], share: f32, line: &mut [f32]) {
    for ((pair, e), o) in line.chunks_exact_mut(2).zip(even).zip(odd) {
        pair.copy_from_slice(&[share * e, share * o]);
    }
    let whole = line.len() / 2;
    if let [last] = line.chunks_exact_mut(2).into_remainder() {
        *last = share * even[whole];
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn add(to: &mut [f32], from: &[f32]) {
    to.iter_mut().zip(from).for_each(|(t, f)| *t += f);
}

/// Sums of four, in their order.
#[multiversion(targets("x86_64+avx2"))]
fn add_four(from: [&[f32]; SIDE / STEP], to: &mut [f32]) {
    let [a, b, c, d] = from.map(|row| &row[..to.len()]);
    for (i, to) in to.iter_mut().enumerate() {
        *to = ((a[i] + b[i]) + c[i]) + d[i];
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A frame of one plane smoothed cell by cell.
    fn smoothed(width: u32, height: u32, value: &dyn Fn(u32, u32) -> f32, shrink: &Shrink) -> Vec<f32> {
        let mut smoother = Smoother::<1>::new();
        let mut out = vec![0.0; (width * height) as usize];
        for cell in cells(Region::whole(width, height)) {
            smoother.smooth([width, height], cell, [Some(shrink)], |y, columns, [line]| {
                line.iter_mut().zip(columns).for_each(|(v, x)| *v = value(x, y));
            });
            for y in 0..height {
                let start = (y * width + cell.x) as usize;
                smoother.row(0, y as usize, &mut out[start..start + cell.width as usize]);
            }
        }
        out
    }

    fn all_below(threshold: f32) -> Shrink {
        Shrink { threshold: Sampled::from_values(0.0, 1.0, vec![threshold; 2]), kept: 0.0 }
    }

    #[test]
    fn frames_are_mirrored() {
        assert_eq!([-1, -3, 0, 4, 5, 9, 10].map(|i| mirrored(i, 5)), [0, 2, 0, 4, 4, 0, 0]);
        assert_eq!(mirrored(-7, 1), 0);
    }

    /// Frames narrower than a window, of a cell and a column, of several cells.
    #[test]
    fn nothing_below_the_threshold_means_nothing_changes() {
        let value = |x: u32, y: u32| ((x * 13 + y * 7) % 29) as f32 / 29.0;
        for (width, height) in [(1, 10), (2, 1), (7, 3), (40, 10), (257, 9), (258, 8), (600, 2)] {
            let out = smoothed(width, height, &value, &all_below(0.0));
            for (i, v) in (0..).zip(out) {
                assert!((v - value(i % width, i / width)).abs() < 2e-6, "{width} x {height}: {i}");
            }
        }
    }

    #[test]
    fn everything_below_the_threshold_leaves_the_mean() {
        let out = smoothed(40, 8, &|x, _| 0.5 + 0.01 * (x % 2) as f32, &all_below(9.0));
        assert!(out.iter().all(|v| (v - 0.505).abs() < 1e-6));
    }

    /// Where cells meet, windows reach into both: the bits are those of a frame that begins elsewhere.
    #[test]
    fn cells_do_not_show() {
        let value = |x: u32, y: u32| 0.3 + 0.05 * ((x * 31 + y * 17) % 23) as f32 / 23.0;
        let shrink = Shrink { threshold: Sampled::from_values(0.0, 1.0, vec![0.01, 0.1]), kept: 0.2 };
        let whole = smoothed(700, 20, &value, &shrink);
        let aside = smoothed(700 - 128, 20, &|x, y| value(x + 128, y), &shrink);
        // beyond what the frame's own edge reaches
        for (x, y) in (144..692).flat_map(|x| (0..20).map(move |y| (x, y))) {
            let (a, b) = (whole[y * 700 + x], aside[y * (700 - 128) + x - 128]);
            assert_eq!(a.to_bits(), b.to_bits(), "{x} {y}");
        }
    }
}
