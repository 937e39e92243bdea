//! A symmetric filter at one row: the middle row and the pairs of rows around it, each with its tap. Rows are rows of a
//! plane, or one row shifted. Every value sees the same operations in the same order, wherever a tile begins.

use multiversion::multiversion;

/// Values that are summed together: a number that is known beforehand, so that the sums stay in registers.
const CHUNK: usize = 32;

/// The rows on either side of the middle one, from near to far.
pub type Pairs<'a> = [(&'a [f32], &'a [f32])];

/// The rows of a filter and its taps, the middle one first.
#[derive(Debug, Clone, Copy)]
pub struct Weighed<'a> {
    /// The middle row.
    pub middle: &'a [f32],
    /// The rows around it.
    pub pairs: &'a Pairs<'a>,
    /// One for the middle, one for each pair.
    pub taps: &'a [f32],
}

impl Weighed<'_> {
    /// The sums at `N` places from `start`.
    #[inline(always)]
    fn sums<const N: usize>(&self, start: usize) -> [f32; N] {
        let [sums, _] = sums_of_two(self.middle, self.pairs, [self.taps, self.taps], start);
        sums
    }
}

/// What two filters over the same rows give at `N` places from `start`.
#[inline(always)]
fn sums_of_two<const N: usize>(middle: &[f32], pairs: &Pairs, taps: [&[f32]; 2], start: usize) -> [[f32; N]; 2] {
    let mut sums = [[0.0f32; N]; 2];
    let middle = &middle[start..start + N];
    for k in 0..N {
        sums[0][k] = middle[k] * taps[0][0];
        sums[1][k] = middle[k] * taps[1][0];
    }
    for (((left, right), first), second) in pairs.iter().zip(&taps[0][1..]).zip(&taps[1][1..]) {
        let (left, right) = (&left[start..start + N], &right[start..start + N]);
        for k in 0..N {
            let both = left[k] + right[k];
            sums[0][k] += first * both;
            sums[1][k] += second * both;
        }
    }
    sums
}

/// The weighted sum.
#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
pub fn weigh(rows: Weighed, out: &mut [f32]) {
    let whole = out.len() / CHUNK * CHUNK;
    for (at, out) in out.chunks_exact_mut(CHUNK).enumerate() {
        out.copy_from_slice(&rows.sums::<CHUNK>(at * CHUNK));
    }
    for (at, out) in out[whole..].iter_mut().enumerate() {
        [*out] = rows.sums(whole + at);
    }
}

/// The weighted sums of two filters over the same rows.
#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
pub fn weigh_twice(middle: &[f32], pairs: &Pairs, taps: [&[f32]; 2], [first, second]: [&mut [f32]; 2]) {
    let whole = first.len() / CHUNK * CHUNK;
    let chunks = first.chunks_exact_mut(CHUNK).zip(second.chunks_exact_mut(CHUNK));
    for (at, (first, second)) in chunks.enumerate() {
        let sums = sums_of_two::<CHUNK>(middle, pairs, taps, at * CHUNK);
        first.copy_from_slice(&sums[0]);
        second.copy_from_slice(&sums[1]);
    }
    for (at, (first, second)) in first[whole..].iter_mut().zip(&mut second[whole..]).enumerate() {
        [[*first], [*second]] = sums_of_two(middle, pairs, taps, whole + at);
    }
}

/// The weighted sums of two filters, each with its sign, together.
#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
pub fn weigh_both(rows: [Weighed; 2], signs: [f32; 2], out: &mut [f32]) {
    let whole = out.len() / CHUNK * CHUNK;
    for (at, out) in out.chunks_exact_mut(CHUNK).enumerate() {
        let [first, second] = rows.map(|rows| rows.sums::<CHUNK>(at * CHUNK));
        for k in 0..CHUNK {
            out[k] = first[k] * signs[0] + second[k] * signs[1];
        }
    }
    for (at, out) in out[whole..].iter_mut().enumerate() {
        let [[first], [second]] = rows.map(|rows| rows.sums(whole + at));
        *out = first * signs[0] + second * signs[1];
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Against the sums written down as they are defined, for a length that is no whole chunk.
    #[test]
    fn sums_of_their_rows() {
        let row = |k: usize| -> Vec<f32> { (0..71).map(|i| ((i * 13 + k * 29) % 37) as f32 / 7.0).collect() };
        let rows: Vec<Vec<f32>> = (0..5).map(row).collect();
        let (taps, other) = ([0.5f32, 0.2, 0.05], [0.1f32, 0.7, 0.3]);
        let pairs = [(&rows[1][..], &rows[3][..]), (&rows[0][..], &rows[4][..])];
        let wanted = |t: &[f32; 3], i: usize| {
            t[0] * rows[2][i] + t[1] * (rows[1][i] + rows[3][i]) + t[2] * (rows[0][i] + rows[4][i])
        };
        let [mut one, mut first, mut second, mut both] = [(); 4].map(|()| vec![0.0f32; 71]);
        let of = |taps| Weighed { middle: &rows[2], pairs: &pairs, taps };
        weigh(of(&taps), &mut one);
        weigh_twice(&rows[2], &pairs, [&taps, &other], [&mut first, &mut second]);
        weigh_both([of(&taps), of(&other)], [-1.0, 1.0], &mut both);
        for i in 0..71 {
            let (a, b) = (wanted(&taps, i), wanted(&other, i));
            assert_eq!([one[i], first[i], second[i]].map(f32::to_bits), [a, a, b].map(f32::to_bits), "{i}");
            assert_eq!(both[i].to_bits(), (b - a).to_bits(), "{i}");
        }
    }
}
