//! The map eight pixels at a time.

use std::arch::x86_64::*;

use super::{ENTRIES, PixelMap};
use crate::numeric::gather::avx2::{indices, side_by_side, two_nodes};

/// Adds the field for as many pixels as go in groups of eight; returns how many were done.
///
/// # Safety
/// Needs AVX2 and ENTRIES entries. Indices are clamped to the last entry before every read.
#[target_feature(enable = "avx2")]
pub(super) unsafe fn add(map: &PixelMap, field: &[f32], density: &mut [f32]) -> usize {
    let zero = _mm256_setzero_ps();
    let (per_root, half) = (_mm256_set1_ps((ENTRIES - 1) as f32 * 0.5), _mm256_set1_ps(0.5));
    let (last, dmax) = (_mm256_set1_epi32(ENTRIES as i32 - 1), _mm256_set1_ps(map.dmax));
    let entries = map.entries.as_ptr();
    let count = density.len().min(field.len()) / 8 * 8;
    for at in (0..count).step_by(8) {
        // SAFETY: eight values follow `at` in both planes; the index of an entry lies in 0..ENTRIES: the root is
        // not negative, and what is too large for an integer converts to one below 0, which the unsigned minimum
        // takes to the last entry.
        unsafe {
            let d = _mm256_loadu_ps(density.as_ptr().add(at));
            let g = _mm256_loadu_ps(field.as_ptr().add(at));
            let root = _mm256_sqrt_ps(_mm256_max_ps(d, zero));
            let index = _mm256_cvttps_epi32(_mm256_add_ps(_mm256_mul_ps(root, per_root), half));
            let index = indices(_mm256_min_epu32(index, last));
            let [k0, k1, k2] = side_by_side([0, 1, 2, 3].map(|k| two_nodes(entries, &index, k)));
            let sum = _mm256_add_ps(_mm256_add_ps(d, k0), _mm256_mul_ps(k1, g));
            let sum = _mm256_add_ps(sum, _mm256_mul_ps(_mm256_mul_ps(k2, g), g));
            _mm256_storeu_ps(density.as_mut_ptr().add(at), _mm256_min_ps(_mm256_max_ps(sum, zero), dmax));
        }
    }
    count
}
