//! Colour noise at half and a quarter of the size.

use rayon::prelude::*;

use super::windows::{self, Shrink, Windows};
use super::{NoiseSettings, STRIP, shrink};
use crate::measure::noise::{NoiseLevels, TONES, from_opponent, opponent};
use crate::picture::source::{code_of_value, encoded_of_code};
use crate::picture::{Plane, Region};

/// Sizes below the full one at which colour is smoothed.
const SIZES: usize = 2;

/// Smooths the colour differences of codes at the coarser sizes; `None` when abandoned.
pub fn smooth_coarse(
    pixels: &mut [u16],
    [width, height]: [usize; 2],
    levels: &NoiseLevels,
    settings: &NoiseSettings,
    scale: f64,
    abandoned: &(dyn Fn() -> bool + Sync),
) -> Option<()> {
    // at the coarser sizes tones are mixed: the deviation of the middle tones counts for all
    let middle = levels.colour[TONES / 2];
    for axis in [1, 2] {
        if abandoned() {
            return None;
        }
        let half = halved_axis(pixels, [width, height], axis);
        let change = change(&half, middle, settings, 0.5 * scale, 1)?;
        let (w, h) = (width, height);
        pixels.par_chunks_exact_mut(3 * width).enumerate().for_each(|(y, line)| {
            let added = change.enlarged(w, h, Region::new(0, y as u32, w as u32, 1));
            let encoded = encoded_of_code();
            for (p, d) in line.chunks_exact_mut(3).zip(added) {
                let shift = if axis == 1 { from_opponent(0.0, d, 0.0) } else { from_opponent(0.0, 0.0, d) };
                for (code, s) in p.iter_mut().zip(shift) {
                    *code = code_of_value(encoded[*code as usize] + s);
                }
            }
        });
    }
    Some(())
}

/// One opponent axis of codes at half the size.
fn halved_axis(pixels: &[u16], [width, height]: [usize; 2], axis: usize) -> Plane {
    let (w, h) = (width.div_ceil(2), height.div_ceil(2));
    let encoded = encoded_of_code();
    let value = |x: usize, y: usize| {
        let p = &pixels[3 * (y.min(height - 1) * width + x.min(width - 1))..][..3];
        opponent(encoded[p[0] as usize], encoded[p[1] as usize], encoded[p[2] as usize])[axis]
    };
    let mut values = vec![0.0f32; w * h];
    values.par_chunks_exact_mut(w).enumerate().for_each(|(y, line)| {
        for (x, v) in line.iter_mut().enumerate() {
            let (left, top) = (2 * x, 2 * y);
            *v = 0.25 * ((value(left, top) + value(left + 1, top)) + (value(left, top + 1) + value(left + 1, top + 1)));
        }
    });
    Plane { width: w, height: h, values }
}

/// What smoothing at this size and the coarser ones adds.
fn change(plane: &Plane, deviation: f32, settings: &NoiseSettings, scale: f64, size: usize) -> Option<Plane> {
    let shrink = shrink(settings.colour, &[deviation; TONES], scale)?;
    let mut smooth = smoothed(plane, &shrink);
    if size < SIZES && plane.width > 16 && plane.height > 16 {
        let coarser = change(&smooth.halved(), deviation, settings, 0.5 * scale, size + 1)?;
        let added = coarser.doubled(1, plane.width, plane.height);
        smooth.values.iter_mut().zip(added).for_each(|(v, a)| *v += a);
    }
    Some(smooth.with(plane, |s, p| s - p))
}

fn smoothed(plane: &Plane, shrink: &Shrink) -> Plane {
    let width = plane.width;
    let mut values = vec![0.0f32; plane.values.len()];
    values.par_chunks_mut(width * STRIP as usize).enumerate().for_each(|(i, out)| {
        let mut strip = Windows::new(width, out.len() / width);
        for row in strip.rows_wanted() {
            let y = windows::mirrored((i * STRIP as usize) as i64 + row, plane.height as u32) as usize;
            strip.put(row, &plane.values[y * width..(y + 1) * width]);
        }
        let smooth = windows::smooth(&mut [strip], &[Some(shrink)]);
        out.copy_from_slice(&smooth[0][..out.len()]);
    });
    Plane { values, ..*plane }
}
