//! A symmetric filter at one row: the middle row and the rows on both sides of it, each with its tap. They are rows of
//! a plane, or one row shifted. Every value sees the same operations in the same order, wherever a tile begins.

use multiversion::multiversion;

/// Values that are summed together, as many as there are left: numbers that are known beforehand, so that the sums stay
/// in registers.
const MANY: usize = 64;
const SOME: usize = 32;
const FEW: usize = 8;

/// The rows of a filter and its taps.
#[derive(Debug, Clone, Copy)]
pub struct Weighed<'a> {
    /// One row after the other, from the furthest on one side to the furthest on the other.
    pub rows: &'a [f32],
    /// From a row's first value to the next row's: 1 where each is the one before, shifted.
    pub stride: usize,
    /// One for the middle, one for each pair of rows around it, from near to far.
    pub taps: &'a [f32],
}

impl Weighed<'_> {
    /// `N` values of a row from `start`.
    #[inline(always)]
    fn row<const N: usize>(&self, row: usize, start: usize) -> &[f32] {
        &self.rows[row * self.stride + start..][..N]
    }

    /// The sums at `N` places from `start`.
    #[inline(always)]
    fn sums<const N: usize>(&self, start: usize) -> [f32; N] {
        let mut sums = [0.0f32; N];
        let radius = self.taps.len() - 1;
        let middle = self.row::<N>(radius, start);
        for k in 0..N {
            sums[k] = middle[k] * self.taps[0];
        }
        for (tap, j) in self.taps[1..].iter().zip(1..) {
            let (left, right) = (self.row::<N>(radius - j, start), self.row::<N>(radius + j, start));
            for k in 0..N {
                sums[k] += tap * (left[k] + right[k]);
            }
        }
        sums
    }

    /// The sums at `N` places from `start`, and with other taps.
    #[inline(always)]
    fn sums_of_two<const N: usize>(&self, others: &[f32], start: usize) -> [[f32; N]; 2] {
        let (mut first, mut second) = ([0.0f32; N], [0.0f32; N]);
        let radius = self.taps.len() - 1;
        let middle = self.row::<N>(radius, start);
        for k in 0..N {
            first[k] = middle[k] * self.taps[0];
            second[k] = middle[k] * others[0];
        }
        for ((tap, other), j) in self.taps[1..].iter().zip(&others[1..]).zip(1..) {
            let (left, right) = (self.row::<N>(radius - j, start), self.row::<N>(radius + j, start));
            for k in 0..N {
                let both = left[k] + right[k];
                first[k] += tap * both;
                second[k] += other * both;
            }
        }
        [first, second]
    }
}

/// Whole runs of `N` values from `start`, each filled from its place; where they end.
#[inline(always)]
fn in_runs<const N: usize>(out: &mut [f32], start: usize, fill: impl Fn(usize, &mut [f32; N])) -> usize {
    let (runs, _) = out[start..].as_chunks_mut();
    let mut at = start;
    for run in runs {
        fill(at, run);
        at += N;
    }
    at
}

/// The weighed sum.
#[multiversion(targets("x86_64+avx2"))]
pub fn weigh(rows: Weighed, out: &mut [f32]) {
    let many = in_runs::<MANY>(out, 0, |at, run| *run = rows.sums(at));
    let few = in_runs::<FEW>(out, many, |at, run| *run = rows.sums(at));
    in_runs::<1>(out, few, |at, run| *run = rows.sums(at));
}

/// The weighed sums of two filters, each with its sign, together.
#[multiversion(targets("x86_64+avx2"))]
pub fn weigh_both(rows: [Weighed; 2], signs: [f32; 2], out: &mut [f32]) {
    let many = in_runs::<MANY>(out, 0, |at, run| signed(rows, signs, at, run));
    let few = in_runs::<FEW>(out, many, |at, run| signed(rows, signs, at, run));
    in_runs::<1>(out, few, |at, run| signed(rows, signs, at, run));
}

#[inline(always)]
fn signed<const N: usize>(rows: [Weighed; 2], signs: [f32; 2], start: usize, out: &mut [f32; N]) {
    let (first, second) = (rows[0].sums::<N>(start), rows[1].sums::<N>(start));
    for k in 0..N {
        out[k] = first[k] * signs[0] + second[k] * signs[1];
    }
}

/// The weighed sums over the same rows, and those with other taps.
#[multiversion(targets("x86_64+avx2"))]
pub fn weigh_twice(rows: Weighed, others: &[f32], [first, second]: [&mut [f32]; 2]) {
    let some = two_in_runs::<SOME>(rows, others, [&mut *first, &mut *second], 0);
    let few = two_in_runs::<FEW>(rows, others, [&mut *first, &mut *second], some);
    two_in_runs::<1>(rows, others, [first, second], few);
}

#[inline(always)]
fn two_in_runs<const N: usize>(rows: Weighed, others: &[f32], out: [&mut [f32]; 2], start: usize) -> usize {
    let mut at = start;
    let [(first, _), (second, _)] = out.map(|out| out[start..].as_chunks_mut::<N>());
    for (first, second) in first.iter_mut().zip(second) {
        [*first, *second] = rows.sums_of_two(others, at);
        at += N;
    }
    at
}

#[cfg(test)]
mod tests {
    use super::*;

    /// As long as each number of values that are summed together, once, and three more.
    const LENGTH: usize = MANY + SOME + FEW + 3;

    /// Against the sums written down as they are defined, over rows apart and over one row shifted.
    #[test]
    fn sums_of_their_rows() {
        for stride in [LENGTH, LENGTH + 5, 1] {
            let all: Vec<f32> = (0..4 * stride + LENGTH).map(|i| (i * 13 % 37) as f32 / 7.0).collect();
            let (taps, other) = ([0.5f32, 0.2, 0.05], [0.1f32, 0.7, 0.3]);
            let wanted = |t: &[f32; 3], i: usize| {
                let row = |k: usize| all[k * stride + i];
                t[0] * row(2) + t[1] * (row(1) + row(3)) + t[2] * (row(0) + row(4))
            };
            let [mut one, mut first, mut second, mut both] = [(); 4].map(|()| vec![0.0f32; LENGTH]);
            let of = |taps| Weighed { rows: &all, stride, taps };
            weigh(of(&taps), &mut one);
            weigh_twice(of(&taps), &other, [&mut first, &mut second]);
            weigh_both([of(&taps), of(&other)], [-1.0, 1.0], &mut both);
            for i in 0..LENGTH {
                let (a, b) = (wanted(&taps, i), wanted(&other, i));
                assert_eq!([one[i], first[i], second[i]].map(f32::to_bits), [a, a, b].map(f32::to_bits), "{i}");
                assert_eq!(both[i].to_bits(), (b - a).to_bits(), "{i}");
            }
        }
    }
}
