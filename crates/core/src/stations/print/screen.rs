//! The additive screen plate: an emulsion seen through the colour grains that it was exposed through.
//!
//! Each grain of starch-like filter lets its own colour through and is darkened by the silver behind it; the dark filling
//! between grains lets a little of all through. RGB = scale * sum over the grains of coverage x transmittance of the
//! silver x colour. Coverage is a function of the place on the plate only: grains lie on a jittered lattice and a point
//! belongs to the nearest. The eye and the emulsion spread the mosaic, so only `depth` of its contrast is seen.

use super::viewing::Viewer;
use crate::colour::Spectrum;
use crate::numeric::log_exp::transmittance;
use crate::picture::Region;
use crate::stations::film::FilmResponse;
use crate::stations::film::grain::noise::RowKey;
use crate::stock::ScreenMosaic;
use crate::stock::material::viewing_light;

/// Hash layer of the grains' places and colours.
const HASH_LAYER: u64 = 60;
/// Most samples across a pixel.
const MOST_SAMPLES: u32 = 12;

/// Shares of orange-red, green, blue-violet and filling.
pub type Coverage = [f32; 4];

/// The plate as it is looked at.
#[derive(Debug, Clone)]
pub struct ScreenPlate {
    /// Linear sRGB of each part at full transmittance of the silver.
    colours: [[f32; 3]; 4],
    /// Coverage where the mosaic is not resolved.
    pub mean: Coverage,
    pub mosaic: ScreenMosaic,
}

impl ScreenPlate {
    pub fn new(film: &FilmResponse) -> Option<Self> {
        let mosaic = film.stock.screen.clone()?;
        let viewer = Viewer::under(&viewing_light(film.stock.view.as_deref()?)?);
        let base = (Spectrum::peaks(&film.stock.base) + Spectrum::ONE * film.stock.base_flat).transmittance();
        let [red, green, blue] = mosaic.filters.each_ref().map(|f| viewer.see(&f.spectrum().times(&base)));
        let filling = viewer.see(&base).map(|v| v * mosaic.gap_t);
        let grains = 1.0 - mosaic.gap_share;
        let [r, g, b] = mosaic.shares.map(|s| (s * grains) as f32);
        let mean = [r, g, b, mosaic.gap_share as f32];
        let colours = [red, green, blue, filling].map(|c| c.map(|v| v as f32));
        let mut plate = Self { colours, mean, mosaic };
        let clear = plate.linear_srgb(std::array::from_fn(|i| film.curves[i].shape.dmin as f32), &mean);
        let scale = plate.mosaic.white as f32 / clear[0].max(clear[1]).max(clear[2]);
        plate.colours = plate.colours.map(|c| c.map(|v| v * scale));
        Some(plate)
    }

    /// Linear sRGB for the densities behind the three kinds of grain and the coverage of a pixel.
    #[inline(always)]
    pub fn linear_srgb(&self, densities: [f32; 3], coverage: &Coverage) -> [f32; 3] {
        let [r, g, b] = densities;
        let behind = [r, g, b, (r + g + b) * (1.0 / 3.0)];
        let mut out = [0.0; 3];
        for k in 0..4 {
            let light = coverage[k] * transmittance(behind[k]);
            for (sum, colour) in out.iter_mut().zip(self.colours[k]) {
                *sum += light * colour;
            }
        }
        out
    }

    /// Coverage as it is seen: part of the mosaic's contrast is lost in the emulsion and the eye.
    #[inline(always)]
    pub fn seen(&self, resolved: &Coverage) -> Coverage {
        let depth = self.mosaic.depth as f32;
        std::array::from_fn(|k| self.mean[k] + depth * (resolved[k] - self.mean[k]))
    }
}

/// One grain: its place on the plate in um and its colour.
#[derive(Debug, Clone, Copy)]
struct Grain {
    x: f64,
    y: f64,
    colour: u8,
}

/// The grains of the lattice cells around a region; places count from the frame's corner, so that a pixel reads the same
/// whatever region asks for it.
struct Lattice {
    grains: Vec<Grain>,
    /// The first cell, and how many lie in a row.
    left: i32,
    top: i32,
    columns: usize,
    per_cell: f64,
    /// Difference of the distances to the two nearest grains below which a place is filling.
    gap: f64,
}

impl Lattice {
    /// The grains around a rectangle [left, right], [top, bottom] in um.
    fn around(mosaic: &ScreenMosaic, seed: u32, x_um: [f64; 2], y_um: [f64; 2]) -> Self {
        let per_cell = 1.0 / mosaic.pitch_um;
        let cells = |um: [f64; 2]| {
            let [first, last] = um.map(|v| (v * per_cell).floor() as i32);
            (first - 1, last + 1)
        };
        let ((left, right), (top, bottom)) = (cells(x_um), cells(y_um));
        let mut grains = Vec::with_capacity(((right - left + 1) * (bottom - top + 1)) as usize);
        for row in top..=bottom {
            let key = RowKey::new(u64::from(seed), HASH_LAYER, row);
            grains.extend((left..=right).map(|column| grain(mosaic, key, column, row)));
        }
        Self { grains, left, top, columns: (right - left + 1) as usize, per_cell, gap: 2.0 * mosaic.gap_um }
    }

