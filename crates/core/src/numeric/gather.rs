//! Table look-ups eight at a time, where the processor can gather.
//!
//! The only place with machine instructions by name: compilers do not turn indexed loads into gathers by themselves.
//! Same operations in the same order as the scalar look-up, so the same bits.

/// Interpolates `values` at (x - start) * per_step for as many values of `row` as go in groups of eight; returns how
/// many were done. None where the processor cannot gather.
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
    use std::arch::x86_64::*;
    let (start, per_step) = (_mm256_set1_ps(start), _mm256_set1_ps(per_step));
    let (zero, last) = (_mm256_setzero_ps(), _mm256_set1_ps(last));
    let most = _mm256_set1_epi32(values.len() as i32 - 2);
    let groups = row.chunks_exact_mut(8);
    let done = groups.len() * 8;
    for group in groups {
        // SAFETY: a group has eight values; the gathers read at i and i + 1 with 0 <= i <= len - 2.
        unsafe {
            let x = _mm256_loadu_ps(group.as_ptr());
            let u = _mm256_mul_ps(_mm256_sub_ps(x, start), per_step);
            // the second operand is taken where the first is not a number
            let u = _mm256_min_ps(_mm256_max_ps(u, zero), last);
            let i = _mm256_min_epi32(_mm256_cvttps_epi32(u), most);
            let fraction = _mm256_sub_ps(u, _mm256_cvtepi32_ps(i));
            let a = _mm256_i32gather_ps::<4>(values.as_ptr(), i);
            let b = _mm256_i32gather_ps::<4>(values.as_ptr().add(1), i);
            let y = _mm256_add_ps(a, _mm256_mul_ps(_mm256_sub_ps(b, a), fraction));
            _mm256_storeu_ps(group.as_mut_ptr(), y);
        }
    }
    done
}
