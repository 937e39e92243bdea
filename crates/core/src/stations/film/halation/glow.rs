//! The spread light of a whole frame, kept at the coarsest size that still holds it.
//!
//! The kernel's parts are blurred on planes on which they are a few pixels wide, each plane made once for the whole
//! frame and anchored at its corner; a tile only reads it. So a region is a crop of the whole.

use std::collections::HashMap;

use rayon::prelude::*;

use super::Halation;
use crate::picture::buffer::LayerExposure;
use crate::picture::{Picture, Plane, Region, Source};

/// A part of the kernel is blurred where its standard deviation has at least this many pixels.
const FINEST_SIGMA: f64 = 1.0;

/// The spread light of each layer.
#[derive(Debug, Clone)]
pub struct Glow {
    /// By layer; `None` where a layer takes up none.
    planes: Vec<Option<Plane>>,
    /// By layer: what pixels that hold small lamps give as sources, where the frame is a reduced one.
    peaks: Vec<HashMap<u32, f32>>,
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
        let strips = small.region().strips(64);
        // small lamps are weighed for themselves: each pixel that holds one is its bright part and the rest
        let parts = (!small.peaks().is_empty()).then(|| [small.of_peaks(true), small.of_peaks(false)]);
        let lit_by = |source: &Source, strip: Region| -> (usize, Vec<Vec<f32>>) {
            let exposure = expose(source, strip);
            let gain = halation.source_gain(source, strip);
            let lit = |l: &usize| {
                let mut lit = exposure.plane(*l).to_vec();
                lit.iter_mut().zip(gain.iter().flatten()).for_each(|(e, g)| *e *= g);
                lit
            };
            (exposure.plane_count(), layers.iter().map(lit).collect())
        };
        let exposed: Vec<(usize, Vec<Vec<f32>>)> = strips
            .par_iter()
            .map(|strip| {
                let (count, mut lit) = lit_by(&small, *strip);
                let Some(parts) = &parts else { return (count, lit) };
                for cell in small.around_peaks(*strip) {
                    let [(_, bright), (_, rest)] = parts.each_ref().map(|part| lit_by(part, cell));
                    for (at, p) in small.peaks_in(cell) {
                        let here = strip.index_of(cell, at);
                        for ((out, b), r) in lit.iter_mut().zip(&bright).zip(&rest) {
                            out[here] = p.share * b[at] + (1.0 - p.share) * r[at];
                        }
                    }
                }
                (count, lit)
            })
            .collect();
        let count = exposed.first().map_or(1, |s| s.0);
        let mut planes: Vec<Option<Plane>> = vec![None; count];
        let mut peaks = vec![HashMap::new(); count];
        for (slot, layer) in layers.iter().enumerate() {
            let values: Vec<f32> = exposed.iter().flat_map(|(_, s)| s[slot].iter().copied()).collect();
            if base == 1 {
                peaks[*layer] = small.peaks().iter().map(|p| (p.index, values[p.index as usize])).collect();
            }
            let lit = Plane { width: w, height: h, values };
            planes[*layer] = Some(spread(lit, halation, sigmas, base));
        }
        Self { planes, peaks, width, height }
    }

    pub(super) fn planes_bytes(&self) -> usize {
        let lamps: usize = self.peaks.iter().map(|p| p.len() * 16).sum();
        lamps + self.planes.iter().flatten().map(|p| p.values.len() * size_of::<f32>()).sum::<usize>()
    }

    /// The spread light of a layer over a rectangle of the frame.
    pub fn read(&self, layer: usize, region: Region) -> Vec<f32> {
        match &self.planes[layer] {
            Some(plane) => plane.enlarged(self.width as usize, self.height as usize, region),
            None => vec![0.0; region.pixels()],
        }
    }
}

impl Glow {
    /// What the pixels of a region give as sources, where that is not their own exposure: place in the region and
    /// light.
    pub fn lamps(&self, layer: usize, region: Region) -> Vec<(usize, f32)> {
        let inside = |index: u32| {
            let (x, y) = (index % self.width, index / self.width);
            let (x, y) = (x.checked_sub(region.x)?, y.checked_sub(region.y)?);
            (x < region.width && y < region.height).then(|| y as usize * region.width as usize + x as usize)
        };
        self.peaks[layer].iter().filter_map(|(index, light)| inside(*index).map(|at| (at, *light))).collect()
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
        if let Some((coarser, coarse)) = sum.take() {
            let wider = coarse.doubled((coarser - level) as u32, part.width, part.height);
            part.values.iter_mut().zip(wider).for_each(|(v, w)| *v += w);
        }
        sum = Some((level, part));
    }
    sum.map_or_else(|| levels.remove(0), |(_, plane)| plane)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn wide_blurs_are_made_small() {
        assert_eq!(factor_for(1.2), 1);
        assert_eq!(factor_for(2.4), 2);
        assert_eq!(factor_for(5.8), 4);
        assert_eq!(factor_for(50.0), 32);
    }
}
