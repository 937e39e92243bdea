//! The spread light of a whole frame, kept at the coarsest size that still holds it.
//!
//! The kernel's parts are blurred on planes on which they are a few pixels wide, each plane made once for the whole frame
//! and anchored at its corner; a tile only reads it. So a region is a crop of the whole.

use rayon::prelude::*;

use super::Halation;
use crate::numeric::gaussian;
use crate::picture::buffer::LayerExposure;
use crate::picture::{Picture, Region, Source};

/// A part of the kernel is blurred where its standard deviation has at least this many pixels.
const FINEST_SIGMA: f64 = 1.0;
/// Kernels end after this many standard deviations.
const REACH: f64 = 3.2;

/// One plane of the whole frame.
#[derive(Debug, Clone)]
struct Plane {
    width: usize,
    height: usize,
    values: Vec<f32>,
}

/// The spread light of each layer.
#[derive(Debug, Clone)]
pub struct Glow {
    /// By layer; `None` where a layer takes up none.
    planes: Vec<Option<Plane>>,
    /// Size of the frame that reads it.
    width: u32,
    height: u32,
}

/// Largest power of two by which a frame may be reduced for a blur of `sigma` pixels.
fn factor_for(sigma: f64) -> u32 {
    let mut factor = 1;
    while sigma / f64::from(2 * factor) >= FINEST_SIGMA {
        factor *= 2;
    }
    factor
}

impl Glow {
    /// `expose` gives the layer exposures of a rectangle of a (reduced) source.
    pub fn new(
        halation: &Halation,
        source: &Source,
        pitch_um: f64,
        expose: &(impl Fn(&Source, Region) -> Picture<LayerExposure> + Sync),
    ) -> Self {
        let (width, height) = (source.width(), source.height());
        let sigmas = halation.kernel.map(|(um, _)| um / pitch_um);
        let base = factor_for(sigmas[0]);
        let small = source.reduced(width.div_ceil(base), height.div_ceil(base));
        let (w, h) = (small.width() as usize, small.height() as usize);
        let layers: Vec<usize> = halation.layers().collect();
        // strips of rows, so that the exposure of the whole frame is never held three times over
        let strips: Vec<Region> =
            (0..h as u32).step_by(64).map(|y| Region::new(0, y, w as u32, 64.min(h as u32 - y))).collect();
        let exposed: Vec<(usize, Vec<Vec<f32>>)> = strips
            .par_iter()
            .map(|strip| {
                let exposure = expose(&small, *strip);
                let gain = halation.source_gain(&small, *strip);
                let lit = |l: &usize| exposure.plane(*l).iter().zip(&gain).map(|(e, g)| e * g).collect();
                (exposure.plane_count(), layers.iter().map(lit).collect())
            })
            .collect();
        let count = exposed.first().map_or(1, |s| s.0);
        let mut planes: Vec<Option<Plane>> = vec![None; count];
        for (slot, layer) in layers.iter().enumerate() {
            let values: Vec<f32> = exposed.iter().flat_map(|(_, s)| s[slot].iter().copied()).collect();
            let lit = Plane { width: w, height: h, values };
            planes[*layer] = Some(spread(lit, halation, sigmas, base));
        }
        Self { planes, width, height }
    }

    pub fn bytes(&self) -> usize {
        self.planes.iter().flatten().map(|p| p.values.len() * size_of::<f32>()).sum()
    }

    /// The spread light of a layer over a rectangle of the frame.
    pub fn read(&self, layer: usize, region: Region) -> Vec<f32> {
        match &self.planes[layer] {
            Some(plane) => plane.enlarged(self.width as usize, self.height as usize, region),
            None => vec![0.0; region.pixels()],
        }
    }
}

/// The weighted sum of the kernel's parts, on the finest of their planes.
fn spread(lit: Plane, halation: &Halation, sigmas: [f64; 3], base: u32) -> Plane {
    let mut levels = vec![lit];
    let mut parts: Vec<(usize, f64, f64)> = Vec::new();
    for (sigma, (_, weight)) in sigmas.into_iter().zip(halation.kernel) {
        let wanted = factor_for(sigma);
        let level = (wanted / base).max(1).ilog2() as usize;
        while levels.len() <= level {
            let next = levels[levels.len() - 1].halved();
            levels.push(next);
        }
        let factor = f64::from(base << level);
        // averaging over boxes has already spread the light a little, and stretching the plane will
        let boxed = if level == 0 && base == 1 { 0.0 } else { (factor * factor - 1.0) / 12.0 + factor * factor / 6.0 };
        parts.push((level, (sigma * sigma - boxed).max(0.0).sqrt() / factor, weight));
    }
    // from the coarsest to the finest: each sum is enlarged to the next
    let mut sum: Option<(usize, Plane)> = None;
    for (level, sigma, weight) in parts.into_iter().rev() {
        let mut part = levels[level].blurred(sigma);
        part.values.iter_mut().for_each(|v| *v *= weight as f32);
        if let Some((_, coarse)) = sum.take() {
            let whole = Region::whole(part.width as u32, part.height as u32);
            let wider = coarse.enlarged(part.width, part.height, whole);
            part.values.iter_mut().zip(wider).for_each(|(v, w)| *v += w);
        }
        sum = Some((level, part));
    }
    sum.map_or_else(|| levels.remove(0), |(_, plane)| plane)
}

