//! The Print station applied to tiles.
//!
//! Two tables come out of the exact way: one of reflectance, and one of what the display shows for it, gamut and
//! encoding included. Where nothing follows the print, the second is read and nothing is computed per pixel; where a
//! bend, edges or the strength are still to come, the first is.

use multiversion::multiversion;

use super::exact::Viewing;
use super::finish::Finish;
use super::gathered;
use super::screen::{Coverage, ScreenPlate};
use super::table::{PrintTable, encode_working};
use super::viewing::Row;
use crate::colour::rooted;
use crate::colour::space::SRGB_TO_WIDE;
use crate::colour::transfer::{decode_srgb, decode_srgb_f32, encode_srgb};
use crate::memory::Memory;
use crate::numeric::Sampled;
use crate::numeric::matrix::dot;
use crate::numeric::quadrature::normal_nodes;
use crate::numeric::runs::{RUN, each_pixel};
use crate::output::{self, Encoder};
use crate::picture::Picture;
use crate::picture::buffer::{Display, LayerDensity, Reflectance};
use crate::prepare::Kept;
use crate::stations::film::FilmResponse;
use crate::stations::film::grain::UnresolvedGrain;
use crate::stock::ABOVE_DMAX;

/// Samples of density in the table of a single-layer film.
const SINGLE_SAMPLES: usize = 512;

/// Density to reflectance, encoded in the working space.
#[derive(Debug, Clone)]
pub enum Tables {
    /// Three layers to a colour.
    Colour(PrintTable),
    /// One layer to a colour, channel by channel.
    Single([Sampled; 3]),
    /// A screen plate, computed pixel by pixel.
    Screen(Box<(ScreenPlate, Finish)>),
}

/// Print as tables, ready for tiles.
#[derive(Debug, Clone)]
pub struct PrintStage {
    reflectance: Tables,
    /// Density to display values.
    display: Option<Tables>,
}

impl Kept for Tables {
    /// About.
    fn bytes(&self) -> usize {
        600_000
    }

    fn share(memory: &Memory) -> usize {
        memory.tables
    }
}

impl Kept for PrintStage {
    /// About.
    fn bytes(&self) -> usize {
        1_200_000
    }

    fn share(memory: &Memory) -> usize {
        memory.prints
    }
}

impl Tables {
    /// The tables for grain that is shown in full.
    pub fn new(viewing: &Viewing, film: &FilmResponse) -> Self {
        Self::of_every(1, viewing, film)
    }

    /// The same from a quarter of the work, for a picture in motion.
    pub fn roughly(viewing: &Viewing, film: &FilmResponse) -> Self {
        Self::of_every(2, viewing, film)
    }

    fn of_every(every: usize, viewing: &Viewing, film: &FilmResponse) -> Self {
        if let Some((plate, finish)) = viewing.screen() {
            return Self::Screen(Box::new((plate.clone(), finish.clone())));
        }
        let highest = |i: usize| film.curves[i].shape.dmax + ABOVE_DMAX;
        if film.layers() == 3 {
            let ends = [highest(0), highest(1), highest(2)];
            return Self::Colour(PrintTable::by_rows(ends, every, &|row| viewing.unbent_row(row)));
        }
        let to_wide = SRGB_TO_WIDE.to_f32();
        let step = highest(0) / (SINGLE_SAMPLES - 1) as f64;
        let samples: Vec<[f32; 3]> = (0..SINGLE_SAMPLES)
            .map(|i| encode_working(viewing.unbent([(step * i as f64) as f32; 3]), &to_wide))
            .collect();
        Self::Single(channels(highest(0), &samples))
    }

    /// The same tables, smoothed by the grain that a reduced render does not show.
    ///
    /// A screen plate needs none: what it lets through is linear in the silver's transmittance, whose mean grain keeps.
    pub fn smoothed(&self, film: &FilmResponse, grain: &UnresolvedGrain) -> Self {
        let nodes = normal_nodes(7);
        match self {
            Self::Colour(table) => Self::Colour(table.smoothed(&nodes, |layer, d| grain.sigma(layer, d))),
            Self::Single(tables) => {
                let highest = film.curves[0].shape.dmax + ABOVE_DMAX;
                let smooth = |table: &Sampled, d: f64| {
                    let s = grain.sigma(0, d);
                    let mean: f64 = nodes
                        .iter()
                        .map(|(x, w)| {
                            let at = (d + s * x + 0.5 * std::f64::consts::LN_10 * s * s).clamp(0.0, highest);
                            w * decode_srgb(table.at(at as f32) as f64)
                        })
                        .sum();
                    encode_srgb(mean)
                };
                let tables = tables.each_ref();
                Self::Single(tables.map(|t| Sampled::new(0.0, highest, SINGLE_SAMPLES, |d| smooth(t, d))))
            }
            Self::Screen(_) => self.clone(),
        }
    }

    /// Density to display, where that is a table too. What is brighter than white stays so in the nodes, so that tones
    /// between a node above white and one below it are read right; it becomes white after reading.
    fn displayed(&self) -> Option<Self> {
        let encoder = Encoder::default();
        let shown = |v: [f32; 3]| encoder.unbounded(v.map(decode_srgb_f32));
        match self {
            Self::Colour(table) => Some(Self::Colour(table.changed(|row| show_row(row, &encoder)))),
            Self::Single([red, green, blue]) => {
                let (end, count) = (red.end(), red.count());
                let step = end / (count - 1) as f64;
                let samples: Vec<[f32; 3]> = (0..count)
                    .map(|i| {
                        let d = (step * i as f64) as f32;
                        shown([red.at(d), green.at(d), blue.at(d)])
                    })
                    .collect();
                Some(Self::Single(channels(end, &samples)))
            }
            Self::Screen(_) => None,
        }
    }

