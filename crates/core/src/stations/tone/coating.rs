//! The coating of hand-coated papers and plates.
//!
//! A paper is brushed with a wide brush, stroke beside stroke along its long side: each stroke has streaks of its
//! bristles, runs dry towards its end, and ends ragged by single bristles; what was never brushed is bare, and the
//! picture fades into it with the coating's thickness. A plate is poured: its coating ends in a soft wave near the
//! border, turned back at the corner that it was held by. Lengths are shares of the frame's diagonal: every format
//! shows the same brush. Addressed by the place on the frame. A model choice.

use super::settings::CoatingSettings;
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::numeric::NoiseLayer;
use crate::numeric::hashed_noise::RowKey;
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::value_noise::ValueNoise;
use crate::numeric::{exp2, log2, smooth_share};
use crate::picture::buffer::Reflectance;
use crate::picture::{Picture, Region};

/// Breadth of a brush: the narrowest and the widest.
const BRUSH: (f32, f32) = (0.11, 0.2);
/// A bristle's streak across and along: 1 to 40.
const BRISTLE: [f32; 2] = [0.14, 0.0035];
/// Strands of bristles that hold together.
const STRAND: [f32; 2] = [0.3, 0.012];
/// How far the strokes' ends and sides lie within the frame at a full edge, and how ragged their ends are.
const INSET: (f32, f32) = (0.05, 0.035);
/// Softness of a stroke's side.
const SIDE: f32 = 0.006;
/// Plates: how far the pour ends within the frame, its waves, and the corner by which it was held.
const POURED: f32 = 0.02;
const WAVES: [(f64, f32); 2] = [(0.16, 0.0075), (0.04, 0.0022)];
const HELD: f32 = 0.055;
const POUR_WIDTH: f32 = 0.004;
/// Lattices of the noises of thickness: pools, strokes across and along.
const POOLS: f64 = 0.11;
const STROKES: [f64; 2] = [0.5, 0.012];
/// Change of density at full unevenness for one standard deviation.
const POOLED: f32 = 0.09;
const STROKED: f32 = 0.045;

/// One stroke of the brush along the long side, in diagonals.
#[derive(Debug, Clone, Copy)]
struct Stroke {
    /// Where its middle crosses the frame's, and how it leans.
    across: f32,
    lean: f32,
    half: f32,
    from: f32,
    to: f32,
    /// 1 where it was drawn the other way.
    way: f32,
    /// How soon it runs dry.
    dry: f32,
    seed: u32,
}

/// Prepared for one frame.
#[derive(Debug, Clone)]
pub struct Coating {
    settings: CoatingSettings,
    seed: u64,
    /// Linear working-space colour of the bare ground.
    ground: [f32; 3],
    /// A plate's coating is poured, not brushed.
    poured: bool,
}

impl Coating {
    /// `None` where there is nothing to be seen of it.
    pub fn new(settings: &CoatingSettings, frame_seed: u32, ground: [f32; 3], poured: bool) -> Option<Self> {
        let seed = u64::from(frame_seed) ^ (u64::from(settings.seed) << 32);
        (settings.edge > 0.0 || settings.uneven > 0.0).then_some(Self { settings: *settings, seed, ground, poured })
    }
}

impl Effect<Reflectance> for Coating {
    fn key(&self) -> Key {
        key(&[&"coating", &self.settings, &self.seed, &self.ground, &self.poured])
    }

    fn apply(&self, frame: &FilmFrame, mut print: Picture<Reflectance>, region: Region) -> Picture<Reflectance> {
        let cover = match self.settings.edge > 0.0 {
            false => vec![1.0; region.pixels()],
            true if self.poured => self.poured(frame.size(), region),
            true => self.brushed(frame.size(), region),
        };
        let density = self.density(frame.size(), region);
        for index in 0..3 {
            let ground = self.ground[index];
            for ((v, cover), d) in print.plane_mut(index).iter_mut().zip(&cover).zip(&density) {
                // thicker coating: more density over the ground's own, or on a dark plate more silver
                let thick = cover * d;
                let coated = if *v < ground {
                    ground * exp2(log2((*v / ground).max(1e-4)) * thick)
                } else {
                    ground + (*v - ground) * thick
                };
                *v = coated;
            }
        }
        print
    }
}

impl Coating {
    /// Even numbers from 0 to 1, the same for every part of the frame.
    fn throw(&self, what: i32) -> f32 {
        (RowKey::new(self.seed, NoiseLayer::CoatingEdge(0), 1).hash(what) >> 8) as f32 / (1u32 << 24) as f32
    }

