//! The additive screen plate: an emulsion seen through the colour grains that it was exposed through.
//!
//! Each grain of starch-like filter lets its own colour through and is darkened by the silver behind it; the dark
//! filling between grains lets a little of all through. RGB = scale * sum over the grains of coverage x transmittance
//! of the silver x colour. Coverage is a function of the place on the plate only: grains lie on a jittered lattice and
//! a point belongs to the nearest. The eye and the emulsion spread the mosaic, so only `depth` of its contrast is seen.

use multiversion::multiversion;

use super::viewing::Viewer;
use crate::colour::Spectrum;
use crate::numeric::NoiseLayer;
use crate::numeric::hashed_noise::RowKey;
use crate::numeric::log_exp::transmittance;
use crate::picture::Region;
use crate::stations::film::FilmResponse;
use crate::stock::ScreenMosaic;
use crate::stock::material::viewing_light;

/// Most samples across a pixel that is smaller than a grain, and samples across one that holds a grain or two: of the
/// filling between them such a pixel has its mean share.
const MOST_SAMPLES: u32 = 4;
const COARSE_SAMPLES: u32 = 2;
/// Widths of the lattice from which a pixel holds a grain or two.
const COARSE: f64 = 0.85;
/// Widths of the lattice from which a pixel is too coarse to show grains: only the fluctuation of their mean is left.
const UNRESOLVED: f64 = 1.3;
/// Grains of a jittered lattice are of unequal size, so that their shares scatter more than a draw, most in small
/// pixels: factor and its part by width, measured on finely sampled plates.
const UNEVEN: [f64; 2] = [0.85, 0.65];
/// Fluctuation of a share below which the mean stands for it: a tenth of an 8-bit step.
const UNSEEN: f64 = 4e-4;

/// Shares of orange-red, green, blue-violet and filling.
pub type Coverage = [f32; 4];

/// The plate as it is looked at.
#[derive(Debug, Clone)]
pub struct ScreenPlate {
    /// Linear sRGB of each part at full transmittance of the silver.
    colours: [[f32; 3]; 4],
    /// Coverage where the mosaic is not resolved.
    pub mean: Coverage,
    /// How the filters lie.
    pub mosaic: ScreenMosaic,
}

impl ScreenPlate {
    /// `None` for films without a mosaic.
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

    /// Linear sRGB of pixels side by side, into the planes of the densities behind the three kinds of grain.
    #[inline(always)]
    pub fn show<const N: usize>(&self, [r, g, b]: [&mut [f32; N]; 3], coverage: &[Coverage; N]) {
        let mut light = [[0.0f32; N]; 4];
        for k in 0..N {
            let behind = [r[k], g[k], b[k], (r[k] + g[k] + b[k]) * (1.0 / 3.0)];
            for part in 0..4 {
                light[part][k] = coverage[k][part] * transmittance(behind[part]);
            }
        }
        for (channel, out) in [r, g, b].into_iter().enumerate() {
            let [orange, green, violet, filling] = [0, 1, 2, 3].map(|part: usize| self.colours[part][channel]);
            for k in 0..N {
                out[k] = light[0][k] * orange + light[1][k] * green + light[2][k] * violet + light[3][k] * filling;
            }
        }
    }

    /// Coverage as it is seen: part of the mosaic's contrast is lost in the emulsion and the eye.
    #[inline(always)]
    pub fn seen(&self, resolved: &Coverage) -> Coverage {
        let depth = self.mosaic.depth as f32;
        std::array::from_fn(|k| self.mean[k] + depth * (resolved[k] - self.mean[k]))
    }
}

/// Cells of the lattice that are looked up side by side.
const LANES: usize = 16;

/// The grains of the lattice cells around a region; places count from the frame's corner, so that a pixel reads the
/// same whatever region asks for it. Lengths are widths of the lattice, and places count from the corner of their cell.
struct Lattice {
    x: Vec<f32>,
    y: Vec<f32>,
    /// [`counted`] of its colour.
    colour: Vec<u32>,
    /// The first cell, and how many lie in a row.
    left: i32,
    top: i32,
    columns: usize,
    /// Difference of the distances to the two nearest grains below which a place is filling.
    gap: f32,
}

/// A part as one in the byte of its number, so that a sum of them counts all four.
const fn counted(part: usize) -> u32 {
    1 << (8 * part)
}

/// The cell of a lattice that a place lies in, and where in it.
fn cell_of(um: f64, pitch_um: f64) -> (i32, f32) {
    let cells = um / pitch_um;
    (cells.floor() as i32, (cells - cells.floor()) as f32)
}

