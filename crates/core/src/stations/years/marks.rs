//! Marks that years leave on a print: silver mirrored in the darks, brown spots, the tide line of water.
//!
//! Lengths are shares of the frame's diagonal. Mirroring adds a bluish sheen where silver is densest, near the edges
//! most; foxing multiplies by rust-brown spots; water took up stain and left it where it stopped, in a line. Addressed
//! by the place on the frame and by seeds. Model choices.

use multiversion::multiversion;

use super::settings::MarksSettings;
use crate::colour::space::{SRGB_TO_WIDE, WIDE_LUMINANCE};
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::mask::PreparedUse;
use crate::numeric::NoiseLayer;
use crate::numeric::exp2;
use crate::numeric::hashed_noise::RowKey;
use crate::numeric::log_exp::LOG2_OF_10;
use crate::numeric::runs::{RUN, any_above};
use crate::numeric::value_noise::ValueNoise;
use crate::picture::buffer::Reflectance;
use crate::picture::{Picture, Region};

/// Sheen at full strength: linear sRGB.
const SHEEN: [f64; 3] = [0.080, 0.090, 0.110];
/// Reflectance below which it shows, and how far it reaches from the edge, in diagonals.
const DARK: f32 = 0.10;
const SHEEN_REACH: f32 = 0.11;
/// Least share of it far from the edges.
const SHEEN_LEAST: f32 = 0.10;
/// Patchiness: lattices in diagonals, and weights.
const PATCHY: [(f64, f32); 2] = [(0.23, 0.16), (0.09, 0.08)];
/// Cells of foxing in a diagonal, a spot's radius and its densities of red, green, blue in sRGB.
const SPOTS: f64 = 34.0;
const SPOT_RADIUS: (f32, f32) = (0.0022, 0.0085);
const RUST: [f32; 3] = [0.16, 0.32, 0.47];
/// Water: lattice of its shore, width of the tide line, densities of the line and of the ground it washed.
const SHORE: [f64; 2] = [0.22, 0.045];
const LINE: (f32, f32) = (0.0035, 0.018);
/// So far outside the shore nothing is left of the line.
const DRY: f32 = 4.0 * LINE.0;
const TIDE: [f32; 3] = [0.05, 0.09, 0.16];
const WASHED: f32 = 0.30;

/// Where each kind of mark may lie.
#[derive(Debug, Clone, Default)]
pub struct MarkPlaces {
    /// Where silver mirrors.
    pub mirroring: Option<PreparedUse>,
    /// Where spots lie.
    pub foxing: Option<PreparedUse>,
    /// Where water stood.
    pub water: Option<PreparedUse>,
}

/// Prepared.
#[derive(Debug, Clone)]
pub struct Marks {
    settings: MarksSettings,
    places: MarkPlaces,
    seed: u64,
    sheen: [f32; 3],
}

impl Marks {
    /// `None` where there is none.
    pub fn new(settings: &MarksSettings, places: MarkPlaces, frame_seed: u32) -> Option<Self> {
        let any = settings.mirroring > 0.0 || settings.foxing > 0.0 || settings.water > 0.0;
        let sheen = SRGB_TO_WIDE.apply(SHEEN).map(|v| v as f32);
        any.then(|| Self { settings: *settings, places, seed: u64::from(frame_seed), sheen })
    }

    fn seeded(&self, seed: u32) -> u64 {
        self.seed ^ (u64::from(seed) << 32)
    }
}

impl Effect<Reflectance> for Marks {
    fn key(&self) -> Key {
        key(&[&"marks", &self.settings, &self.places, &self.seed])
    }