    /// The strokes that coat a frame of half a size, along its long side.
    fn strokes(&self, long: f32, short: f32) -> Vec<Stroke> {
        let strength = self.settings.edge as f32;
        let (inset, ragged) = (INSET.0 * strength, INSET.1 * strength);
        let mut strokes = Vec::new();
        let (mut at, last) = (-short + inset, short - inset);
        let mut k = 0;
        while at < last - 0.01 && k < 40 {
            let between = |what: i32, low: f32, high: f32| low + (high - low) * self.throw(16 * k + what);
            let breadth = between(0, BRUSH.0, BRUSH.1).min(last - at + 0.012);
            strokes.push(Stroke {
                across: at + 0.5 * breadth,
                lean: between(1, -0.018, 0.018),
                half: 0.5 * breadth,
                from: -long + inset + ragged * between(2, -0.6, 1.0),
                to: long - inset + ragged * between(3, -1.0, 0.6),
                way: if self.throw(16 * k + 4) < 0.5 { -1.0 } else { 1.0 },
                dry: between(5, 0.25, 1.0) * strength.min(1.0),
                seed: RowKey::new(self.seed, NoiseLayer::CoatingEdge(1), k).hash(7),
            });
            // the next one overlaps it a little, and now and then hardly
            at += breadth - between(6, 0.009, 0.026);
            k += 1;
        }
        strokes
    }

    /// How thick the strokes lie, 0 to 1.
    fn brushed(&self, [width, height]: [u32; 2], region: Region) -> Vec<f32> {
        let per = 1.0 / f64::from(width).hypot(f64::from(height));
        let half = [f64::from(width) * per * 0.5, f64::from(height) * per * 0.5];
        let upright = height > width;
        let (long, short) = if upright { (half[1], half[0]) } else { (half[0], half[1]) };
        let strokes = self.strokes(long as f32, short as f32);
        let noises: Vec<[PlaneNoise; 2]> = strokes
            .iter()
            .map(|s| [PlaneNoise::oblong(s.seed, BRISTLE), PlaneNoise::oblong(s.seed ^ 0x5bd1_e995, STRAND)])
            .collect();
        let mut out = Vec::with_capacity(region.pixels());
        for y in region.y..region.bottom() {
            for x in region.x..region.right() {
                let u = ((f64::from(x) + 0.5) * per - half[0]) as f32;
                let v = ((f64::from(y) + 0.5) * per - half[1]) as f32;
                let (along, across) = if upright { (v, u) } else { (u, v) };
                let mut bare = 1.0f32;
                for (stroke, [bristles, strands]) in strokes.iter().zip(&noises) {
                    bare *= 1.0 - stroke.coat(along, across, bristles, strands);
                }
                out.push(1.0 - bare);
            }
        }
        out
    }

    /// How thick the pour lies, 0 to 1.
    fn poured(&self, [width, height]: [u32; 2], region: Region) -> Vec<f32> {
        let per = 1.0 / f64::from(width).hypot(f64::from(height));
        let (wide, high) = ((f64::from(width) * per) as f32, (f64::from(height) * per) as f32);
        let noises = [0, 1].map(|k| ValueNoise::new(self.seed, NoiseLayer::CoatingEdge(k), WAVES[usize::from(k)].0));
        let strength = self.settings.edge as f32;
        let corner = [self.throw(1) < 0.5, self.throw(2) < 0.5];
        let mut out = Vec::with_capacity(region.pixels());
        let mut row = vec![0.0f32; region.width as usize];
        for y in region.y..region.bottom() {
            let (x0, at_y) = ((f64::from(region.x) + 0.5) * per, (f64::from(y) + 0.5) * per);
            row.fill(0.0);
            noises.iter().zip(WAVES).for_each(|(noise, (_, weight))| noise.add_row(weight, x0, at_y, per, &mut row));
            let v = at_y as f32;
            for (k, n) in row.iter().enumerate() {
                let u = (x0 + per * k as f64) as f32;
                let inside = u.min(wide - u).min(v.min(high - v)) - strength * (0.45 * POURED + n);
                // round the corner that was held the pour turned back
                let du = if corner[0] { wide - u } else { u };
                let dv = if corner[1] { high - v } else { v };
                let held = (du + dv) * 0.707 - strength * (HELD + 1.5 * n);
                out.push(smooth_share(inside.min(held) / POUR_WIDTH + 0.5));
            }
        }
        out
    }

