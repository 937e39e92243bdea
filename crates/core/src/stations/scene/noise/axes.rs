//! Rows of source codes as rows of the opponent axes, and back.

use multiversion::multiversion;

use crate::measure::noise::{from_opponent, opponent};
use crate::numeric::runs::{Lane, RUN, each, each_pixel};
use crate::picture::source::{code_of_value, encoded_value};

/// Encoded values of up to a run of pixels. What lies beyond stays.
#[inline(always)]
fn encoded(codes: &[u16], run: &mut [Lane; 3]) {
    for (i, p) in codes.chunks_exact(3).enumerate().take(RUN) {
        for k in 0..3 {
            run[k][i] = f32::from(p[k]);
        }
    }
    for lane in run {
        each(lane, encoded_value);
    }
}

/// Codes of up to a run of pixels.
#[inline(always)]
fn put_codes(run: &[Lane; 3], codes: &mut [u16]) {
    let mut out = [[0u16; RUN]; 3];
    for (codes, lane) in out.iter_mut().zip(run) {
        codes.iter_mut().zip(lane).for_each(|(code, v)| *code = code_of_value(*v));
    }
    for (i, p) in codes.chunks_exact_mut(3).enumerate().take(RUN) {
        p.copy_from_slice(&[out[0][i], out[1][i], out[2][i]]);
    }
}

/// The axes of a row of codes.
#[multiversion(targets("x86_64+avx2"))]
pub fn of_codes(codes: &[u16], axes: [&mut [f32]; 3]) {
    let [y, u, v] = axes;
    let mut run = [[0.0f32; RUN]; 3];
    let rows = y.chunks_mut(RUN).zip(u.chunks_mut(RUN)).zip(v.chunks_mut(RUN));
    for (codes, ((y, u), v)) in codes.chunks(3 * RUN).zip(rows) {
        encoded(codes, &mut run);
        each_pixel(&mut run, |[r, g, b]| opponent(r, g, b));
        for (row, lane) in [y, u, v].into_iter().zip(&run) {
            row.copy_from_slice(&lane[..row.len()]);
        }
    }
}

/// A row of codes from its axes.
#[multiversion(targets("x86_64+avx2"))]
pub fn to_codes(axes: [&[f32]; 3], codes: &mut [u16]) {
    let mut run = [[0.0f32; RUN]; 3];
    for (index, codes) in codes.chunks_mut(3 * RUN).enumerate() {
        let (from, count) = (index * RUN, codes.len() / 3);
        for (lane, axis) in run.iter_mut().zip(axes) {
            lane[..count].copy_from_slice(&axis[from..from + count]);
        }
        each_pixel(&mut run, |[y, u, v]| from_opponent(y, u, v));
        put_codes(&run, codes);
    }
}

/// Adds to one of the two colour axes (1 or 2) of a row of codes.
#[multiversion(targets("x86_64+avx2"))]
pub fn shift(codes: &mut [u16], axis: usize, added: &[f32]) {
    let mut run = [[0.0f32; RUN]; 3];
    for (codes, added) in codes.chunks_mut(3 * RUN).zip(added.chunks(RUN)) {
        encoded(codes, &mut run);
        let [red, green, blue] = &mut run;
        for (i, d) in added.iter().enumerate().take(RUN) {
            let by = if axis == 1 { from_opponent(0.0, *d, 0.0) } else { from_opponent(0.0, 0.0, *d) };
            (red[i], green[i], blue[i]) = (red[i] + by[0], green[i] + by[1], blue[i] + by[2]);
        }
        put_codes(&run, codes);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::source::encoded_of_code;

    /// For lengths that are no whole run, as one pixel after the other with the table of codes.
    #[test]
    fn rows_are_their_pixels() {
        let table = encoded_of_code();
        for width in [1usize, 63, 65, 150] {
            let codes: Vec<u16> = (0..3 * width).map(|i| (i * 7919 % 65_536) as u16).collect();
            let mut axes = [vec![0.0; width], vec![0.0; width], vec![0.0; width]];
            of_codes(&codes, axes.each_mut().map(Vec::as_mut_slice));
            let mut back = vec![0; 3 * width];
            to_codes(axes.each_ref().map(Vec::as_slice), &mut back);
            let added: Vec<f32> = (0..width).map(|i| 0.01 * (i % 9) as f32 - 0.03).collect();
            let mut shifted = [codes.clone(), codes.clone()];
            shifted.iter_mut().enumerate().for_each(|(k, codes)| shift(codes, k + 1, &added));
            for i in 0..width {
                let [r, g, b] = [0, 1, 2].map(|k| table[codes[3 * i + k] as usize]);
                let wanted = opponent(r, g, b);
                for k in 0..3 {
                    assert_eq!(axes[k][i].to_bits(), wanted[k].to_bits(), "{width} {i}");
                    assert!(back[3 * i + k].abs_diff(codes[3 * i + k]) <= 1);
                    let by = [from_opponent(0.0, added[i], 0.0)[k], from_opponent(0.0, 0.0, added[i])[k]];
                    for (codes, by) in shifted.iter().zip(by) {
                        assert_eq!(codes[3 * i + k], code_of_value([r, g, b][k] + by));
                    }
                }
            }
        }
    }
}