    fn apply(&self, frame: &FilmFrame, mut print: Picture<Reflectance>, region: Region) -> Picture<Reflectance> {
        let size = frame.size();
        let placed = |place: &Option<PreparedUse>, mut amount: Vec<f32>| {
            if let Some(mask) = place.as_ref().map(|mask| mask.over(frame.source, region)) {
                amount.iter_mut().zip(mask).for_each(|(a, m)| *a *= m);
            }
            amount
        };
        if self.settings.mirroring > 0.0 {
            let amount = placed(&self.places.mirroring, self.mirrored(size, &print));
            for index in 0..3 {
                let sheen = self.sheen[index];
                print.plane_mut(index).iter_mut().zip(&amount).for_each(|(v, a)| *v += a * (sheen - *v).max(0.0));
            }
        }
        if self.settings.foxing > 0.0 {
            stain(&mut print, &placed(&self.places.foxing, self.spots(size, region)), RUST);
        }
        if self.settings.water > 0.0 {
            stain(&mut print, &placed(&self.places.water, self.tide(size, region)), TIDE);
        }
        print
    }
}

impl Marks {
    fn mirrored(&self, [width, height]: [u32; 2], print: &Picture<Reflectance>) -> Vec<f32> {
        let region = print.region;
        let per = 1.0 / f64::from(width).hypot(f64::from(height));
        let (wide, high) = ((f64::from(width) * per) as f32, (f64::from(height) * per) as f32);
        let noises =
            PATCHY.map(|(pitch, weight)| (ValueNoise::new(self.seeded(0), NoiseLayer::Mirroring, pitch), weight));
        let strength = self.settings.mirroring as f32;
        let mut out = Vec::with_capacity(region.pixels());
        let mut row = vec![0.0f32; region.width as usize];
        for (line, y) in (region.y..region.bottom()).enumerate() {
            let (x0, at_y) = ((f64::from(region.x) + 0.5) * per, (f64::from(y) + 0.5) * per);
            row.fill(0.0);
            noises.iter().for_each(|(noise, weight)| noise.add_row(*weight, x0, at_y, per, &mut row));
            for (k, n) in row.iter().enumerate() {
                let i = line * region.width as usize + k;
                let light = (0..3).map(|c| WIDE_LUMINANCE[c] * print.plane(c)[i]).sum::<f32>();
                let dark = (1.0 - light * (1.0 / DARK)).clamp(0.0, 1.0);
                let u = (x0 + per * k as f64) as f32;
                let from = u.min(wide - u).min((at_y as f32).min(high - at_y as f32));
                // the border wanders with the noise, it is not only stronger here and weaker there
                let near = SHEEN_LEAST + (1.0 - SHEEN_LEAST) * exp2(-(from / SHEEN_REACH) * 2.0 + 2.0 * n);
                out.push((strength * dark * dark * near).clamp(0.0, 1.0));
            }
        }
        out
    }

    /// Strength of rust at every pixel.
    fn spots(&self, [width, height]: [u32; 2], region: Region) -> Vec<f32> {
        let per = (1.0 / f64::from(width).hypot(f64::from(height))) as f32;
        let seed = self.seeded(self.settings.foxing_seed);
        let amount = self.settings.foxing as f32;
        let size = self.settings.foxing_size as f32;
        let mut out = vec![0.0f32; region.pixels()];
        let cell = (1.0 / SPOTS) as f32;
        let span = |from: u32, to: u32| {
            let reach = 2.5 * SPOT_RADIUS.1 * size;
            let low = ((from as f32 * per - reach) / cell).floor() as i32;
            (low, ((to as f32 * per + reach) / cell).ceil() as i32)
        };
        let ((left, right), (top, bottom)) = (span(region.x, region.right()), span(region.y, region.bottom()));
        for j in top..=bottom {
            let keys = [0, 1, 2, 3].map(|k| RowKey::new(seed, NoiseLayer::Foxing(k), j));
            for i in left..=right {
                let even = |k: usize| uniform(keys[k].gaussian(i));
                // some cells have a spot; a few of them a large one
                if even(0) > 0.16 + 0.5 * amount {
                    continue;
                }
                let share = even(1);
                let radius = size * (SPOT_RADIUS.0 + (SPOT_RADIUS.1 - SPOT_RADIUS.0) * share * share * share);
                let centre = [(i as f32 + even(2)) * cell, (j as f32 + even(3)) * cell];
                let strength = amount * (0.35 + 0.65 * even(1));
                add_spot(&mut out, region, per, centre, radius, strength);
            }
        }
        out
    }