impl Lattice {
    /// The grains around a rectangle [left, right], [top, bottom] in um.
    fn around(mosaic: &ScreenMosaic, seed: u32, x_um: [f64; 2], y_um: [f64; 2]) -> Self {
        let cells = |um: [f64; 2]| {
            let [first, last] = um.map(|v| cell_of(v, mosaic.pitch_um).0);
            (first - 1, last + 1)
        };
        let ((left, right), (top, bottom)) = (cells(x_um), cells(y_um));
        let columns = (right - left + 1) as usize;
        let count = columns * (bottom - top + 1) as usize;
        let [mut x, mut y] = [(); 2].map(|()| Vec::with_capacity(count + LANES));
        let mut colour = Vec::with_capacity(count + LANES);
        for row in top..=bottom {
            let key = RowKey::new(u64::from(seed), NoiseLayer::Mosaic, row);
            for column in left..=right {
                let h = key.hash(column);
                let at = |bits: u32| (0.5 + mosaic.jitter * (f64::from(bits & 2047) / 2048.0 - 0.5)) as f32;
                let u = f64::from(h >> 22) / 1024.0;
                let [red, green, _] = mosaic.shares;
                x.push(at(h));
                y.push(at(h >> 11));
                colour.push(counted(if u < red { 0 } else { 1 + usize::from(u >= red + green) }));
            }
        }
        // the last cells are looked up in whole lanes
        [&mut x, &mut y].into_iter().for_each(|v| v.resize(count + LANES, 0.0));
        colour.resize(count + LANES, 0);
        Self { x, y, colour, left, top, columns, gap: (2.0 * mosaic.gap_um / mosaic.pitch_um) as f32 }
    }

    /// The parts ([`counted`]) at one place in each of several cells that lie side by side, `first` the leftmost of
    /// them, all at one height; without `FILLING` the grains alone.
    #[inline(always)]
    fn parts_at<const FILLING: bool>(&self, first: [i32; 2], x: &[f32; LANES], y: f32) -> [u32; LANES] {
        let start = (first[1] - 1 - self.top) as usize * self.columns + (first[0] - 1 - self.left) as usize;
        // squared distances to the nearest and the second nearest grain
        let (mut nearest, mut second, mut colour) = ([f32::MAX; LANES], [f32::MAX; LANES], [0; LANES]);
        for b in 0..3 {
            for a in 0..3 {
                let from = start + b * self.columns + a;
                let (gx, gy, hue) = (lanes_of(&self.x, from), lanes_of(&self.y, from), lanes_of(&self.colour, from));
                let (left, up) = (a as f32 - 1.0, b as f32 - 1.0);
                let mut d = [0.0f32; LANES];
                for k in 0..LANES {
                    let (dx, dy) = (x[k] - (gx[k] + left), y - (gy[k] + up));
                    d[k] = dx * dx + dy * dy;
                }
                if FILLING {
                    for k in 0..LANES {
                        let further = if d[k] > nearest[k] { d[k] } else { nearest[k] };
                        second[k] = if further < second[k] { further } else { second[k] };
                    }
                }
                for k in 0..LANES {
                    colour[k] = if d[k] < nearest[k] { hue[k] } else { colour[k] };
                    nearest[k] = if d[k] < nearest[k] { d[k] } else { nearest[k] };
                }
            }
        }
        if FILLING {
            for k in 0..LANES {
                let reach = nearest[k].sqrt() + self.gap;
                colour[k] = if second[k] < reach * reach { counted(3) } else { colour[k] };
            }
        }
        colour
    }
}

/// Values side by side; there are always enough behind the last that is asked for.
#[inline(always)]
fn lanes_of<T: Copy + Default>(values: &[T], from: usize) -> [T; LANES] {
    let mut lanes = [T::default(); LANES];
    lanes.copy_from_slice(&values[from..from + LANES]);
    lanes
}

/// At most one sample in each of the cells that lie in a row, from the leftmost on.
struct Layer {
    /// Where in its cell.
    within: Vec<[f32; LANES]>,
    /// The pixel that it belongs to; one past the last where a cell has no sample in this layer.
    pixel: Vec<[u32; LANES]>,
}

/// Samples across a region by the cells of the lattice: the first of each cell, the second of each, and so on.
struct Across {
    leftmost: i32,
    layers: Vec<Layer>,
}

