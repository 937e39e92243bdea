//! Table look-ups several at a time.
//!
//! The only place with machine instructions by name, with what reads the print's table and the grain's map: compilers
//! do not turn indexed loads into vectors by themselves. What is wanted of a table lies side by side in it, so each
//! pixel takes one load of a pair or of a node of four; the gather instruction of x86-64 takes 2.4 times as long where
//! it has been slowed down for safety, as it has on most. Same operations in the same order as the scalar look-up, so
//! the same bits: eight at a time with AVX2, four with NEON, which every 64-bit ARM has.

#[cfg(target_arch = "x86_64")]
pub(crate) mod avx2;
#[cfg(target_arch = "aarch64")]
pub(crate) mod neon;

/// Interpolates `values` at (x - start) * per_step for as many values of `row` as go in groups; returns how many were
/// done. None where the processor has no vectors for it.
pub(super) fn map_in_place(start: f32, per_step: f32, last: f32, values: &[f32], row: &mut [f32]) -> usize {
    #[cfg(target_arch = "x86_64")]
    if std::arch::is_x86_feature_detected!("avx2") && can_be_indexed(values) {
        // SAFETY: the processor has AVX2, and only what lies within `values` is read.
        return unsafe { avx2::map(start, per_step, last, values, row) };
    }
    #[cfg(target_arch = "aarch64")]
    if can_be_indexed(values) {
        // SAFETY: only what lies within `values` is read.
        return unsafe { neon::map(start, per_step, last, values, row) };
    }
    let _ = (start, per_step, last, values, row);
    0
}

/// Between the values at indices and those that follow them, by shares: v[i] + (v[i + 1] - v[i]) share. There are at
/// least two values; an index beyond the last pair reads the last pair.
pub(crate) fn between(values: &[f32], index: &[u32], share: &[f32], out: &mut [f32]) {
    let Some(last) = values.len().checked_sub(2) else { return };
    let done = between_groups(values, index, share, out);
    for ((o, i), s) in out[done..].iter_mut().zip(&index[done..]).zip(&share[done..]) {
        let i = (*i as usize).min(last);
        *o = values[i] + (values[i + 1] - values[i]) * s;
    }
}

/// As many as go in groups, where the processor has vectors for it.
fn between_groups(values: &[f32], index: &[u32], share: &[f32], out: &mut [f32]) -> usize {
    #[cfg(target_arch = "x86_64")]
    if std::arch::is_x86_feature_detected!("avx2") && can_be_indexed(values) {
        // SAFETY: the processor has AVX2, and only what lies within the slices is read.
        return unsafe { avx2::between(values, index, share, out) };
    }
    #[cfg(target_arch = "aarch64")]
    if can_be_indexed(values) {
        // SAFETY: only what lies within the slices is read.
        return unsafe { neon::between(values, index, share, out) };
    }
    let _ = (values, index, share, out);
    0
}

/// Whether pairs of values can be read at indices of 31 bits.
fn can_be_indexed(values: &[f32]) -> bool {
    (2..i32::MAX as usize).contains(&values.len())
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Several at a time give the bits of one at a time, indices beyond the end too.
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
