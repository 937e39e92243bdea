//! A symmetric filter at one row: the middle row and the pairs of rows around it, each with its tap. Rows are rows of a
//! plane, or one row shifted. Every value sees the same operations in the same order, wherever a tile begins.

use multiversion::multiversion;

/// Values that are summed while they stay in registers.
const CHUNK: usize = 32;

/// The weighted sum.
pub fn weigh(middle: &[f32], pairs: &[(&[f32], &[f32])], taps: &[f32], out: &mut [f32]) {
    weigh_signed(middle, pairs, taps, 1.0, false, out);
}

/// The weighted sum times a sign; `added` to what is there, or in its place.
#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
pub fn weigh_signed(middle: &[f32], pairs: &[(&[f32], &[f32])], taps: &[f32], sign: f32, added: bool, out: &mut [f32]) {
    for start in (0..out.len()).step_by(CHUNK) {
        let end = (start + CHUNK).min(out.len());
        let count = end - start;
        let mut sum = [0.0f32; CHUNK];
        for (s, v) in sum[..count].iter_mut().zip(&middle[start..end]) {
            *s = v * taps[0];
        }
        for ((left, right), tap) in pairs.iter().zip(&taps[1..]) {
            for ((s, a), b) in sum[..count].iter_mut().zip(&left[start..end]).zip(&right[start..end]) {
                *s += tap * (a + b);
            }
        }
        if added {
            for (o, s) in out[start..end].iter_mut().zip(&sum) {
                *o += s * sign;
            }
        } else {
            for (o, s) in out[start..end].iter_mut().zip(&sum) {
                *o = s * sign;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Against the sum written down as it is defined, for lengths that are no whole chunk.
    #[test]
    fn the_sum_of_its_rows() {
        let row = |k: usize| -> Vec<f32> { (0..71).map(|i| ((i * 13 + k * 29) % 37) as f32 / 7.0).collect() };
        let rows: Vec<Vec<f32>> = (0..5).map(row).collect();
        let taps = [0.5f32, 0.2, 0.05];
        let pairs = [(&rows[1][..], &rows[3][..]), (&rows[0][..], &rows[4][..])];
        let mut out = vec![0.0f32; 71];
        weigh(&rows[2], &pairs, &taps, &mut out);
        let mut twice = out.clone();
        weigh_signed(&rows[2], &pairs, &taps, -1.0, true, &mut twice);
        for i in 0..71 {
            let sum = 0.5 * rows[2][i] + 0.2 * (rows[1][i] + rows[3][i]) + 0.05 * (rows[0][i] + rows[4][i]);
            assert_eq!(out[i].to_bits(), sum.to_bits(), "{i}");
            assert_eq!(twice[i], 0.0);
        }
    }
}