impl Across {
    /// Of places in um, given in rising order, `samples` to a pixel.
    fn of(places: &[f64], pitch_um: f64, samples: usize) -> Self {
        let cells: Vec<(i32, f32)> = places.iter().map(|um| cell_of(*um, pitch_um)).collect();
        let (leftmost, last) = (cells[0].0, cells[cells.len() - 1].0);
        let count = (last - leftmost + 1) as usize;
        let mut taken = vec![0usize; count];
        let mut layers: Vec<Layer> = Vec::new();
        for (index, (cell, within)) in cells.into_iter().enumerate() {
            let at = (cell - leftmost) as usize;
            if layers.len() == taken[at] {
                let (blocks, nowhere) = (count.div_ceil(LANES), (places.len() / samples) as u32);
                layers.push(Layer { within: vec![[0.5; LANES]; blocks], pixel: vec![[nowhere; LANES]; blocks] });
            }
            let layer = &mut layers[taken[at]];
            layer.within[at / LANES][at % LANES] = within;
            layer.pixel[at / LANES][at % LANES] = (index / samples) as u32;
            taken[at] += 1;
        }
        Self { leftmost, layers }
    }
}

/// Coverage of the pixels of `region`, row by row; a pixel's width is `pitch_um`.
///
/// Pixels of less than 1.3 widths of the lattice are sampled, at most 4 x 4 times; of coarser ones only the fluctuation
/// that is left of the grains is made. Work and memory for a pixel are bounded at every pitch.
pub fn coverage(mosaic: &ScreenMosaic, seed: u32, pitch_um: f64, region: Region) -> Vec<Coverage> {
    if pitch_um >= UNRESOLVED * mosaic.pitch_um {
        return unresolved(mosaic, seed, pitch_um, region);
    }
    let coarse = pitch_um >= COARSE * mosaic.pitch_um;
    let fine_samples = ((pitch_um / mosaic.sample_um).ceil() as u32).clamp(1, MOST_SAMPLES);
    let samples = if coarse { COARSE_SAMPLES } else { fine_samples };
    let um = |from: u32, to: u32| [from, to].map(|v| f64::from(v) * pitch_um);
    let lattice = Lattice::around(mosaic, seed, um(region.x, region.right()), um(region.y, region.bottom()));
    let places = |pixels: std::ops::Range<u32>| -> Vec<f64> {
        let within = |p: u32, k: u32| (f64::from(p) + (f64::from(k) + 0.5) / f64::from(samples)) * pitch_um;
        pixels.flat_map(|p| (0..samples).map(move |k| within(p, k))).collect()
    };
    let across = Across::of(&places(region.x..region.right()), mosaic.pitch_um, samples as usize);
    let down: Vec<(i32, f32)> =
        places(region.y..region.bottom()).into_iter().map(|y| cell_of(y, mosaic.pitch_um)).collect();
    let mut out = vec![[0.0; 4]; region.pixels()];
    let rows = out.chunks_exact_mut(region.width as usize);
    for (row, heights) in rows.zip(down.chunks_exact(samples as usize)) {
        // one more for what lies on no pixel
        let mut counts = vec![0u32; row.len() + 1];
        let count = if coarse { count_grains } else { count_all };
        count(&lattice, &across, heights, &mut counts);
        let share = 1.0 / (samples * samples) as f32;
        let filling = if coarse { mosaic.gap_share as f32 } else { 0.0 };
        for (out, count) in row.iter_mut().zip(counts) {
            let [r, g, b, f] = count.to_le_bytes().map(|n| f32::from(n) * share * (1.0 - filling));
            *out = [r, g, b, f + filling];
        }
    }
    out
}

/// Counts the samples of each pixel of a row by the part ([`counted`]) that they lie on.
#[multiversion(targets("x86_64+avx2"))]
fn count_all(lattice: &Lattice, across: &Across, heights: &[(i32, f32)], counts: &mut [u32]) {
    count::<true>(lattice, across, heights, counts);
}

#[multiversion(targets("x86_64+avx2"))]
fn count_grains(lattice: &Lattice, across: &Across, heights: &[(i32, f32)], counts: &mut [u32]) {
    count::<false>(lattice, across, heights, counts);
}

#[inline(always)]
fn count<const FILLING: bool>(lattice: &Lattice, across: &Across, heights: &[(i32, f32)], counts: &mut [u32]) {
    for (cell_row, y) in heights {
        for layer in &across.layers {
            for (block, (within, pixels)) in layer.within.iter().zip(&layer.pixel).enumerate() {
                let first = [across.leftmost + (block * LANES) as i32, *cell_row];
                let parts = lattice.parts_at::<FILLING>(first, within, *y);
                for (part, pixel) in parts.iter().zip(pixels) {
                    counts[*pixel as usize] += part;
                }
            }
        }
    }
}