    /// Factor on the density.
    fn density(&self, [width, height]: [u32; 2], region: Region) -> Vec<f32> {
        let uneven = self.settings.uneven as f32;
        if uneven <= 0.0 {
            return vec![1.0; region.pixels()];
        }
        let per = 1.0 / f64::from(width).hypot(f64::from(height));
        let pools = ValueNoise::new(self.seed, NoiseLayer::CoatingPools, POOLS);
        let pitch_um = if height > width { [STROKES[1], STROKES[0]] } else { STROKES };
        let strokes = ValueNoise { seed: self.seed, layer: NoiseLayer::CoatingStrokes, pitch_um };
        let mut out = vec![1.0f32; region.pixels()];
        for (y, line) in (region.y..region.bottom()).zip(out.chunks_exact_mut(region.width as usize)) {
            let (x0, at_y) = ((f64::from(region.x) + 0.5) * per, (f64::from(y) + 0.5) * per);
            pools.add_row(POOLED * uneven, x0, at_y, per, line);
            strokes.add_row(STROKED * uneven, x0, at_y, per, line);
            line.iter_mut().for_each(|v| *v = v.clamp(0.3, 1.7));
        }
        out
    }
}

impl Stroke {
    /// How thick it lies at a place.
    fn coat(&self, along: f32, across: f32, bristles: &PlaneNoise, strands: &PlaneNoise) -> f32 {
        let aside = across - self.across - self.lean * along;
        if aside.abs() > self.half + 4.0 * SIDE {
            return 0.0;
        }
        let hair = bristles.at(along, aside);
        let strand = strands.at(along, aside);
        // the ends: each bristle leaves the paper where it will; strands of them reach further
        let tooth = bristles.at(50.0, 1.7 * aside) * 0.008 + strands.at(50.0, aside) * 0.015;
        let inside = (along - self.from + tooth).min(self.to - along + 0.9 * tooth);
        // thinner towards its tip
        let end = smooth_share(inside / (0.016 + 0.006 * hair) + 0.35);
        let side = smooth_share((self.half - aside.abs() + 0.6 * SIDE * (hair + strand)) / SIDE + 0.5);
        // it runs dry along its way: first single streaks open, at the end only strands are left
        let way = (along - self.from) / (self.to - self.from);
        let way = if self.way > 0.0 { way } else { 1.0 - way };
        let dry = self.dry * smooth_share((way - 0.55) / 0.5);
        let streak = smooth_share(1.35 - 1.7 * dry + 0.42 * hair + 0.38 * strand);
        (end * side * (1.0 - dry.min(1.0) * (1.0 - streak))).clamp(0.0, 1.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Source;

    fn coated(settings: CoatingSettings, poured: bool, region: Region) -> Picture<Reflectance> {
        let coating = Coating::new(&settings, 5, [0.85, 0.8, 0.7], poured).unwrap();
        let print = Picture::from_planes(region, vec![vec![0.2; region.pixels()]; 3]);
        let source = Source::from_linear_srgb(300, 200, |_, _| [0.2; 3]);
        coating.apply(&FilmFrame::filling(&source, 36_000.0), print, region)
    }

    #[test]
    fn the_edge_is_bare_the_middle_coated_and_a_region_is_a_crop() {
        let settings = CoatingSettings { edge: 1.0, uneven: 0.8, seed: 3 };
        for poured in [false, true] {
            let whole = coated(settings, poured, Region::whole(300, 200));
            assert!((whole.plane(0)[0] - 0.85).abs() < 1e-3, "bare in the corner");
            let middle = &whole.plane(0)[100 * 300 + 60..100 * 300 + 120];
            let mean = middle.iter().sum::<f32>() / 60.0;
            assert!((0.1..0.5).contains(&mean) && middle.iter().any(|v| (v - 0.2).abs() > 0.003), "{mean}");
            let part = Region::new(13, 90, 60, 30);
            assert!(coated(settings, poured, part).planes() == whole.cut(part).planes());
        }
        assert!(Coating::new(&CoatingSettings::default(), 1, [1.0; 3], false).is_none());
    }

    /// Strokes end unevenly: along the end of the brushed paper there is everything from bare to coated.
    #[test]
    fn ends_are_ragged() {
        let settings = CoatingSettings { edge: 1.0, uneven: 0.0, seed: 3 };
        let whole = coated(settings, false, Region::whole(300, 200));
        let column = |x: usize| (20..180).map(|y| whole.plane(0)[y * 300 + x]).collect::<Vec<_>>();
        let mixed = (4..40).filter(|x| {
            let values = column(*x);
            values.iter().any(|v| *v > 0.75) && values.iter().any(|v| *v < 0.35)
        });
        assert!(mixed.count() >= 4);
    }
}
