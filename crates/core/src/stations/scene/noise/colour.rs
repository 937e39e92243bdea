//! Colour noise at half and a quarter of the size.

use rayon::prelude::*;

use super::windows::{self, Shrink, Smoother};
use super::{NoiseSettings, STRIP, axes, shrink};
use crate::measure::noise::{NoiseLevels, TONES};
use crate::numeric::parallel::for_parts;
use crate::picture::plane::halve;
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
        for_parts(pixels, 3 * width * STRIP as usize, &|i, codes| {
            let rows = (codes.len() / (3 * width)) as u32;
            let added = change.enlarged(width, height, Region::new(0, i as u32 * STRIP, width as u32, rows));
            for (line, added) in codes.chunks_exact_mut(3 * width).zip(added.chunks_exact(width)) {
                axes::shift(line, axis, added);
            }
        });
    }
    Some(())
}

/// One opponent axis of codes at half the size.
fn halved_axis(pixels: &[u16], [width, height]: [usize; 2], axis: usize) -> Plane {
    let (w, h) = (width.div_ceil(2), height.div_ceil(2));
    let mut values = vec![0.0f32; w * h];
    for_parts(&mut values, w * STRIP as usize, &|i, out| {
        let mut rows = [(); 2].map(|()| [(); 3].map(|()| vec![0.0f32; width]));
        for (y, out) in out.chunks_exact_mut(w).enumerate() {
            let top = 2 * (i * STRIP as usize + y);
            for (k, row) in rows.iter_mut().enumerate() {
                let y = (top + k).min(height - 1);
                axes::of_codes(&pixels[3 * y * width..3 * (y + 1) * width], row.each_mut().map(Vec::as_mut_slice));
            }
            halve(&rows[0][axis], &rows[1][axis], out);
        }
    });
    Plane { width: w, height: h, values }
}

/// What smoothing at this size and the coarser ones adds.
fn change(plane: &Plane, deviation: f32, settings: &NoiseSettings, scale: f64, size: usize) -> Option<Plane> {
    let shrink = shrink(settings.colour, &[deviation; TONES], scale)?;
    let mut smooth = smoothed(plane, &shrink);
    let coarser = if size < SIZES && plane.width > 16 && plane.height > 16 {
        Some(change(&smooth.halved(), deviation, settings, 0.5 * scale, size + 1)?)
    } else {
        None
    };
    let strip = plane.width * STRIP as usize;
    for_parts(&mut smooth.values, strip, &|i, out| {
        if let Some(coarser) = &coarser {
            let rows = Region::new(0, i as u32 * STRIP, plane.width as u32, (out.len() / plane.width) as u32);
            // the last column and row of a halved plane may stand for one only
            let added = coarser.enlarged(2 * coarser.width, 2 * coarser.height, rows);
            out.iter_mut().zip(added).for_each(|(v, a)| *v += a);
        }
        out.iter_mut().zip(&plane.values[i * strip..]).for_each(|(v, p)| *v -= p);
    });
    Some(smooth)
}

fn smoothed(plane: &Plane, shrink: &Shrink) -> Plane {
    let (width, frame) = (plane.width, [plane.width as u32, plane.height as u32]);
    let mut values = vec![0.0f32; plane.values.len()];
    let strips = values.par_chunks_mut(width * STRIP as usize).enumerate();
    strips.for_each_init(Smoother::new, |smoother, (i, out)| {
        let strip = Region::new(0, i as u32 * STRIP, frame[0], (out.len() / width) as u32);
        for cell in windows::cells(strip) {
            smoother.smooth(frame, cell, [Some(shrink)], |y, columns, [line]| {
                let start = y as usize * width;
                line.copy_from_slice(&plane.values[start + columns.start as usize..start + columns.end as usize]);
            });
            for (row, line) in out.chunks_exact_mut(width).enumerate() {
                smoother.row(0, row, &mut line[cell.x as usize..cell.right() as usize]);
            }
        }
    });
    Plane { values, ..*plane }
}