/// Coverage of pixels too coarse to show grains: the mean, and what is left of the grains' chance. A pixel of `w`
/// lattice widths averages about w^2 grains, each of one colour: the shares scatter as those of a draw of that many,
/// less by what grains that lie across a pixel's edge have in common with its neighbour.
fn unresolved(mosaic: &ScreenMosaic, seed: u32, pitch_um: f64, region: Region) -> Vec<Coverage> {
    let across = pitch_um / mosaic.pitch_um;
    let uneven = UNEVEN[0] + UNEVEN[1] / across;
    let scatter = uneven * (1.0 - 1.0 / (3.0 * across)) / across;
    let gap = mosaic.gap_share as f32;
    let shares = mosaic.shares.map(|s| s as f32);
    let mean = [0, 1, 2].map(|k| (1.0 - gap) * shares[k]);
    if scatter < UNSEEN {
        return vec![[mean[0], mean[1], mean[2], gap]; region.pixels()];
    }
    let (roots, scatter) = (shares.map(f32::sqrt), scatter as f32);
    let mut out = Vec::with_capacity(region.pixels());
    for y in region.y..region.bottom() {
        let keys = [0, 1, 2].map(|k| RowKey::new(u64::from(seed), NoiseLayer::MosaicUnresolved(k), y as i32));
        out.extend((region.x..region.right()).map(|x| {
            let drawn: [f32; 3] = std::array::from_fn(|k| roots[k] * keys[k].gaussian(x as i32));
            let all = drawn[0] + drawn[1] + drawn[2];
            let part = |k: usize| (shares[k] + scatter * (drawn[k] - shares[k] * all)).max(0.0);
            let parts = [part(0), part(1), part(2)];
            let whole = (1.0 - gap) / (parts[0] + parts[1] + parts[2]).max(1e-6);
            [parts[0] * whole, parts[1] * whole, parts[2] * whole, gap]
        }));
    }
    out
}

/// The colour at a place of the plate, for checks: 0..2 a grain, 3 the filling.
pub fn part_at(mosaic: &ScreenMosaic, seed: u32, x_um: f64, y_um: f64) -> usize {
    let ((column, x), (row, y)) = (cell_of(x_um, mosaic.pitch_um), cell_of(y_um, mosaic.pitch_um));
    let counts = Lattice::around(mosaic, seed, [x_um; 2], [y_um; 2]).parts_at::<true>([column, row], &[x; LANES], y)[0];
    counts.trailing_zeros() as usize / 8
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

    fn moments(coverage: &[Coverage], k: usize) -> (f64, f64) {
        let mean = coverage.iter().map(|c| f64::from(c[k])).sum::<f64>() / coverage.len() as f64;
        let variance = coverage.iter().map(|c| (f64::from(c[k]) - mean).powi(2)).sum::<f64>() / coverage.len() as f64;
        (mean, variance.sqrt())
    }

    /// Where sampling ends, what follows scatters as it did.
    #[test]
    fn coarse_pixels_scatter_as_sampled_ones_and_cost_nothing_more() {
        let plate = Catalogue::find("parmelia").unwrap();
        let mosaic = plate.screen.as_ref().unwrap();
        let edge = UNRESOLVED * mosaic.pitch_um;
        let sampled = coverage(mosaic, 5, edge - 0.01, Region::whole(180, 180));
        let drawn = coverage(mosaic, 5, edge, Region::whole(180, 180));
        for k in 0..3 {
            let ((a, s), (b, t)) = (moments(&sampled, k), moments(&drawn, k));
            assert!((a - b).abs() < 0.03 && (s / t - 1.0).abs() < 0.2, "{k}: {a} {s} {b} {t}");
        }
        let part = coverage(mosaic, 5, edge, Region::new(20, 30, 40, 5));
        assert_eq!(part[45], drawn[31 * 180 + 25], "a cut of the whole");
        // pixels of a hand's width, far out on a plate of kilometres: no grain is laid out
        let far = coverage(mosaic, 5, 1e5, Region::new(4_000_000, 0, 600, 4));
        assert!(far.iter().all(|c| (c.iter().sum::<f32>() - 1.0).abs() < 1e-5));
    }
}
