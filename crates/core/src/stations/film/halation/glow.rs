//! The spread light of a whole frame, kept at the coarsest size that still holds it.
//!
//! The kernel's parts are blurred on planes on which they are a few pixels wide, each plane made once for the whole
//! frame and anchored at its corner; a tile only reads it. So a region is a crop of the whole.

use std::collections::HashMap;

use super::Halation;
use crate::numeric::parallel::made_of;
use crate::picture::buffer::LayerExposure;
use crate::picture::spread::{factor_for, spread};
use crate::picture::{Picture, Plane, Region, Source};

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

impl Glow {
    /// `expose` gives the layer exposures of a rectangle of a (reduced) source.
    pub fn new(
        halation: &Halation,
        source: &Source,
        pitch_um: f64,
        expose: &(impl Fn(&Source, Region) -> Picture<LayerExposure> + Sync),
    ) -> Self {
        let (width, height) = (source.width(), source.height());
        let kernel = halation.kernel.map(|(um, weight)| (um / pitch_um, weight));
        let base = factor_for(kernel[0].0);
        let small = source.reduced_by(base);
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
        let exposed: Vec<(usize, Vec<Vec<f32>>)> = made_of(strips.len(), &|index| {
            let strip = strips[index];
            let (count, mut lit) = lit_by(&small, strip);
            let Some(parts) = &parts else { return (count, lit) };
            for cell in small.around_peaks(strip) {
                let [(_, bright), (_, rest)] = parts.each_ref().map(|part| lit_by(part, cell));
                for (at, p) in small.peaks_in(cell) {
                    let here = strip.index_of(cell, at);
                    for ((out, b), r) in lit.iter_mut().zip(&bright).zip(&rest) {
                        out[here] = p.share * b[at] + (1.0 - p.share) * r[at];
                    }
                }
            }
            (count, lit)
        });
        let count = exposed.first().map_or(1, |s| s.0);
        let mut planes: Vec<Option<Plane>> = vec![None; count];
        let mut peaks = vec![HashMap::new(); count];
        let spread_out = |slot: usize| {
            let values = exposed.iter().map(|(_, strip)| strip[slot].as_slice()).collect::<Vec<_>>().concat();
            let lamps = small.peaks().iter().filter(|_| base == 1).map(|p| (p.index, values[p.index as usize]));
            let lamps: HashMap<u32, f32> = lamps.collect();
            (lamps, spread(Plane { width: w, height: h, values }, &kernel, base))
        };
        let found = made_of(layers.len(), &spread_out);
        for (layer, (lamps, plane)) in layers.iter().zip(found) {
            peaks[*layer] = lamps;
            planes[*layer] = Some(plane);
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