    /// The table read for every pixel; `coverage` is that of a screen plate, its mean where absent.
    fn read<Q: crate::picture::buffer::Quantity>(
        &self,
        mut density: Picture<LayerDensity>,
        coverage: Option<&[Coverage]>,
    ) -> Picture<Q> {
        match self {
            Self::Colour(table) => {
                if let Some(planes) = density.three_mut() {
                    gathered::apply(table, planes);
                }
                density.into_quantity()
            }
            Self::Single(tables) => {
                let planes = tables
                    .iter()
                    .map(|t| {
                        let mut plane = density.plane(0).to_vec();
                        t.map(&mut plane);
                        plane
                    })
                    .collect();
                Picture::from_planes(density.region, planes)
            }
            Self::Screen(screen) => {
                let (plate, finish) = screen.as_ref();
                if let Some(planes) = density.three_mut() {
                    through_screen(planes, plate, finish, coverage);
                }
                density.into_quantity()
            }
        }
    }
}

/// One sampled table per channel over densities from 0 to `end`.
fn channels(end: f64, samples: &[[f32; 3]]) -> [Sampled; 3] {
    std::array::from_fn(|k| Sampled::from_values(0.0, end, samples.iter().map(|v| v[k]).collect()))
}

impl PrintStage {
    /// With the display's table, where there can be one.
    pub fn new(tables: Tables) -> Self {
        Self { display: tables.displayed(), reflectance: tables }
    }

    /// Working-space colour at one end of a single layer's table: of the bare paper under the densest negative (`end`),
    /// or of a bare plate.
    pub fn single_at(&self, end: bool) -> [f32; 3] {
        match &self.reflectance {
            Tables::Single(tables) => {
                tables.each_ref().map(|t| decode_srgb_f32(t.at(if end { t.end() as f32 } else { 0.0 })))
            }
            _ => [1.0; 3],
        }
    }

    /// The plate whose mosaic has to be laid over the picture.
    pub fn screen(&self) -> Option<&ScreenPlate> {
        match &self.reflectance {
            Tables::Screen(screen) => Some(&screen.0),
            _ => None,
        }
    }

    /// Reflectance (linear, working space) of a tile of densities.
    pub fn reflect(&self, density: Picture<LayerDensity>, coverage: Option<&[Coverage]>) -> Picture<Reflectance> {
        let mut picture = self.reflectance.read::<Reflectance>(density, coverage);
        if self.display.is_some() {
            for index in 0..picture.plane_count() {
                to_linear(picture.plane_mut(index));
            }
        }
        picture
    }

    /// Display values of a tile of densities.
    pub fn show(&self, density: Picture<LayerDensity>, coverage: Option<&[Coverage]>) -> Picture<Display> {
        match &self.display {
            Some(tables) => output::whites_in_range(tables.read(density, coverage)),
            None => output::encode(self.reflect(density, coverage)),
        }
    }
}

/// What the display shows for a row of encoded reflectances.
#[multiversion(targets("x86_64+avx2"))]
fn show_row(row: &mut [Row; 3], encoder: &Encoder) {
    each_pixel(row, |[r, g, b]| encoder.unbounded([decode_srgb_f32(r), decode_srgb_f32(g), decode_srgb_f32(b)]));
}

#[multiversion(targets("x86_64+avx2"))]
fn to_linear(plane: &mut [f32]) {
    let (runs, rest) = plane.as_chunks_mut::<RUN>();
    runs.iter_mut().for_each(|run| rooted::decode_all(run));
    rooted::decode_all(rest);
}

/// Pixels that are seen through the mosaic side by side.
const ABREAST: usize = 16;

/// Densities behind a mosaic to linear reflectance in the working space.
#[multiversion(targets("x86_64+avx2"))]
fn through_screen(planes: [&mut [f32]; 3], plate: &ScreenPlate, finish: &Finish, coverage: Option<&[Coverage]>) {
    let to_wide = SRGB_TO_WIDE.to_f32();
    let [red, green, blue] = planes;
    let count = red.len();
    let chunks = red.chunks_mut(ABREAST).zip(green.chunks_mut(ABREAST)).zip(blue.chunks_mut(ABREAST));
    for (index, ((red, green), blue)) in chunks.enumerate() {
        let from = index * ABREAST;
        let there = ABREAST.min(count - from);
        let mut rgb = [[0.0f32; ABREAST]; 3];
        for (lanes, row) in rgb.iter_mut().zip([&*red, &*green, &*blue]) {
            lanes[..there].copy_from_slice(row);
        }
        let mut weights = [plate.mean; ABREAST];
        if let Some(coverage) = coverage {
            for (weight, resolved) in weights.iter_mut().zip(&coverage[from..from + there]) {
                *weight = plate.seen(resolved);
            }
        }
        plate.show(rgb.each_mut(), &weights);
        for k in 0..there {
            let [x, y, z] = finish.apply([rgb[0][k], rgb[1][k], rgb[2][k]]);
            red[k] = dot(&to_wide[0], x, y, z).max(0.0);
            green[k] = dot(&to_wide[1], x, y, z).max(0.0);
            blue[k] = dot(&to_wide[2], x, y, z).max(0.0);
        }
    }
}
