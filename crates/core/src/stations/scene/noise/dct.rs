//! The orthonormal discrete cosine transform of eight values (DCT-II and its inverse), row against row.
//!
//! Eight rows go in, eight rows come out; value i of each row belongs to one transform, so that the loops vectorise.

use std::ops::Range;

use multiversion::multiversion;

/// Values of one transform.
pub const SIDE: usize = 8;

/// sqrt(1/8).
const C4: f32 = 0.353_553_38;
/// cos(k pi/16) / 2.
const C1: f32 = 0.490_392_63;
const C2: f32 = 0.461_939_77;
const C3: f32 = 0.415_734_8;
const C5: f32 = 0.277_785_12;
const C6: f32 = 0.191_341_71;
const C7: f32 = 0.097_545_16;

#[inline(always)]
fn forward_one(x: [f32; 8]) -> [f32; 8] {
    let (s0, s1, s2, s3) = (x[0] + x[7], x[1] + x[6], x[2] + x[5], x[3] + x[4]);
    let (d0, d1, d2, d3) = (x[0] - x[7], x[1] - x[6], x[2] - x[5], x[3] - x[4]);
    [
        ((s0 + s3) + (s1 + s2)) * C4,
        (d0 * C1 + d1 * C3) + (d2 * C5 + d3 * C7),
        (s0 - s3) * C2 + (s1 - s2) * C6,
        (d0 * C3 - d1 * C7) - (d2 * C1 + d3 * C5),
        ((s0 + s3) - (s1 + s2)) * C4,
        (d0 * C5 - d1 * C1) + (d2 * C7 + d3 * C3),
        (s0 - s3) * C6 - (s1 - s2) * C2,
        (d0 * C7 - d1 * C5) + (d2 * C3 - d3 * C1),
    ]
}

/// The first coefficient alone, by the operations that [`forward`] has for it.
#[inline(always)]
fn level_one(x: [f32; 8]) -> f32 {
    let (s0, s1, s2, s3) = (x[0] + x[7], x[1] + x[6], x[2] + x[5], x[3] + x[4]);
    ((s0 + s3) + (s1 + s2)) * C4
}

/// The first coefficients of as many transforms as there is room for.
#[multiversion(targets("x86_64+avx2"))]
pub fn levels(from: [&[f32]; 8], to: &mut [f32]) {
    let count = to.len();
    let from = from.map(|row| &row[..count]);
    for (i, to) in to.iter_mut().enumerate() {
        *to = level_one(from.map(|row| row[i]));
    }
}

#[inline(always)]
fn inverse_one(x: [f32; 8]) -> [f32; 8] {
    let (e0, e1) = ((x[0] + x[4]) * C4, (x[0] - x[4]) * C4);
    let (f0, f1) = (x[2] * C2 + x[6] * C6, x[2] * C6 - x[6] * C2);
    let (s0, s1, s2, s3) = (e0 + f0, e1 + f1, e1 - f1, e0 - f0);
    let o0 = (x[1] * C1 + x[3] * C3) + (x[5] * C5 + x[7] * C7);
    let o1 = (x[1] * C3 - x[3] * C7) - (x[5] * C1 + x[7] * C5);
    let o2 = (x[1] * C5 - x[3] * C1) + (x[5] * C7 + x[7] * C3);
    let o3 = (x[1] * C7 - x[3] * C5) + (x[5] * C3 - x[7] * C1);
    [s0 + o0, s1 + o1, s2 + o2, s3 + o3, s3 - o3, s2 - o2, s1 - o1, s0 - o0]
}

/// Transforms that are worked on together.
const RUN: usize = 16;

macro_rules! transform {
    ($name:ident, $one:ident, $doc:literal) => {
        #[doc = $doc]
        #[multiversion(targets("x86_64+avx2"))]
        pub fn $name(from: [&[f32]; SIDE], to: [&mut [f32]; SIDE], count: usize) {
            let [a0, a1, a2, a3, a4, a5, a6, a7] = from.map(|row| &row[..count]);
            let [b0, b1, b2, b3, b4, b5, b6, b7] = to;
            let (b0, b1, b2, b3) = (&mut b0[..count], &mut b1[..count], &mut b2[..count], &mut b3[..count]);
            let (b4, b5, b6, b7) = (&mut b4[..count], &mut b5[..count], &mut b6[..count], &mut b7[..count]);
            for i in 0..count {
                let y = $one([a0[i], a1[i], a2[i], a3[i], a4[i], a5[i], a6[i], a7[i]]);
                (b0[i], b1[i], b2[i], b3[i]) = (y[0], y[1], y[2], y[3]);
                (b4[i], b5[i], b6[i], b7[i]) = (y[4], y[5], y[6], y[7]);
            }
        }
    };
}

