//! The print table read eight pixels at a time.
//!
//! The same operations in the same order as [`PrintTable::at`], so the same bits, by test.

use super::table::{NODES, PrintTable};

/// Applies the table to three planes in place: eight pixels at a time where the processor has AVX2, with the same bits
/// as one at a time.
pub(super) fn apply(table: &PrintTable, planes: [&mut [f32]; 3]) {
    let [red, green, blue] = planes;
    let done = gathered(table, [&mut *red, &mut *green, &mut *blue]);
    for ((r, g), b) in red[done..].iter_mut().zip(&mut green[done..]).zip(&mut blue[done..]) {
        [*r, *g, *b] = table.at([*r, *g, *b]);
    }
}

/// Reads the table for as many pixels as go in groups of eight; returns how many were done.
fn gathered(table: &PrintTable, planes: [&mut [f32]; 3]) -> usize {
    #[cfg(target_arch = "x86_64")]
    if std::arch::is_x86_feature_detected!("avx2") && table.nodes.len() == NODES * NODES * NODES {
        // SAFETY: the processor has AVX2, and `apply_avx2` reads only within the table's nodes.
        return unsafe { apply_avx2(table, planes) };
    }
    let _ = (table, planes, NODES);
    0
}

/// # Safety
/// Needs AVX2 and NODES cubed nodes. Indices are clamped to the cell of the table before every read.
#[cfg(target_arch = "x86_64")]
#[target_feature(enable = "avx2")]
unsafe fn apply_avx2(table: &PrintTable, planes: [&mut [f32]; 3]) -> usize {
    use std::arch::x86_64::*;

    use crate::numeric::gather::{indices, side_by_side, two_nodes};
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

#[cfg(test)]
mod tests {
    use super::*;

    /// Eight at a time gives the bits of one at a time, on the edges of the tetrahedra and beyond the table too.
    #[test]
    fn many_at_once_are_one_by_one() {
        let table = PrintTable::build([3.0, 2.5, 2.8], &|d: [f32; 3]| {
            [10f32.powf(-d[0] - 0.1 * d[1]), 10f32.powf(-d[1] - 0.2 * d[2]), 10f32.powf(-d[2])]
        });
        let value = |i: usize, k: usize| match i % 11 {
            0 => 0.7,
            1 => f32::NAN,
            2 => 9.0 - i as f32,
            _ => ((i * (k + 3)) as f32 * 0.017) % 3.2,
        };
        let planes: Vec<Vec<f32>> = (0..3).map(|k| (0..1003).map(|i| value(i, k)).collect()).collect();
        let mut many = planes.clone();
        let [r, g, b] = many.as_mut_slice() else { unreachable!() };
        apply(&table, [r, g, b]);
        for i in 0..1003 {
            let one = table.at([planes[0][i], planes[1][i], planes[2][i]]);
            for k in 0..3 {
                assert_eq!(many[k][i].to_bits(), one[k].to_bits(), "pixel {i}");
            }
        }
    }
}
