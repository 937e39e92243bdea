//! The print's table eight pixels at a time.

use std::arch::x86_64::*;

use super::super::table::{NODES, PrintTable};
use crate::numeric::gather::avx2::{indices, side_by_side, two_nodes};

/// Reads the table for as many pixels as go in groups of eight; returns how many were done.
///
/// # Safety
/// Needs AVX2 and NODES cubed nodes. Indices are clamped to the cell of the table before every read.
#[target_feature(enable = "avx2")]
pub(super) unsafe fn apply(table: &PrintTable, planes: [&mut [f32]; 3]) -> usize {
    const R: i32 = (NODES * NODES) as i32;
    const G: i32 = NODES as i32;
    const B: i32 = 1;
    let [red, green, blue] = planes;
    let per_density = table.per_density.map(|p| _mm256_set1_ps(p));
    let (zero, one) = (_mm256_setzero_ps(), _mm256_set1_ps(1.0));
    let last = _mm256_set1_ps((NODES - 1) as f32);
    let most = _mm256_set1_epi32(NODES as i32 - 2);
    let [step_r, step_g, step_b] = [R, G, B].map(|s| _mm256_set1_epi32(s));
    let nodes = table.nodes.as_ptr();
    let count = red.len().min(green.len()).min(blue.len()) / 8 * 8;
    for at in (0..count).step_by(8) {
        // SAFETY: eight values follow `at` in each plane; every load takes a node whose index lies within the
        // table, because each cell index is at most NODES - 2 and each step at most one cell.
        unsafe {
            let place = |plane: &[f32], per: __m256| {
                let u = _mm256_mul_ps(_mm256_loadu_ps(plane.as_ptr().add(at)), per);
                let u = _mm256_min_ps(_mm256_max_ps(u, zero), last);
                let i = _mm256_min_epi32(_mm256_cvttps_epi32(u), most);
                (i, _mm256_sub_ps(u, _mm256_cvtepi32_ps(i)))
            };
            let (ir, fr) = place(red, per_density[0]);
            let (ig, fg) = place(green, per_density[1]);
            let (ib, fb) = place(blue, per_density[2]);
            let base =
                _mm256_add_epi32(_mm256_add_epi32(_mm256_mullo_epi32(ir, step_r), _mm256_mullo_epi32(ig, step_g)), ib);
            let choose =
                |mask: __m256, yes: __m256i, no: __m256i| _mm256_blendv_epi8(no, yes, _mm256_castps_si256(mask));
            let red_first = _mm256_cmp_ps::<_CMP_GE_OQ>(fr, fg);
            let (more, less) = (_mm256_blendv_ps(fg, fr, red_first), _mm256_blendv_ps(fr, fg, red_first));
            let (step_more, step_less) = (choose(red_first, step_r, step_g), choose(red_first, step_g, step_r));
            let blue_below = _mm256_cmp_ps::<_CMP_GE_OQ>(more, fb);
            let (largest, step_a) = (_mm256_blendv_ps(fb, more, blue_below), choose(blue_below, step_more, step_b));
            let blue_above = _mm256_cmp_ps::<_CMP_LE_OQ>(less, fb);
            let (smallest, step_c) = (_mm256_blendv_ps(fb, less, blue_above), choose(blue_above, step_less, step_b));
            let middle = _mm256_max_ps(less, _mm256_min_ps(more, fb));
            let end = _mm256_add_epi32(base, _mm256_set1_epi32(R + G + B));
            let corners =
                [base, _mm256_add_epi32(base, step_a), _mm256_sub_epi32(end, step_c), end].map(|c| indices(c));
            let weights = [
                _mm256_sub_ps(one, largest),
                _mm256_sub_ps(largest, middle),
                _mm256_sub_ps(middle, smallest),
                smallest,
            ];
            // each half of a vector is a pixel: the four corners of its cell, each by its weight
            let part = |c: usize, k: usize, weight: __m256| _mm256_mul_ps(weight, two_nodes(nodes, &corners[c], k));
            let sum = |k: usize, [w0, wa, wb, wc]: [__m256; 4]| {
                let (near, far) = (_mm256_add_ps(part(0, k, w0), part(1, k, wa)), (part(2, k, wb), part(3, k, wc)));
                _mm256_add_ps(near, _mm256_add_ps(far.0, far.1))
            };
            let mixed = side_by_side([
                sum(0, weights.map(|w| _mm256_shuffle_ps::<0b00_00_00_00>(w, w))),
                sum(1, weights.map(|w| _mm256_shuffle_ps::<0b01_01_01_01>(w, w))),
                sum(2, weights.map(|w| _mm256_shuffle_ps::<0b10_10_10_10>(w, w))),
                sum(3, weights.map(|w| _mm256_shuffle_ps::<0b11_11_11_11>(w, w))),
            ]);
            for (plane, values) in [&mut *red, &mut *green, &mut *blue].into_iter().zip(mixed) {
                _mm256_storeu_ps(plane.as_mut_ptr().add(at), values);
            }
        }
    }
    count
}