    /// Strength of the tide at every pixel.
    fn tide(&self, [width, height]: [u32; 2], region: Region) -> Vec<f32> {
        let per = 1.0 / f64::from(width).hypot(f64::from(height));
        let seed = self.seeded(self.settings.water_seed);
        let shores = [0, 1].map(|k| ValueNoise::new(seed, NoiseLayer::WaterShore(k), SHORE[usize::from(k)]));
        let amount = self.settings.water as f32;
        // the water came from one corner or side
        let corner = RowKey::new(seed, NoiseLayer::WaterCorner, 0);
        let angle = std::f32::consts::TAU * uniform(corner.gaussian(0));
        let (sine, cosine) = (libm::sinf(angle), libm::cosf(angle));
        let level = 0.75 - 0.55 * amount;
        let (wide, high) = (f64::from(width) * per, f64::from(height) * per);
        let mut out = Vec::with_capacity(region.pixels());
        let mut row = vec![0.0f32; region.width as usize];
        for y in region.y..region.bottom() {
            let (x0, at_y) = ((f64::from(region.x) + 0.5) * per, (f64::from(y) + 0.5) * per);
            row.fill(0.0);
            shores[0].add_row(0.055, x0, at_y, per, &mut row);
            shores[1].add_row(0.012, x0, at_y, per, &mut row);
            let v = (2.0 * at_y / high - 1.0) as f32;
            let along = |k: usize| {
                let u = (2.0 * (x0 + per * f64::from(k as i32)) / wide - 1.0) as f32;
                u * cosine + v * sine
            };
            washed(&mut row, level, amount.sqrt(), along);
            out.extend_from_slice(&row);
        }
        out
    }
}

/// How much of the stain lies in a row whose shore is moved by what the row holds; `along` goes inland.
#[multiversion(targets("x86_64+avx2"))]
fn washed(row: &mut [f32], level: f32, most: f32, along: impl Fn(usize) -> f32) {
    let inside = |wet: f32| {
        let line = exp2(-(wet / LINE.1));
        WASHED * (1.0 - line) + line
    };
    let outside = |wet: f32| {
        let line = exp2(-(wet / LINE.0) * (wet / LINE.0));
        if wet > -DRY { line } else { 0.0 }
    };
    for (index, run) in row.chunks_mut(RUN).enumerate() {
        // in diagonals from the shore, above 0 where it was wet
        run.iter_mut().enumerate().for_each(|(k, n)| *n += 0.35 * (along(index * RUN + k) - level));
        // a run on dry land needs no line
        match any_above(run, -DRY) {
            true => run.iter_mut().for_each(|n| *n = most * if *n > 0.0 { inside(*n) } else { outside(*n) }),
            false => run.fill(0.0),
        }
    }
}

/// An even number from 0 to 1 of a Gaussian one (logistic approximation of the distribution).
fn uniform(gaussian: f32) -> f32 {
    1.0 / (1.0 + exp2(-gaussian * (1.702 * LOG2_OF_E)))
}

const LOG2_OF_E: f32 = std::f32::consts::LOG2_E;

