//! Smooth noise addressed by the place on the film.
//!
//! Hashed Gaussians on a lattice, mixed with quintic weights and divided by the root of the weights' squares, so that
//! the variance is 1 everywhere. Positions are micrometres from the full frame's corner: a tile is a crop of the whole.

use multiversion::multiversion;

use super::NoiseLayer;
use super::hashed_noise::RowKey;
use super::runs::RUN;

/// One field of noise: a seed, a layer and the size of its lattice in um.
#[derive(Debug, Clone, Copy)]
pub struct ValueNoise {
    /// Seed of the frame and the effect.
    pub seed: u64,
    /// The layer that no other effect uses.
    pub layer: NoiseLayer,
    /// Lattice pitch along x and y.
    pub pitch_um: [f64; 2],
}

/// Lattice cell and place within it.
#[inline(always)]
fn cell(at: f64) -> (i32, f32) {
    let whole = at.floor();
    (whole as i32, (at - whole) as f32)
}

#[inline(always)]
fn quintic(t: f32) -> f32 {
    t * t * t * (t * (t * 6.0 - 15.0) + 10.0)
}

impl ValueNoise {
    /// Noise on a square lattice.
    pub fn new(seed: u64, layer: NoiseLayer, pitch_um: f64) -> Self {
        Self { seed, layer, pitch_um: [pitch_um; 2] }
    }

    /// Adds `weight` times the noise to one row of pixels: `x_um` of the first pixel's centre, `step_um` between them.
    pub fn add_row(&self, weight: f32, x_um: f64, y_um: f64, step_um: f64, row: &mut [f32]) {
        let (j, fy) = cell(y_um / self.pitch_um[1]);
        let wy = [1.0 - quintic(fy), quintic(fy)];
        let keys = [RowKey::new(self.seed, self.layer, j), RowKey::new(self.seed, self.layer, j.wrapping_add(1))];
        let normal_y = wy[0] * wy[0] + wy[1] * wy[1];
        // the lattice values of the column left and right of the pixel, already mixed along y
        let column = |i: i32| wy[0] * keys[0].gaussian(i) + wy[1] * keys[1].gaussian(i);
        let mut known: Option<(f64, [f32; 2])> = None;
        let (mut cells, mut shares, mut corners) = ([0.0f64; RUN], [0.0f32; RUN], [[0.0f32; RUN]; 2]);
        for (run, out) in row.chunks_mut(RUN).enumerate() {
            let count = out.len();
            places(x_um, step_um, self.pitch_um[0], run * RUN, &mut cells[..count], &mut shares[..count]);
            for (k, at) in cells[..count].iter().enumerate() {
                let [left, right] = match known {
                    Some((cell, corners)) if cell == *at => corners,
                    _ => [column(*at as i32), column((*at as i32).wrapping_add(1))],
                };
                known = Some((*at, [left, right]));
                (corners[0][k], corners[1][k]) = (left, right);
            }
            mix(weight, normal_y, &shares[..count], [&corners[0], &corners[1]], out);
        }
    }

    /// The noise at one place.
    pub fn at(&self, x_um: f64, y_um: f64) -> f32 {
        let mut out = [0.0];
        self.add_row(1.0, x_um, y_um, 0.0, &mut out);
        out[0]
    }
}

/// The cells of pixels of a row from its `first`, and where in them they lie.
#[multiversion(targets("x86_64+avx2"))]
fn places(x_um: f64, step_um: f64, pitch_um: f64, first: usize, cells: &mut [f64], shares: &mut [f32]) {
    for (k, (cell, share)) in cells.iter_mut().zip(shares).enumerate() {
        let at = (x_um + step_um * f64::from((first + k) as i32)) / pitch_um;
        *cell = at.floor();
        *share = (at - *cell) as f32;
    }
}

/// Adds what lies between the corners.
#[multiversion(targets("x86_64+avx2"))]
fn mix(weight: f32, normal_y: f32, shares: &[f32], [left, right]: [&[f32]; 2], out: &mut [f32]) {
    for (((o, fx), l), r) in out.iter_mut().zip(shares).zip(left).zip(right) {
        let wx = [1.0 - quintic(*fx), quintic(*fx)];
        let normal = ((wx[0] * wx[0] + wx[1] * wx[1]) * normal_y).sqrt();
        *o += weight * (wx[0] * l + wx[1] * r) / normal;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn unit_variance_everywhere() {
        let noise = ValueNoise::new(3, NoiseLayer::Sun, 10.0);
        for offset in [0.0, 2.5, 5.0, 9.9] {
            let n = 40_000;
            let square: f64 = (0..n)
                .map(|k| noise.at(offset + 20.0 * (k % 200) as f64, offset + 20.0 * (k / 200) as f64).powi(2) as f64)
                .sum::<f64>()
                / n as f64;
            assert!((square - 1.0).abs() < 0.03, "{offset}: {square}");
        }
    }

    #[test]
    fn a_row_is_its_points() {
        let noise = ValueNoise { seed: 9, layer: NoiseLayer::Sun, pitch_um: [13.0, 70.0] };
        let mut row = [0.0; 40];
        noise.add_row(1.0, -30.0, 11.0, 1.7, &mut row);
        for (k, v) in row.iter().enumerate() {
            assert_eq!(*v, noise.at(-30.0 + 1.7 * k as f64, 11.0));
        }
    }
}
