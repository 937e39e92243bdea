//! The map four pixels at a time, as ARM's vectors hold them.

use std::arch::aarch64::*;

use super::{ENTRIES, PixelMap};
use crate::numeric::gather::neon::{indices, side_by_side};

/// Adds the field for as many pixels as go in groups of four; returns how many were done.
///
/// # Safety
/// Needs ENTRIES entries. Indices are clamped to the last entry before every read.
#[target_feature(enable = "neon")]
pub(super) unsafe fn add(map: &PixelMap, field: &[f32], density: &mut [f32]) -> usize {
    let zero = vdupq_n_f32(0.0);
    let (per_root, half) = (vdupq_n_f32((ENTRIES - 1) as f32 * 0.5), vdupq_n_f32(0.5));
    let (last, dmax) = (vdupq_n_u32(ENTRIES as u32 - 1), vdupq_n_f32(map.dmax));
    let entries = map.entries.as_ptr();
    let groups = field.chunks_exact(4).zip(density.chunks_exact_mut(4));
    let done = groups.len() * 4;
    for (field, density) in groups {
        // SAFETY: each group has four values; the index of an entry lies in 0..ENTRIES, for the root is not negative.
        unsafe {
            let (g, d) = (vld1q_f32(field.as_ptr()), vld1q_f32(density.as_ptr()));
            // of a number and none these give the number
            let root = vsqrtq_f32(vmaxnmq_f32(d, zero));
            let index = vminq_u32(vcvtq_u32_f32(vaddq_f32(vmulq_f32(root, per_root), half)), last);
            let [k0, k1, k2] = side_by_side(indices(index).map(|i| vld1q_f32(entries.add(i).cast())));
            let sum = vaddq_f32(vaddq_f32(d, k0), vmulq_f32(k1, g));
            let sum = vaddq_f32(sum, vmulq_f32(vmulq_f32(k2, g), g));
            vst1q_f32(density.as_mut_ptr(), vminnmq_f32(vmaxnmq_f32(sum, zero), dmax));
        }
    }
    done
}