fn add_spot(out: &mut [f32], region: Region, per: f32, centre: [f32; 2], radius: f32, strength: f32) {
    let reach = 2.2 * radius;
    let span = |c: f32, from: u32, count: u32| {
        let low = ((c - reach) / per - from as f32).floor().clamp(0.0, count as f32) as usize;
        low..((c + reach) / per - from as f32).ceil().clamp(0.0, count as f32) as usize
    };
    let width = region.width as usize;
    for row in span(centre[1], region.y, region.height) {
        let dy = ((region.y as usize + row) as f32 + 0.5) * per - centre[1];
        for column in span(centre[0], region.x, region.width) {
            let dx = ((region.x as usize + column) as f32 + 0.5) * per - centre[0];
            let distance = (dx * dx + dy * dy).sqrt() / radius;
            // a soft halo round a darker heart
            let halo = (1.0 - distance / 2.2).max(0.0);
            let heart = (1.0 - distance).max(0.0);
            let v = &mut out[row * width + column];
            *v = (*v + strength * (0.45 * halo * halo + 0.7 * heart)).min(1.4);
        }
    }
}

/// Multiplies by a stain of densities given for linear sRGB, as near as the working space's channels are.
fn stain(print: &mut Picture<Reflectance>, amount: &[f32], density: [f32; 3]) {
    for index in 0..3 {
        darken(print.plane_mut(index), amount, -LOG2_OF_10 * density[index]);
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn darken(plane: &mut [f32], amount: &[f32], exponent: f32) {
    for (run, amount) in plane.chunks_mut(RUN).zip(amount.chunks(RUN)) {
        // most of a print has no mark on it
        if any_above(amount, 0.0) {
            for (v, a) in run.iter_mut().zip(amount) {
                *v *= if *a > 0.0 { exp2(exponent * a) } else { 1.0 };
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Source;

    fn marked(settings: MarksSettings, region: Region, tone: f32) -> Picture<Reflectance> {
        let frame = Source::from_linear_srgb(300, 200, |_, _| [0.2; 3]);
        let print = Picture::from_planes(region, vec![vec![tone; region.pixels()]; 3]);
        let marks = Marks::new(&settings, MarkPlaces::default(), 7).unwrap();
        marks.apply(&FilmFrame::filling(&frame, 36_000.0), print, region)
    }

    const NONE: MarksSettings =
        MarksSettings { mirroring: 0.0, foxing: 0.0, foxing_size: 1.0, foxing_seed: 0, water: 0.0, water_seed: 0 };

    #[test]
    fn marks_lie_where_they_should_and_a_region_is_a_crop() {
        let whole = Region::whole(300, 200);
        let all = MarksSettings { mirroring: 0.8, foxing: 0.7, water: 0.6, ..NONE };
        let full = marked(all, whole, 0.05);
        let part = Region::new(40, 31, 77, 60);
        assert!(marked(all, part, 0.05).planes() == full.cut(part).planes());
        // mirroring lifts the darks, bluish, at the edge more than within, and leaves the lights
        let mirrored = marked(MarksSettings { mirroring: 1.0, ..NONE }, whole, 0.01);
        assert!(mirrored.plane(2)[150] > mirrored.plane(0)[150] && mirrored.plane(0)[150] > 0.02);
        assert!(mirrored.plane(0)[100 * 300 + 150] < 0.6 * mirrored.plane(0)[150]);
        let light = marked(MarksSettings { mirroring: 1.0, ..NONE }, whole, 0.7);
        assert!(light.plane(0).iter().all(|v| *v == 0.7));
        // spots are some of the area, brown
        let foxed = marked(MarksSettings { foxing: 0.6, ..NONE }, whole, 0.8);
        let share = foxed.plane(2).iter().filter(|v| **v < 0.7).count() as f64 / whole.pixels() as f64;
        assert!((0.003..0.3).contains(&share), "{share}");
        assert!((0..whole.pixels()).all(|i| foxed.plane(2)[i] <= foxed.plane(0)[i] + 1e-6));
        // water has a dry part and a line darker than what it washed
        let wet = marked(MarksSettings { water: 0.6, ..NONE }, whole, 0.8);
        let (low, high) = wet.plane(2).iter().fold((1.0f32, 0.0f32), |(l, h), v| (l.min(*v), h.max(*v)));
        assert!(low < 0.66 && high > 0.799, "{low} {high}");
        assert!(Marks::new(&NONE, MarkPlaces::default(), 7).is_none());
    }
}
