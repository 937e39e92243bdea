//! The print table read several pixels at a time.
//!
//! The same operations in the same order as [`PrintTable::at`], so the same bits, by test.

#[cfg(target_arch = "x86_64")]
mod avx2;
#[cfg(target_arch = "aarch64")]
mod neon;

use super::table::{NODES, PrintTable};

/// Applies the table to three planes in place: several pixels at a time where the processor has vectors for it, with
/// the same bits as one at a time.
pub(super) fn apply(table: &PrintTable, planes: [&mut [f32]; 3]) {
    let [red, green, blue] = planes;
    let done = in_groups(table, [&mut *red, &mut *green, &mut *blue]);
    for ((r, g), b) in red[done..].iter_mut().zip(&mut green[done..]).zip(&mut blue[done..]) {
        [*r, *g, *b] = table.at([*r, *g, *b]);
    }
}

/// Reads the table for as many pixels as go in groups; returns how many were done.
fn in_groups(table: &PrintTable, planes: [&mut [f32]; 3]) -> usize {
    let has_its_nodes = table.nodes.len() == NODES * NODES * NODES;
    #[cfg(target_arch = "x86_64")]
    if std::arch::is_x86_feature_detected!("avx2") && has_its_nodes {
        // SAFETY: the processor has AVX2, and only the table's nodes are read.
        return unsafe { avx2::apply(table, planes) };
    }
    #[cfg(target_arch = "aarch64")]
    if has_its_nodes {
        // SAFETY: only the table's nodes are read.
        return unsafe { neon::apply(table, planes) };
    }
    let _ = (has_its_nodes, planes);
    0
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Several at a time give the bits of one at a time, on the edges of the tetrahedra and beyond the table too.
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
