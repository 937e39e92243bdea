//! Look-ups four at a time, as ARM's vectors hold them.

use std::arch::aarch64::*;

/// As [`super::map_in_place`], in groups of four.
///
/// # Safety
/// 2 <= values.len() <= i32::MAX. Indices are clamped to [0, len - 2] before every read.
#[target_feature(enable = "neon")]
pub(super) unsafe fn map(start: f32, per_step: f32, last: f32, values: &[f32], row: &mut [f32]) -> usize {
    let (start, per_step) = (vdupq_n_f32(start), vdupq_n_f32(per_step));
    let (last, most) = (vdupq_n_f32(last), vdupq_n_u32(values.len() as u32 - 2));
    let groups = row.chunks_exact_mut(4);
    let done = groups.len() * 4;
    for group in groups {
        // SAFETY: a group has four values; pairs are read at i and i + 1 with 0 <= i <= len - 2.
        unsafe {
            let x = vld1q_f32(group.as_ptr());
            let (index, share) = place(vmulq_f32(vsubq_f32(x, start), per_step), last, most);
            vst1q_f32(group.as_mut_ptr(), mixed(four_pairs(values, index), share));
        }
    }
    done
}

/// As [`super::between`], in groups of four.
///
/// # Safety
/// 2 <= values.len() <= i32::MAX. Indices are held to the last pair before every read.
#[target_feature(enable = "neon")]
pub(super) unsafe fn between(values: &[f32], index: &[u32], share: &[f32], out: &mut [f32]) -> usize {
    let most = vdupq_n_u32(values.len() as u32 - 2);
    let groups = index.chunks_exact(4).zip(share.chunks_exact(4)).zip(out.chunks_exact_mut(4));
    let done = groups.len() * 4;
    for ((index, share), out) in groups {
        // SAFETY: each group has four values; pairs are read at i and i + 1 with 0 <= i <= len - 2.
        unsafe {
            let pairs = four_pairs(values, vminq_u32(vld1q_u32(index.as_ptr()), most));
            vst1q_f32(out.as_mut_ptr(), mixed(pairs, vld1q_f32(share.as_ptr())));
        }
    }
    done
}

/// Cell of a table and place in it; what is not a number lies at the start.
#[target_feature(enable = "neon")]
#[inline]
pub(crate) fn place(u: float32x4_t, last: float32x4_t, most: uint32x4_t) -> (uint32x4_t, float32x4_t) {
    // of a number and none these give the number
    let u = vminnmq_f32(vmaxnmq_f32(u, vdupq_n_f32(0.0)), last);
    let index = vminq_u32(vcvtq_u32_f32(u), most);
    (index, vsubq_f32(u, vcvtq_f32_u32(index)))
}

#[target_feature(enable = "neon")]
#[inline]
fn mixed([a, b]: [float32x4_t; 2], share: float32x4_t) -> float32x4_t {
    vaddq_f32(a, vmulq_f32(vsubq_f32(b, a), share))
}

/// The values at four indices, and those that follow them.
///
/// # Safety
/// Two values must lie at every index.
#[target_feature(enable = "neon")]
#[inline]
unsafe fn four_pairs(values: &[f32], index: uint32x4_t) -> [float32x4_t; 2] {
    // SAFETY: two values lie at every index.
    let [a, b, c, d] = indices(index).map(|i| unsafe { vld1_f32(values.as_ptr().add(i)) });
    let (low, high) = (vcombine_f32(a, b), vcombine_f32(c, d));
    [vuzp1q_f32(low, high), vuzp2q_f32(low, high)]
}

/// Four indices as numbers.
#[target_feature(enable = "neon")]
#[inline]
pub(crate) fn indices(index: uint32x4_t) -> [usize; 4] {
    let mut at = [0u32; 4];
    // SAFETY: the array takes four.
    unsafe { vst1q_u32(at.as_mut_ptr(), index) };
    at.map(|i| i as usize)
}

/// Four values as numbers.
#[target_feature(enable = "neon")]
#[inline]
pub(crate) fn numbers(values: float32x4_t) -> [f32; 4] {
    let mut out = [0.0; 4];
    // SAFETY: the array takes four.
    unsafe { vst1q_f32(out.as_mut_ptr(), values) };
    out
}

/// First, second and third values of four nodes.
#[target_feature(enable = "neon")]
#[inline]
pub(crate) fn side_by_side([a, b, c, d]: [float32x4_t; 4]) -> [float32x4_t; 3] {
    let (ab, cd) = (vzip1q_f32(a, b), vzip1q_f32(c, d));
    let (ab_high, cd_high) = (vzip2q_f32(a, b), vzip2q_f32(c, d));
    [
        vcombine_f32(vget_low_f32(ab), vget_low_f32(cd)),
        vcombine_f32(vget_high_f32(ab), vget_high_f32(cd)),
        vcombine_f32(vget_low_f32(ab_high), vget_low_f32(cd_high)),
    ]
}
