//! Unit Gaussian fields with the correlation of grain, for any rectangle of the frame.

use multiversion::multiversion;

use super::kernel::GrainKernel;
use crate::numeric::NoiseLayer;
use crate::numeric::hashed_noise::RowKey;
use crate::numeric::symmetric::{self, Weighed};
use crate::picture::Region;

/// One layer's field: its kernel and the share of noise that it has in common with the other layers.
#[derive(Debug, Clone)]
pub struct LayerField<'a> {
    /// The layer's filter.
    pub kernel: &'a GrainKernel,
    /// Weights of the layers' white noise in this layer's; squares sum to one.
    pub mix: &'a [f32],
}

/// Fills one row of white noise for columns from `x`.
#[multiversion(targets("x86_64+avx2"))]
fn white_row(key: RowKey, x: i32, row: &mut [f32]) {
    for (i, n) in row.iter_mut().enumerate() {
        *n = key.gaussian(x.wrapping_add(i as i32));
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn scale(row: &[f32], factor: f32, out: &mut [f32]) {
    for (o, v) in out.iter_mut().zip(row) {
        *o = v * factor;
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn add_scaled(row: &[f32], factor: f32, out: &mut [f32]) {
    for (o, v) in out.iter_mut().zip(row) {
        *o += v * factor;
    }
}

/// Rows of one layer that were filtered across, by both ranks: as many as its filter is high. Each stands twice, so
/// that they lie one after the other wherever the oldest is.
struct Ring<'a> {
    kernel: &'a GrainKernel,
    ranks: [Vec<f32>; 2],
    width: usize,
    /// Where the oldest row lies, whose place the next one takes.
    oldest: usize,
}

impl<'a> Ring<'a> {
    fn new(width: usize, kernel: &'a GrainKernel) -> Self {
        let rows = vec![0.0f32; 2 * width * Self::height(kernel)];
        Self { kernel, ranks: [rows.clone(), rows], width, oldest: 0 }
    }

    fn height(kernel: &GrainKernel) -> usize {
        2 * kernel.radius() + 1
    }

    /// Filters a row across, which is the newest from now on: `row` has `radius` columns more on both sides.
    fn across(&mut self, row: &[f32]) {
        let height = Self::height(self.kernel);
        let place = self.oldest * self.width..(self.oldest + 1) * self.width;
        let [first, second] = &self.kernel.taps;
        let out = self.ranks.each_mut().map(|rows| &mut rows[place.clone()]);
        symmetric::weigh_twice(Weighed { rows: row, stride: 1, taps: first }, second, out);
        self.ranks.iter_mut().for_each(|rows| rows.copy_within(place.clone(), place.start + height * self.width));
        self.oldest = (self.oldest + 1) % height;
    }

    /// Filters down what is there.
    fn down(&self, out: &mut [f32]) {
        let rows = |rank: usize| Weighed {
            rows: &self.ranks[rank][self.oldest * self.width..],
            stride: self.width,
            taps: &self.kernel.taps[rank],
        };
        symmetric::weigh_both([rows(0), rows(1)], self.kernel.signs, out);
    }
}

/// The fields of all layers over a rectangle, one plane each.
///
/// `region` is in pixels of the full frame at this scale; the noise is addressed by those, whatever tile is asked for.
pub fn unit_fields(layers: &[LayerField], seed: u32, region: Region) -> Vec<Vec<f32>> {
    let width = region.width as usize;
    let widest = layers.iter().map(|l| l.kernel.radius()).max().unwrap_or(0);
    let padded = width + 2 * widest;
    // noise of every layer, mixed, for one row: shared by the layers' filters
    let mut white = vec![vec![0.0f32; padded]; layers.len()];
    let mut mixed = vec![0.0f32; padded];
    let mut planes: Vec<Vec<f32>> = layers.iter().map(|_| vec![0.0; region.pixels()]).collect();
    let mut rings: Vec<Ring> = layers.iter().map(|l| Ring::new(width, l.kernel)).collect();
    let first = region.y as i64 - widest as i64;
    let last = region.bottom() as i64 + widest as i64;
    for y in first..last {
        for (layer, row) in white.iter_mut().enumerate() {
            let key = RowKey::new(u64::from(seed), NoiseLayer::Grain(layer as u8), y as i32);
            white_row(key, region.x as i32 - widest as i32, row);
        }
        for (index, layer) in layers.iter().enumerate() {
            let radius = layer.kernel.radius();
            let reach = radius as i64;
            if y < region.y as i64 - reach || y >= region.bottom() as i64 + reach {
                continue;
            }
            let noise = if layer.mix.len() == 1 {
                &white[index]
            } else {
                scale(&white[0], layer.mix[0], &mut mixed);
                for (row, weight) in white.iter().zip(layer.mix).skip(1) {
                    add_scaled(row, *weight, &mut mixed);
                }
                &mixed
            };
            let seen = &noise[widest - radius..padded - (widest - radius)];
            rings[index].across(seen);
            let centre = y - reach;
            if centre >= region.y as i64 {
                let start = (centre - region.y as i64) as usize * width;
                rings[index].down(&mut planes[index][start..start + width]);
            }
        }
    }
    planes
}

#[cfg(test)]
mod tests {
    use super::super::covariance::{Emulsion, GrainShape};
    use super::*;

    fn kernel(pitch: f64) -> GrainKernel {
        let shape = GrainShape { granularity: 25.0, diameter_um: 7.5, roughness: 0.35, blur_um: 2.2 };
        GrainKernel::new(&Emulsion::new(shape).on_lattice(pitch))
    }

    #[test]
    fn a_tile_is_a_crop_of_the_whole() {
        let (fine, coarse) = (kernel(3.0), kernel(6.0));
        let mix = [0.9f32, 0.3, 0.316];
        let layers = [
            LayerField { kernel: &fine, mix: &mix },
            LayerField { kernel: &coarse, mix: &mix },
            LayerField { kernel: &coarse, mix: &mix },
        ];
        let whole = unit_fields(&layers, 5, Region::whole(140, 90));
        for part in [Region::new(0, 0, 1, 1), Region::new(37, 11, 63, 41), Region::new(139, 89, 1, 1)] {
            let tile = unit_fields(&layers, 5, part);
            for (plane, full) in tile.iter().zip(&whole) {
                for y in 0..part.height {
                    for x in 0..part.width {
                        let a = plane[(y * part.width + x) as usize];
                        let b = full[((y + part.y) * 140 + x + part.x) as usize];
                        assert_eq!(a.to_bits(), b.to_bits());
                    }
                }
            }
        }
    }

    #[test]
    fn unit_variance_and_the_models_correlation() {
        let shape = GrainShape { granularity: 25.0, diameter_um: 7.5, roughness: 0.35, blur_um: 2.2 };
        let kernel = GrainKernel::new(&Emulsion::new(shape).on_lattice(6.0));
        let layers = [LayerField { kernel: &kernel, mix: &[1.0] }];
        let size = 1024usize;
        let field = &unit_fields(&layers, 3, Region::whole(size as u32, size as u32))[0];
        let mean_of = |f: &dyn Fn(usize, usize) -> f64| {
            let mut sum = 0.0;
            for y in 0..size - 1 {
                for x in 0..size - 1 {
                    sum += f(x, y);
                }
            }
            sum / ((size - 1) * (size - 1)) as f64
        };
        let at = |x: usize, y: usize| field[y * size + x] as f64;
        let variance = mean_of(&|x, y| at(x, y).powi(2));
        assert!((variance - 1.0).abs() < 0.02, "{variance}");
        // prototype's table: G 25, pitch 6
        assert!((mean_of(&|x, y| at(x, y) * at(x + 1, y)) / variance - 0.553).abs() < 0.02);
        assert!((mean_of(&|x, y| at(x, y) * at(x + 1, y + 1)) / variance - 0.317).abs() < 0.02);
        let kurtosis = mean_of(&|x, y| at(x, y).powi(4)) / variance.powi(2);
        assert!((kurtosis - 3.0).abs() < 0.05, "{kurtosis}");
    }
}
