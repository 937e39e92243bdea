//! Smooth noise at any place of a plane: for what may lie turned, where rows are not rows of a lattice.
//!
//! Hashed Gaussians on a lattice, mixed with quintic weights and divided by the root of the weights' squares: variance
//! 1 everywhere, as [`super::value_noise`]. A value depends on the seed and the place alone.

use multiversion::multiversion;

use super::runs::{Lane, RUN};
use super::turns::whole_below;

/// One field of noise: its seed and the size of its lattice, in the unit of its places.
#[derive(Debug, Clone, Copy)]
pub struct PlaneNoise {
    seed: u32,
    per_pitch: [f32; 2],
}

/// A 32-bit finaliser (Wellons 2018, "lowbias32") over the lattice's place.
#[inline(always)]
pub fn hash(seed: u32, i: i32, j: i32) -> u32 {
    let mut a = (i as u32).wrapping_mul(0x9E37_79B1) ^ (j as u32).wrapping_mul(0x85EB_CA77).wrapping_add(seed);
    a ^= a >> 16;
    a = a.wrapping_mul(0x21F0_AAAD);
    a ^= a >> 15;
    a = a.wrapping_mul(0x735A_2D97);
    a ^ (a >> 15)
}

/// As [`super::hashed_noise::RowKey::gaussian`].
#[inline(always)]
fn gaussian(h: u32) -> f32 {
    let bytes = (h & 255) + (h >> 8 & 255) + (h >> 16 & 255) + (h >> 24);
    let u = (bytes as i32 - 510) as f32 * 0.006_765_875;
    u * (0.949_033_3 + 0.018_642_38 * u * u)
}

#[inline(always)]
fn quintic(t: f32) -> f32 {
    t * t * t * (t * (t * 6.0 - 15.0) + 10.0)
}

impl PlaneNoise {
    /// Noise on a square lattice.
    pub fn new(seed: u32, pitch: f32) -> Self {
        Self::oblong(seed, [pitch; 2])
    }

    /// Noise that is longer one way than the other.
    pub fn oblong(seed: u32, pitch: [f32; 2]) -> Self {
        Self { seed, per_pitch: pitch.map(|p| 1.0 / p) }
    }

    /// The noise at one place.
    #[inline(always)]
    pub fn at(&self, u: f32, v: f32) -> f32 {
        let (x, y) = (u * self.per_pitch[0], v * self.per_pitch[1]);
        let (i, j) = (whole_below(x), whole_below(y));
        let (wx, wy) = (quintic(x - i as f32), quintic(y - j as f32));
        let corner = |di: i32, dj: i32| gaussian(hash(self.seed, i.wrapping_add(di), j.wrapping_add(dj)));
        let upper = (1.0 - wx) * corner(0, 0) + wx * corner(1, 0);
        let lower = (1.0 - wx) * corner(0, 1) + wx * corner(1, 1);
        let squares = |w: f32| (1.0 - w) * (1.0 - w) + w * w;
        ((1.0 - wy) * upper + wy * lower) / (squares(wx) * squares(wy)).sqrt()
    }

    /// The noise along the line on which the second coordinate is 0: half the work, the same bits.
    #[inline(always)]
    pub fn along(&self, u: f32) -> f32 {
        let x = u * self.per_pitch[0];
        let i = whole_below(x);
        let wx = quintic(x - i as f32);
        let corner = |di: i32| gaussian(hash(self.seed, i.wrapping_add(di), 0));
        ((1.0 - wx) * corner(0) + wx * corner(1)) / ((1.0 - wx) * (1.0 - wx) + wx * wx).sqrt()
    }

    /// Adds `weight` times the noise to a run of places.
    pub fn add(&self, weight: f32, u: &Lane, v: &Lane, out: &mut Lane) {
        add(self, weight, u, v, out);
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn add(noise: &PlaneNoise, weight: f32, u: &Lane, v: &Lane, out: &mut Lane) {
    for i in 0..RUN {
        out[i] += weight * noise.at(u[i], v[i]);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn variance_is_one_between_the_lattice_too() {
        let noise = PlaneNoise::oblong(7, [3.0, 11.0]);
        for offset in [0.0f32, 0.5, 1.5, 2.9] {
            let count = 60_000;
            let of =
                |k: i32| f64::from(noise.at(offset + 6.0 * (k % 300) as f32, 3.7 * offset + 22.0 * (k / 300) as f32));
            let square = (0..count).map(|k| of(k).powi(2)).sum::<f64>() / f64::from(count);
            assert!((square - 1.0).abs() < 0.03, "{offset}: {square}");
        }
    }

    #[test]
    fn a_run_is_its_places_and_has_no_seam() {
        let noise = PlaneNoise::new(9, 5.0);
        let u: Lane = std::array::from_fn(|i| i as f32 * 1.3 - 40.0);
        let v: Lane = std::array::from_fn(|i| i as f32 * -0.4 + 3.0);
        let mut out = [0.5; RUN];
        noise.add(2.0, &u, &v, &mut out);
        for i in 0..RUN {
            assert_eq!(out[i].to_bits(), (0.5 + 2.0 * noise.at(u[i], v[i])).to_bits());
        }
        for u in u {
            assert_eq!(noise.along(u).to_bits(), noise.at(u, 0.0).to_bits());
        }
        for edge in [-5.0f32, 0.0, 5.0] {
            assert!((noise.at(edge - 1e-4, 1.0) - noise.at(edge + 1e-4, 1.0)).abs() < 1e-2, "{edge}");
        }
    }
}
