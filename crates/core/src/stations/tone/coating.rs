//! The coating of hand-coated papers and plates: a ragged edge, strokes and pools.
//!
//! Lengths are shares of the frame's diagonal: every format shows the same brush. Where there is no coating the bare
//! ground is seen; where it is thinner the picture is paler. Addressed by the place on the frame. A model choice.

use super::settings::CoatingSettings;
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::numeric::NoiseLayer;
use crate::numeric::value_noise::ValueNoise;
use crate::numeric::{exp2, log2, smooth_share};
use crate::picture::buffer::Reflectance;
use crate::picture::{Picture, Region};

/// How far in the edge lies at most, and how ragged it is, in diagonals.
const EDGE: (f32, f32) = (0.045, 0.016);
/// Softness of the edge.
const EDGE_WIDTH: f32 = 0.0045;
/// Lattices of the noises: ragged edge (slow, fine), pools, strokes across and along.
const RAGGED: [f64; 2] = [0.045, 0.009];
const POOLS: f64 = 0.11;
const STROKES: [f64; 2] = [0.5, 0.012];
/// Change of density at full unevenness for one standard deviation.
const POOLED: f32 = 0.09;
const STROKED: f32 = 0.045;

/// Prepared for one frame.
#[derive(Debug, Clone)]
pub struct Coating {
    settings: CoatingSettings,
    seed: u64,
    /// Linear working-space colour of the bare ground.
    ground: [f32; 3],
}

impl Coating {
    /// `None` where there is nothing to be seen of it.
    pub fn new(settings: &CoatingSettings, frame_seed: u32, ground: [f32; 3]) -> Option<Self> {
        let seed = u64::from(frame_seed) ^ (u64::from(settings.seed) << 32);
        (settings.edge > 0.0 || settings.uneven > 0.0).then_some(Self { settings: *settings, seed, ground })
    }
}

impl Effect<Reflectance> for Coating {
    fn key(&self) -> Key {
        key(&[&"coating", &self.settings, &self.seed, &self.ground])
    }

    fn apply(&self, frame: &FilmFrame, mut print: Picture<Reflectance>, region: Region) -> Picture<Reflectance> {
        let cover = self.cover(frame.size(), region);
        let density = self.density(frame.size(), region);
        for index in 0..3 {
            let ground = self.ground[index];
            for ((v, cover), d) in print.plane_mut(index).iter_mut().zip(&cover).zip(&density) {
                // thicker coating: more density over the ground's own, or on a dark plate more silver
                let coated = if *v < ground {
                    ground * exp2(log2((*v / ground).max(1e-4)) * d)
                } else {
                    ground + (*v - ground) * d
                };
                *v = ground + cover * (coated - ground);
            }
        }
        print
    }
}

impl Coating {
    /// 1 where it is coated.
    fn cover(&self, [width, height]: [u32; 2], region: Region) -> Vec<f32> {
        if self.settings.edge <= 0.0 {
            return vec![1.0; region.pixels()];
        }
        let per = 1.0 / f64::from(width).hypot(f64::from(height));
        let (wide, high) = ((f64::from(width) * per) as f32, (f64::from(height) * per) as f32);
        let noises = [0, 1].map(|k| ValueNoise::new(self.seed, NoiseLayer::CoatingEdge(k), RAGGED[usize::from(k)]));
        let strength = self.settings.edge as f32;
        let (inset, ragged) = (EDGE.0 * strength, EDGE.1 * strength);
        let mut out = Vec::with_capacity(region.pixels());
        let mut row = vec![0.0f32; region.width as usize];
        for y in region.y..region.bottom() {
            let (x0, at_y) = ((f64::from(region.x) + 0.5) * per, (f64::from(y) + 0.5) * per);
            row.fill(0.0);
            noises[0].add_row(0.8, x0, at_y, per, &mut row);
            noises[1].add_row(0.32, x0, at_y, per, &mut row);
            let v = at_y as f32;
            for (k, n) in row.iter().enumerate() {
                let u = (x0 + per * k as f64) as f32;
                let inside = u.min(wide - u).min(v.min(high - v));
                out.push(smooth_share((inside - inset - ragged * n) / EDGE_WIDTH + 0.5));
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
        let strokes = ValueNoise { seed: self.seed, layer: NoiseLayer::CoatingStrokes, pitch_um: STROKES };
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Source;

    fn coated(settings: CoatingSettings, region: Region) -> Picture<Reflectance> {
        let coating = Coating::new(&settings, 5, [0.85, 0.8, 0.7]).unwrap();
        let print = Picture::from_planes(region, vec![vec![0.2; region.pixels()]; 3]);
        let source = Source::from_linear_srgb(300, 200, |_, _| [0.2; 3]);
        coating.apply(&FilmFrame::filling(&source, 36_000.0), print, region)
    }

    #[test]
    fn the_edge_is_bare_the_middle_coated_and_a_region_is_a_crop() {
        let settings = CoatingSettings { edge: 1.0, uneven: 0.8, seed: 3 };
        let whole = coated(settings, Region::whole(300, 200));
        assert!((whole.plane(0)[0] - 0.85).abs() < 1e-4, "bare in the corner");
        let middle = &whole.plane(0)[100 * 300 + 120..100 * 300 + 180];
        assert!(middle.iter().all(|v| (0.1..0.45).contains(v)) && middle.iter().any(|v| (v - 0.2).abs() > 0.003));
        let part = Region::new(13, 90, 60, 30);
        assert!(coated(settings, part).planes() == whole.cut(part).planes());
        assert!(Coating::new(&CoatingSettings::default(), 1, [1.0; 3]).is_none());
    }
}