impl Plane {
    /// Half the size, each pixel the mean of four (the last row or column of fewer).
    fn halved(&self) -> Plane {
        let (width, height) = (self.width.div_ceil(2), self.height.div_ceil(2));
        let values = (0..height)
            .into_par_iter()
            .flat_map_iter(|y| {
                let (top, bottom) = (2 * y, (2 * y + 1).min(self.height - 1));
                (0..width).map(move |x| {
                    let (left, right) = (2 * x, (2 * x + 1).min(self.width - 1));
                    let at = |x: usize, y: usize| self.values[y * self.width + x];
                    0.25 * ((at(left, top) + at(right, top)) + (at(left, bottom) + at(right, bottom)))
                })
            })
            .collect();
        Plane { width, height, values }
    }

    /// Blurred by a Gaussian; beyond the edges the edge's values go on.
    fn blurred(&self, sigma: f64) -> Plane {
        if sigma < 0.2 {
            return self.clone();
        }
        let taps = gaussian::taps(sigma, REACH);
        let radius = taps.len() - 1;
        let (width, height) = (self.width, self.height);
        let mut across = vec![0.0f32; width * height];
        across.par_chunks_exact_mut(width).enumerate().for_each(|(y, out)| {
            let row = &self.values[y * width..(y + 1) * width];
            let mut padded = Vec::with_capacity(width + 2 * radius);
            padded.resize(radius, row[0]);
            padded.extend_from_slice(row);
            padded.resize(width + 2 * radius, row[width - 1]);
            gaussian::weigh(&taps, out, |j| &padded[radius.strict_add_signed(j)..][..width]);
        });
        let mut values = vec![0.0f32; width * height];
        values.par_chunks_exact_mut(width).enumerate().for_each(|(y, out)| {
            gaussian::weigh(&taps, out, |j| {
                let at = (y as isize + j).clamp(0, height as isize - 1) as usize;
                &across[at * width..(at + 1) * width]
            });
        });
        Plane { width, height, values }
    }

    /// A rectangle of the plane stretched over a frame of `width` x `height`, between pixel centres linearly.
    fn enlarged(&self, width: usize, height: usize, region: Region) -> Vec<f32> {
        let place = |i: u32, small: usize, large: usize| {
            let u = ((f64::from(i) + 0.5) * small as f64 / large as f64 - 0.5).clamp(0.0, (small - 1) as f64);
            let first = (u as usize).min(small.saturating_sub(2));
            (first, (first + 1).min(small - 1), (u - first as f64) as f32)
        };
        let columns: Vec<(u32, f32)> = (region.x..region.right())
            .map(|x| {
                let (first, _, share) = place(x, self.width, width);
                (first as u32, share)
            })
            .collect();
        let mut out = Vec::with_capacity(region.pixels());
        // one more at the right, so that the last column has a neighbour
        let mut line = vec![0.0f32; self.width + 1];
        let first = columns.first().map_or(0, |c| c.0 as usize);
        let last = columns.last().map_or(0, |c| c.0 as usize + 1).min(self.width - 1);
        for y in region.y..region.bottom() {
            let (top, bottom, fy) = place(y, self.height, height);
            let (a, b) = (&self.values[top * self.width..], &self.values[bottom * self.width..]);
            let rows = a[first..=last].iter().zip(&b[first..=last]);
            line[first..=last].iter_mut().zip(rows).for_each(|(v, (a, b))| *v = a + (b - a) * fy);
            line[last + 1] = line[last];
            out.extend(columns.iter().map(|(l, fx)| {
                let pair = &line[*l as usize..*l as usize + 2];
                pair[0] + (pair[1] - pair[0]) * fx
            }));
        }
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn blur_and_stretch_keep_a_constant_and_the_sum() {
        let flat = Plane { width: 37, height: 21, values: vec![0.7; 37 * 21] };
        for v in flat.blurred(4.0).enlarged(80, 50, Region::new(11, 7, 30, 20)) {
            assert!((v - 0.7).abs() < 1e-6);
        }
        let mut dot = Plane { width: 101, height: 101, values: vec![0.0; 101 * 101] };
        dot.values[50 * 101 + 50] = 1.0;
        let blurred = dot.blurred(5.0);
        assert!((blurred.values.iter().sum::<f32>() - 1.0).abs() < 1e-4);
        let spread: f32 = (0..101)
            .map(|x| (x as f32 - 50.0).powi(2) * (0..101).map(|y| blurred.values[y * 101 + x]).sum::<f32>())
            .sum();
        assert!((spread.sqrt() - 5.0).abs() < 0.1, "{}", spread.sqrt());
    }

    #[test]
    fn wide_blurs_are_made_small() {
        assert_eq!(factor_for(1.2), 1);
        assert_eq!(factor_for(2.4), 2);
        assert_eq!(factor_for(5.8), 4);
        assert_eq!(factor_for(50.0), 32);
    }
}
