//! Look-ups eight at a time.

use std::arch::x86_64::*;

/// As [`super::map_in_place`], in groups of eight.
///
/// # Safety
/// Needs AVX2 and 2 <= values.len() <= i32::MAX. Indices are clamped to [0, len - 2] before every read.
#[target_feature(enable = "avx2")]
pub(super) unsafe fn map(start: f32, per_step: f32, last: f32, values: &[f32], row: &mut [f32]) -> usize {
    let (start, per_step) = (_mm256_set1_ps(start), _mm256_set1_ps(per_step));
    let (zero, last) = (_mm256_setzero_ps(), _mm256_set1_ps(last));
    let most = _mm256_set1_epi32(values.len() as i32 - 2);
    let groups = row.chunks_exact_mut(8);
    let done = groups.len() * 8;
    for group in groups {
        // SAFETY: a group has eight values; pairs are read at i and i + 1 with 0 <= i <= len - 2.
        unsafe {
            let x = _mm256_loadu_ps(group.as_ptr());
            let u = _mm256_mul_ps(_mm256_sub_ps(x, start), per_step);
            // the second operand is taken where the first is not a number
            let u = _mm256_min_ps(_mm256_max_ps(u, zero), last);
            let i = _mm256_min_epi32(_mm256_cvttps_epi32(u), most);
            let fraction = _mm256_sub_ps(u, _mm256_cvtepi32_ps(i));
            let [a, b] = eight_pairs(values.as_ptr(), i);
            let y = _mm256_add_ps(a, _mm256_mul_ps(_mm256_sub_ps(b, a), fraction));
            _mm256_storeu_ps(group.as_mut_ptr(), y);
        }
    }
    done
}

/// As [`super::between`], in groups of eight.
///
/// # Safety
/// Needs AVX2 and 2 <= values.len() <= i32::MAX. Indices are held to the last pair before every read.
#[target_feature(enable = "avx2")]
pub(super) unsafe fn between(values: &[f32], index: &[u32], share: &[f32], out: &mut [f32]) -> usize {
    let most = _mm256_set1_epi32(values.len() as i32 - 2);
    let count = out.len().min(index.len()).min(share.len()) / 8 * 8;
    for at in (0..count).step_by(8) {
        // SAFETY: eight follow `at` in each slice; pairs are read at i and i + 1 with 0 <= i <= len - 2.
        unsafe {
            let i = _mm256_min_epu32(_mm256_loadu_si256(index.as_ptr().add(at).cast()), most);
            let [a, b] = eight_pairs(values.as_ptr(), i);
            let y = _mm256_add_ps(a, _mm256_mul_ps(_mm256_sub_ps(b, a), _mm256_loadu_ps(share.as_ptr().add(at))));
            _mm256_storeu_ps(out.as_mut_ptr().add(at), y);
        }
    }
    count
}

/// The values at eight indices, and those that follow them.
///
/// # Safety
/// Needs AVX2; two values must lie at every index.
#[target_feature(enable = "avx2")]
unsafe fn eight_pairs(values: *const f32, index: __m256i) -> [__m256; 2] {
    let at = indices(index);
    // SAFETY: two values lie at every index.
    let pair = |k: usize| unsafe { _mm_castsi128_ps(_mm_loadl_epi64(values.offset(at[k] as isize).cast())) };
    let two = |a: usize, b: usize| _mm_movelh_ps(pair(a), pair(b));
    let (even, odd) = (_mm256_set_m128(two(4, 5), two(0, 1)), _mm256_set_m128(two(6, 7), two(2, 3)));
    [_mm256_shuffle_ps::<0b10_00_10_00>(even, odd), _mm256_shuffle_ps::<0b11_01_11_01>(even, odd)]
}

/// The nodes of a table at indices `k` and `k + 4`, one in each half.
///
/// # Safety
/// Needs AVX2; a node must lie at both indices.
#[target_feature(enable = "avx2")]
#[inline]
pub(crate) unsafe fn two_nodes(nodes: *const [f32; 4], at: &[i32; 8], k: usize) -> __m256 {
    // SAFETY: a node lies at both indices.
    let node = |k: usize| unsafe { _mm_loadu_ps(nodes.offset(at[k] as isize).cast()) };
    _mm256_set_m128(node(k + 4), node(k))
}

/// Eight indices as numbers.
#[target_feature(enable = "avx2")]
#[inline]
pub(crate) fn indices(index: __m256i) -> [i32; 8] {
    let mut at = [0i32; 8];
    // SAFETY: the array takes eight.
    unsafe { _mm256_storeu_si256(at.as_mut_ptr().cast(), index) };
    at
}

/// First, second and third values of eight nodes that come as [`two_nodes`] gives them, for k from 0 to 3.
#[target_feature(enable = "avx2")]
#[inline]
pub(crate) fn side_by_side(nodes: [__m256; 4]) -> [__m256; 3] {
    let [a, b, c, d] = nodes;
    let (ab, cd) = (_mm256_unpacklo_ps(a, b), _mm256_unpacklo_ps(c, d));
    let (ab_high, cd_high) = (_mm256_unpackhi_ps(a, b), _mm256_unpackhi_ps(c, d));
    [
        _mm256_shuffle_ps::<0b01_00_01_00>(ab, cd),
        _mm256_shuffle_ps::<0b11_10_11_10>(ab, cd),
        _mm256_shuffle_ps::<0b01_00_01_00>(ab_high, cd_high),
    ]
}
