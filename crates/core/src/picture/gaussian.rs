//! Gaussian filters on rows and planes of any size.

use std::ops::Range;

use super::Region;
use crate::numeric::symmetric::{self, Weighed};

/// Below this many pixels a sampled Gaussian's variance is not its parameter's, whatever is cut off.
const SAMPLED_WELL: f64 = 0.8;

/// One side of a Gaussian's taps, the middle first; both sides together sum to one. It ends `reach` standard deviations
/// out; what is cut off there is made up for, so that the taps have the variance that was asked for.
pub fn taps(sigma: f64, reach: f64) -> Vec<f32> {
    let radius = (reach * sigma).ceil() as i32;
    let sampled = |sigma: f64| -> Vec<f64> {
        let raw: Vec<f64> = (0..=radius).map(|i| (-0.5 * (f64::from(i) / sigma).powi(2)).exp()).collect();
        let total = raw[0] + 2.0 * raw[1..].iter().sum::<f64>();
        raw.into_iter().map(|v| v / total).collect()
    };
    let mut taps = sampled(sigma);
    if sigma >= SAMPLED_WELL {
        let variance = |taps: &[f64]| 2.0 * taps.iter().enumerate().map(|(i, t)| t * (i * i) as f64).sum::<f64>();
        let wider = sigma * sigma / variance(&taps).sqrt();
        taps = sampled(wider);
    }
    taps.into_iter().map(|v| v as f32).collect()
}

/// Fills the rows before and after those that are there with the first and the last of them: beyond a plane its edge
/// goes on.
pub fn carry_edges(rows: &mut [f32], width: usize, there: Range<usize>) {
    let count = rows.len() / width;
    let row = |y: usize| y * width..(y + 1) * width;
    (0..there.start).for_each(|y| rows.copy_within(row(there.start), y * width));
    (there.end..count).for_each(|y| rows.copy_within(row(there.end - 1), y * width));
}

/// The values of `part` of a plane over `region`, blurred; beyond the plane its edge goes on.
pub fn blurred_part(plane: &[f32], region: Region, part: Region, taps: &[f32]) -> Vec<f32> {
    let (width, height) = (region.width as usize, region.height as usize);
    let (x0, y0) = ((part.x - region.x) as usize, (part.y - region.y) as usize);
    let (w, h) = (part.width as usize, part.height as usize);
    let reach = taps.len() - 1;
    // rows of the plane that are needed, and where the first of them stands among all that are
    let (top, bottom) = (y0.saturating_sub(reach), (y0 + h + reach).min(height));
    let first = top + reach - y0;
    let mut across = vec![0.0f32; (h + 2 * reach) * w];
    let mut padded = vec![0.0f32; w + 2 * reach];
    for (row, out) in
        plane[top * width..bottom * width].chunks_exact(width).zip(across[first * w..].chunks_exact_mut(w))
    {
        // the row's own, and its ends where it goes on
        let (before, there) = (reach.saturating_sub(x0), (width + reach - x0).min(padded.len()));
        padded[..before].fill(row[0]);
        padded[before..there].copy_from_slice(&row[x0 + before - reach..x0 + there - reach]);
        padded[there..].fill(row[width - 1]);
        symmetric::weigh(Weighed { rows: &padded, stride: 1, taps }, out);
    }
    carry_edges(&mut across, w, first..first + bottom - top);
    let mut out = vec![0.0f32; w * h];
    for (y, line) in out.chunks_exact_mut(w).enumerate() {
        symmetric::weigh(Weighed { rows: &across[y * w..], stride: w, taps }, line);
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn taps_sum_to_one_and_have_their_spread() {
        let taps = taps(2.5, 3.2);
        let both = |f: &dyn Fn(usize) -> f32| f(0) + 2.0 * (1..taps.len()).map(f).sum::<f32>();
        assert!((both(&|i| taps[i]) - 1.0).abs() < 1e-6);
        assert!((both(&|i| taps[i] * (i * i) as f32).sqrt() - 2.5).abs() < 0.01);
    }

    /// Against the sum as it is defined, the edge going on, for parts at every edge of a plane.
    #[test]
    fn a_part_is_blurred_as_it_is_defined() {
        let region = Region::new(100, 50, 40, 30);
        let plane: Vec<f32> = (0..1200).map(|i| (i * 53 % 97) as f32 / 9.0).collect();
        let taps = taps(1.7, 3.0);
        let at = |x: i32, y: i32| plane[(y.clamp(0, 29) * 40 + x.clamp(0, 39)) as usize];
        let tap = |d: i32| f64::from(taps[d.unsigned_abs() as usize]);
        let reach = taps.len() as i32 - 1;
        for part in [region, Region::new(100, 50, 9, 7), Region::new(131, 73, 9, 7), Region::new(112, 60, 1, 1)] {
            let found = blurred_part(&plane, region, part, &taps);
            for (i, found) in found.iter().enumerate() {
                let (x, y) = (
                    (part.x - 100) as i32 + i as i32 % part.width as i32,
                    (part.y - 50) as i32 + i as i32 / part.width as i32,
                );
                let row = |y: i32| (-reach..=reach).map(|d| tap(d) * f64::from(at(x + d, y))).sum::<f64>();
                let wanted: f64 = (-reach..=reach).map(|d| tap(d) * row(y + d)).sum();
                assert!((f64::from(*found) - wanted).abs() < 2e-5, "{part:?} {i}: {found} {wanted}");
            }
        }
    }
}