transform!(forward, forward_one, "Coefficients of `count` transforms.");
transform!(inverse, inverse_one, "Values of `count` transforms from their coefficients.");

/// What happens to the coefficients of a row of transforms.
#[derive(Debug, Clone, Copy)]
pub struct Reduction<'a> {
    /// Magnitude below which a coefficient of each transform is reduced.
    pub threshold: &'a [f32],
    /// Share of it that stays.
    pub kept: f32,
    /// Whether the first coefficient, the mean, is let be.
    pub keeps_first: bool,
}

impl Reduction<'_> {
    /// The eight values of a transform whose coefficients below a limit are reduced.
    #[inline(always)]
    fn of_one(&self, x: [f32; SIDE], limit: f32) -> [f32; SIDE] {
        let mut coefficients = forward_one(x);
        let first = coefficients[0];
        // a loop: a map may be left a call, by values on the stack
        for c in &mut coefficients {
            *c = if c.abs() < limit { *c * self.kept } else { *c };
        }
        if self.keeps_first {
            coefficients[0] = first;
        }
        inverse_one(coefficients)
    }

    /// Transforms of a run or less, in arrays of its own, of which a compiler sees that they do not overlap.
    #[inline(always)]
    fn together(&self, from: [&[f32]; SIDE], to: &mut [&mut [f32]; SIDE], places: Range<usize>) {
        let (mut x, mut limit, mut y) = ([[0.0f32; RUN]; SIDE], [0.0f32; RUN], [[0.0f32; RUN]; SIDE]);
        let count = places.len();
        for (x, from) in x.iter_mut().zip(from) {
            x[..count].copy_from_slice(&from[places.clone()]);
        }
        limit[..count].copy_from_slice(&self.threshold[places.clone()]);
        for i in 0..RUN {
            let made = self.of_one([x[0][i], x[1][i], x[2][i], x[3][i], x[4][i], x[5][i], x[6][i], x[7][i]], limit[i]);
            for (y, made) in y.iter_mut().zip(&made) {
                y[i] = *made;
            }
        }
        for (y, to) in y.iter().zip(to) {
            to[places.clone()].copy_from_slice(&y[..count]);
        }
    }
}

/// Values of `count` transforms whose coefficients are reduced on the way there and back.
#[multiversion(targets("x86_64+avx2"))]
pub fn reduced(from: [&[f32]; SIDE], mut to: [&mut [f32]; SIDE], reduction: &Reduction, count: usize) {
    // of its own: what is behind a reference might be written to
    let reduction = *reduction;
    let whole = count - count % RUN;
    for at in (0..whole).step_by(RUN) {
        reduction.together(from, &mut to, at..at + RUN);
    }
    if whole < count {
        reduction.together(from, &mut to, whole..count);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Against the transform as it is defined: c_k = a_k sum x_i cos(pi (2 i + 1) k / 16).
    #[test]
    fn is_the_transform_of_its_definition_and_comes_back() {
        let x: [f32; 8] = [0.3, -1.2, 0.8, 2.0, -0.4, 0.1, 0.9, -2.2];
        let found = forward_one(x);
        for (k, c) in found.iter().enumerate() {
            let scale = if k == 0 { (1.0f64 / 8.0).sqrt() } else { 0.5 };
            let angle = |i: usize| std::f64::consts::PI * (2 * i + 1) as f64 * k as f64 / 16.0;
            let wanted: f64 = x.iter().enumerate().map(|(i, v)| scale * f64::from(*v) * angle(i).cos()).sum();
            assert!((f64::from(*c) - wanted).abs() < 1e-6, "{k}");
        }
        assert_eq!(level_one(x).to_bits(), found[0].to_bits());
        for (a, b) in inverse_one(found).iter().zip(x) {
            assert!((a - b).abs() < 1e-6);
        }
    }
}