    /// 0..2: the colour of the grain at a place; 3: the filling.
    #[inline(always)]
    fn part_at(&self, x: f64, y: f64) -> usize {
        let column = ((x * self.per_cell).floor() as i32 - self.left) as usize - 1;
        let row = ((y * self.per_cell).floor() as i32 - self.top) as usize - 1;
        // squared distances to the nearest and the second nearest grain
        let (mut nearest, mut second, mut colour) = (f64::MAX, f64::MAX, 0u8);
        for b in row..row + 3 {
            let start = b * self.columns + column;
            for g in &self.grains[start..start + 3] {
                let (dx, dy) = (x - g.x, y - g.y);
                let d = dx * dx + dy * dy;
                second = second.min(d.max(nearest));
                colour = if d < nearest { g.colour } else { colour };
                nearest = nearest.min(d);
            }
        }
        if second.sqrt() - nearest.sqrt() < self.gap { 3 } else { colour as usize }
    }
}

/// The grain of a lattice cell.
fn grain(mosaic: &ScreenMosaic, key: RowKey, column: i32, row: i32) -> Grain {
    let h = key.hash(column);
    let at = |index: i32, bits: u32| {
        (f64::from(index) + 0.5 + mosaic.jitter * (f64::from(bits & 2047) / 2048.0 - 0.5)) * mosaic.pitch_um
    };
    let u = f64::from(h >> 22) / 1024.0;
    let [red, green, _] = mosaic.shares;
    let colour = if u < red { 0 } else { 1 + u8::from(u >= red + green) };
    Grain { x: at(column, h), y: at(row, h >> 11), colour }
}

/// Coverage of the pixels of `region`, row by row; a pixel's width is `pitch_um`.
pub fn coverage(mosaic: &ScreenMosaic, seed: u32, pitch_um: f64, region: Region) -> Vec<Coverage> {
    let samples = ((pitch_um / mosaic.sample_um).ceil() as u32).clamp(1, MOST_SAMPLES);
    let um = |from: u32, to: u32| [from, to].map(|v| f64::from(v) * pitch_um);
    let lattice = Lattice::around(mosaic, seed, um(region.x, region.right()), um(region.y, region.bottom()));
    let places = |pixels: std::ops::Range<u32>| -> Vec<f64> {
        let within = |p: u32, k: u32| (f64::from(p) + (f64::from(k) + 0.5) / f64::from(samples)) * pitch_um;
        pixels.flat_map(|p| (0..samples).map(move |k| within(p, k))).collect()
    };
    let (xs, ys) = (places(region.x..region.right()), places(region.y..region.bottom()));
    let share = 1.0 / (samples * samples) as f32;
    let mut out = vec![[0.0; 4]; region.pixels()];
    for (row, ys) in out.chunks_exact_mut(region.width as usize).zip(ys.chunks_exact(samples as usize)) {
        for y in ys {
            for (pixel, xs) in row.iter_mut().zip(xs.chunks_exact(samples as usize)) {
                for x in xs {
                    pixel[lattice.part_at(*x, *y)] += share;
                }
            }
        }
    }
    out
}

/// The colour at a place of the plate, for checks: 0..2 a grain, 3 the filling.
pub fn part_at(mosaic: &ScreenMosaic, seed: u32, x_um: f64, y_um: f64) -> usize {
    Lattice::around(mosaic, seed, [x_um; 2], [y_um; 2]).part_at(x_um, y_um)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::Catalogue;

    #[test]
    fn a_part_is_a_cut_of_the_whole_and_areas_have_their_shares() {
        let plate = Catalogue::find("parmelia").unwrap();
        let mosaic = plate.screen.as_ref().unwrap();
        let whole = coverage(mosaic, 11, 10.0, Region::whole(200, 150));
        let part = coverage(mosaic, 11, 10.0, Region::new(63, 41, 50, 30));
        for y in 0..30 {
            for x in 0..50 {
                assert_eq!(part[y * 50 + x], whole[(y + 41) * 200 + x + 63]);
            }
        }
        // the model's measured areas
        for (k, area) in [0.235, 0.352, 0.301, 0.113].into_iter().enumerate() {
            let mean = whole.iter().map(|c| c[k] as f64).sum::<f64>() / whole.len() as f64;
            assert!((mean - area).abs() < 0.025, "{k}: {mean}");
        }
    }
}
