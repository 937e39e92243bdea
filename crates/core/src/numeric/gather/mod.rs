//! Table look-ups eight at a time.
//!
//! The only place with machine instructions by name, with what reads the print's table and the grain's map: compilers
//! do not turn indexed loads into vectors by themselves. What is wanted of a table lies side by side in it, so each
//! pixel takes one load of a pair or of a node of four; the processor's own gather instruction takes 2.4 times as long
//! where it has been slowed down for safety, as it has on most. Same operations in the same order as the scalar
//! look-up, so the same bits.

#[cfg(target_arch = "x86_64")]
use std::arch::x86_64::*;

/// Interpolates `values` at (x - start) * per_step for as many values of `row` as go in groups of eight; returns how
/// many were done. None where the processor has no AVX2.
pub(super) fn map_in_place(start: f32, per_step: f32, last: f32, values: &[f32], row: &mut [f32]) -> usize {
    #[cfg(target_arch = "x86_64")]
    if std::arch::is_x86_feature_detected!("avx2") && (2..i32::MAX as usize).contains(&values.len()) {
        // SAFETY: the processor has AVX2, and `map_avx2` reads only within `values`.
        return unsafe { map_avx2(start, per_step, last, values, row) };
    }
    let _ = (start, per_step, last, values, row);
    0
}

/// # Safety
/// Needs AVX2 and 2 <= values.len() <= i32::MAX. Indices are clamped to [0, len - 2] before every read.
#[cfg(target_arch = "x86_64")]
#[target_feature(enable = "avx2")]
unsafe fn map_avx2(start: f32, per_step: f32, last: f32, values: &[f32], row: &mut [f32]) -> usize {
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

/// Between the values at indices and those that follow them, by shares: v[i] + (v[i + 1] - v[i]) share. There are at
/// least two values; an index beyond the last pair reads the last pair.
pub(crate) fn between(values: &[f32], index: &[u32], share: &[f32], out: &mut [f32]) {
    let Some(last) = values.len().checked_sub(2) else { return };
    let done = between_eights(values, index, share, out);
    for ((o, i), s) in out[done..].iter_mut().zip(&index[done..]).zip(&share[done..]) {
        let i = (*i as usize).min(last);
        *o = values[i] + (values[i + 1] - values[i]) * s;
    }
}

/// As many as go in groups of eight, where the processor has AVX2.
fn between_eights(values: &[f32], index: &[u32], share: &[f32], out: &mut [f32]) -> usize {
    #[cfg(target_arch = "x86_64")]
    if std::arch::is_x86_feature_detected!("avx2") && (2..i32::MAX as usize).contains(&values.len()) {
        // SAFETY: the processor has AVX2, and `between_avx2` reads only within the slices.
        return unsafe { between_avx2(values, index, share, out) };
    }
    let _ = (values, index, share, out);
    0
}

/// # Safety
/// Needs AVX2 and 2 <= values.len() <= i32::MAX. Indices are held to the last pair before every read.
#[cfg(target_arch = "x86_64")]
#[target_feature(enable = "avx2")]
unsafe fn between_avx2(values: &[f32], index: &[u32], share: &[f32], out: &mut [f32]) -> usize {
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
#[cfg(target_arch = "x86_64")]
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
#[cfg(target_arch = "x86_64")]
#[target_feature(enable = "avx2")]
#[inline]
pub(crate) unsafe fn two_nodes(nodes: *const [f32; 4], at: &[i32; 8], k: usize) -> __m256 {
    // SAFETY: a node lies at both indices.
    let node = |k: usize| unsafe { _mm_loadu_ps(nodes.offset(at[k] as isize).cast()) };
    _mm256_set_m128(node(k + 4), node(k))
}

/// Eight indices as numbers.
#[cfg(target_arch = "x86_64")]
#[target_feature(enable = "avx2")]
#[inline]
pub(crate) fn indices(index: __m256i) -> [i32; 8] {
    let mut at = [0i32; 8];
    // SAFETY: the array takes eight.
    unsafe { _mm256_storeu_si256(at.as_mut_ptr().cast(), index) };
    at
}

/// First, second and third values of eight nodes that come as [`two_nodes`] gives them, for k from 0 to 3.
#[cfg(target_arch = "x86_64")]
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

#[cfg(test)]
mod tests {
    use super::*;

    /// Eight at a time gives the bits of one at a time, indices beyond the end too.
    #[test]
    fn many_between_are_one_by_one() {
        let values: Vec<f32> = (0..97).map(|i| (i as f32 * 0.7).sin()).collect();
        let index: Vec<u32> = (0..203).map(|i| if i == 11 { u32::MAX } else { i * 31 % 96 }).collect();
        let share: Vec<f32> = (0..203).map(|i| (i % 17) as f32 / 17.0).collect();
        let mut out = vec![0.0; 203];
        between(&values, &index, &share, &mut out);
        for ((o, i), s) in out.iter().zip(&index).zip(&share) {
            let i = (*i as usize).min(95);
            assert_eq!(o.to_bits(), (values[i] + (values[i + 1] - values[i]) * s).to_bits());
        }
        between(&[1.0], &[0], &[0.5], &mut out);
    }
}
