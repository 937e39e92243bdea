//! The print's table four pixels at a time, as ARM's vectors hold them.

use std::arch::aarch64::*;

use super::super::table::{NODES, PrintTable};
use crate::numeric::gather::neon::{indices, numbers, place, side_by_side};

/// Reads the table for as many pixels as go in groups of four; returns how many were done.
///
/// # Safety
/// Needs NODES cubed nodes. Indices are clamped to the cell of the table before every read.
#[target_feature(enable = "neon")]
pub(super) unsafe fn apply(table: &PrintTable, planes: [&mut [f32]; 3]) -> usize {
    const R: u32 = (NODES * NODES) as u32;
    const G: u32 = NODES as u32;
    const B: u32 = 1;
    let [red, green, blue] = planes;
    let (last, most) = (vdupq_n_f32((NODES - 1) as f32), vdupq_n_u32(NODES as u32 - 2));
    let [step_r, step_g, step_b] = [R, G, B].map(|s| vdupq_n_u32(s));
    let whole = vdupq_n_u32(R + G + B);
    let nodes = table.nodes.as_ptr();
    let count = red.len().min(green.len()).min(blue.len()) / 4 * 4;
    for at in (0..count).step_by(4) {
        // SAFETY: four values follow `at` in each plane.
        let cell = |plane: &[f32], k: usize| unsafe {
            let u = vmulq_n_f32(vld1q_f32(plane.as_ptr().add(at)), table.per_density[k]);
            place(u, last, most)
        };
        let ((ir, fr), (ig, fg), (ib, fb)) = (cell(red, 0), cell(green, 1), cell(blue, 2));
        let base = vaddq_u32(vaddq_u32(vmulq_u32(ir, step_r), vmulq_u32(ig, step_g)), ib);
        // the tetrahedron's corners are passed in the order of the sorted fractions: largest, middle, smallest
        let red_first = vcgeq_f32(fr, fg);
        let (more, less) = (vbslq_f32(red_first, fr, fg), vbslq_f32(red_first, fg, fr));
        let (step_more, step_less) = (vbslq_u32(red_first, step_r, step_g), vbslq_u32(red_first, step_g, step_r));
        let blue_below = vcgeq_f32(more, fb);
        let (largest, step_a) = (vbslq_f32(blue_below, more, fb), vbslq_u32(blue_below, step_more, step_b));
        let blue_above = vcleq_f32(less, fb);
        let (smallest, step_c) = (vbslq_f32(blue_above, less, fb), vbslq_u32(blue_above, step_less, step_b));
        let middle = vmaxq_f32(less, vminq_f32(more, fb));
        let end = vaddq_u32(base, whole);
        let corners = [base, vaddq_u32(base, step_a), vsubq_u32(end, step_c), end].map(|c| indices(c));
        let weights =
            [vsubq_f32(vdupq_n_f32(1.0), largest), vsubq_f32(largest, middle), vsubq_f32(middle, smallest), smallest]
                .map(|w| numbers(w));
        // a vector is a pixel: the four corners of its cell, each by its weight
        // SAFETY: each cell index is at most NODES - 2 and each step at most one cell, so that a node is there.
        let part =
            |c: usize, k: usize| unsafe { vmulq_n_f32(vld1q_f32(nodes.add(corners[c][k]).cast()), weights[c][k]) };
        let pixel = |k: usize| vaddq_f32(vaddq_f32(part(0, k), part(1, k)), vaddq_f32(part(2, k), part(3, k)));
        let mixed = side_by_side([pixel(0), pixel(1), pixel(2), pixel(3)]);
        for (plane, values) in [&mut *red, &mut *green, &mut *blue].into_iter().zip(mixed) {
            // SAFETY: four values follow `at` in each plane.
            unsafe { vst1q_f32(plane.as_mut_ptr().add(at), values) };
        }
    }
    count
}
