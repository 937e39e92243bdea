//! From a unit Gaussian field to density, pointwise.
//!
//! Dout = clamp(D + k0(D) + k1(D) g + k2(D) g^2). The coefficients are solved so that the mean *transmittance* stays
//! exactly that of D (what the physics keeps, and what is additive under averaging), the spread is the lattice's and
//! the skew that of a compound Poisson process. The clamps are part of the solved map.

#[cfg(target_arch = "x86_64")]
mod avx2;
#[cfg(target_arch = "aarch64")]
mod neon;

use std::f64::consts::{LN_10, PI};

/// Knots in density, cubic towards thin densities.
const KNOTS: usize = 72;
/// Highest density of the knots.
const HIGHEST: f64 = 4.0;
/// Entries of the table, uniform in the square root of density.
const ENTRIES: usize = 1024;
const MOST_SKEW: f64 = 0.22;
/// Entries are rounded to this grid.
const GRID: f64 = 4_194_304.0;

/// Coefficients at one density: mean shift, linear and quadratic part.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Coefficients {
    /// Density of the map at g = 0.
    pub centre: f64,
    /// Of the first Hermite polynomial.
    pub linear: f64,
    /// Of the second.
    pub quadratic: f64,
}

/// Nodes of the mean over g: 201, uniform in [-6, 6].
fn gaussian_nodes() -> Vec<(f64, f64)> {
    let raw: Vec<(f64, f64)> = (0..201)
        .map(|i| {
            let g = -6.0 + 0.06 * i as f64;
            (g, (-0.5 * g * g).exp() / (2.0 * PI).sqrt() * 0.06)
        })
        .collect();
    let total: f64 = raw.iter().map(|(_, w)| w).sum();
    raw.into_iter().map(|(g, w)| (g, w / total)).collect()
}

/// Solves one density: relative spread of transmittance `spread`, skew ratio of the grain sizes, clamp at `dmax`.
pub fn solve(density: f64, spread: f64, skew_ratio: f64, dmax: f64, nodes: &[(f64, f64)]) -> Coefficients {
    let mut sigma = spread.powi(2).ln_1p().sqrt() / LN_10;
    let skew = (skew_ratio * sigma / (6.0 * density)).min(MOST_SKEW);
    let normal = (1.0 + 2.0 * skew * skew).sqrt();
    let z: Vec<f64> = nodes.iter().map(|(g, _)| (g + skew * (g * g - 1.0)) / normal).collect();
    let target = 10f64.powf(-density);
    let mut centre = density;
    for _ in 0..60 {
        let (mut mean, mut square) = (0.0, 0.0);
        // without clamping one step makes the mean exact; with it a few do
        for _ in 0..6 {
            (mean, square) = (0.0, 0.0);
            for ((_, w), z) in nodes.iter().zip(&z) {
                let t = (-LN_10 * (centre + sigma * z).clamp(0.0, dmax)).exp();
                mean += w * t;
                square += w * t * t;
            }
            let miss = (mean / target).log10();
            centre += miss;
            if miss.abs() < 1e-10 {
                break;
            }
        }
        let measured = (square / (mean * mean) - 1.0).max(0.0).sqrt();
        if measured <= 0.0 || (measured / spread - 1.0).abs() < 1e-6 {
            break;
        }
        sigma *= (spread / measured).powf(0.7);
    }
    Coefficients { centre: centre - sigma * skew / normal, linear: sigma / normal, quadratic: sigma * skew / normal }
}

/// The map as a table.
#[derive(Debug, Clone)]
pub struct PixelMap {
    /// k0, k1, k2 and padding to 16 bytes.
    entries: Vec<[f32; 4]>,
    dmax: f32,
}

impl PixelMap {
    /// `spread` is the relative standard deviation of a pixel's transmittance at a density, weights included.
    pub fn new(log_radius_sigma: f64, dmax: f64, spread: impl Fn(f64) -> f64) -> Self {
        let nodes = gaussian_nodes();
        let ratio = (4.0 * log_radius_sigma * log_radius_sigma).exp();
        let knots: Vec<(f64, [f64; 3])> = (0..KNOTS)
            .map(|i| {
                let density = HIGHEST * (i as f64 / (KNOTS - 1) as f64).powi(3);
                let t = if i == 0 { 0.0 } else { spread(density) };
                if t <= 0.0 {
                    return (density.sqrt(), [0.0; 3]);
                }
                let c = solve(density, t, ratio, dmax, &nodes);
                (density.sqrt(), [c.centre - density, c.linear, c.quadratic])
            })
            .collect();
        let entries = (0..ENTRIES)
            .map(|i| {
                let at = 2.0 * i as f64 / (ENTRIES - 1) as f64;
                let rounded = |k: usize| ((monotone_cubic(&knots, at, k) * GRID).round() / GRID) as f32;
                [rounded(0), rounded(1), rounded(2), 0.0]
            })
            .collect();
        Self { entries, dmax: dmax as f32 }
    }

    /// Density with grain for a density and the field's value.
    #[inline(always)]
    pub fn apply(&self, density: f32, g: f32) -> f32 {
        let index = (density.max(0.0).sqrt() * ((ENTRIES - 1) as f32 * 0.5) + 0.5) as usize;
        let [k0, k1, k2, _] = self.entries[index.min(ENTRIES - 1)];
        // max before min: what is not a number becomes 0
        (density + k0 + k1 * g + k2 * g * g).max(0.0).min(self.dmax)
    }
}

impl PixelMap {
    /// Adds the field to a plane of densities; the bits are those of [`PixelMap::apply`].
    pub fn add(&self, field: &[f32], density: &mut [f32]) {
        let done = self.add_groups(field, density);
        for (d, g) in density[done..].iter_mut().zip(&field[done..]) {
            *d = self.apply(*d, *g);
        }
    }

    /// As many pixels as go in groups, where the processor has vectors for it.
    fn add_groups(&self, field: &[f32], density: &mut [f32]) -> usize {
        let has_its_entries = self.entries.len() == ENTRIES;
        #[cfg(target_arch = "x86_64")]
        if std::arch::is_x86_feature_detected!("avx2") && has_its_entries {
            // SAFETY: the processor has AVX2, and only the entries are read.
            return unsafe { avx2::add(self, field, density) };
        }
        #[cfg(target_arch = "aarch64")]
        if has_its_entries {
            // SAFETY: only the entries are read.
            return unsafe { neon::add(self, field, density) };
        }
        let _ = (has_its_entries, field, density);
        0
    }
}

/// Monotone cubic interpolation (Fritsch and Carlson 1980, harmonic-mean slopes) of component `k`.
fn monotone_cubic(knots: &[(f64, [f64; 3])], at: f64, k: usize) -> f64 {
    let i = knots.partition_point(|(x, _)| *x <= at).clamp(1, knots.len() - 1) - 1;
    let slope = |j: usize| (knots[j + 1].1[k] - knots[j].1[k]) / (knots[j + 1].0 - knots[j].0);
    let tangent = |j: usize| {
        if j == 0 {
            return slope(0);
        }
        if j == knots.len() - 1 {
            return slope(j - 1);
        }
        let (a, b) = (slope(j - 1), slope(j));
        if a * b <= 0.0 { 0.0 } else { 2.0 * a * b / (a + b) }
    };
    let ((x0, y0), (x1, y1)) = ((knots[i].0, knots[i].1[k]), (knots[i + 1].0, knots[i + 1].1[k]));
    let h = x1 - x0;
    let t = ((at - x0) / h).clamp(0.0, 1.0);
    let (t2, t3) = (t * t, t * t * t);
    (2.0 * t3 - 3.0 * t2 + 1.0) * y0
        + (t3 - 2.0 * t2 + t) * h * tangent(i)
        + (-2.0 * t3 + 3.0 * t2) * y1
        + (t3 - t2) * h * tangent(i + 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Several at a time give the bits of one at a time.
    #[test]
    fn many_at_once_are_one_by_one() {
        let map = PixelMap::new(0.3, 2.6, |d| 0.2 * d.sqrt());
        let density: Vec<f32> = (0..1003).map(|i| if i == 5 { f32::NAN } else { i as f32 * 0.003 - 0.1 }).collect();
        let field: Vec<f32> = (0..1003).map(|i| ((i * 37) % 80) as f32 * 0.1 - 4.0).collect();
        let mut many = density.clone();
        map.add(&field, &mut many);
        for i in 0..1003 {
            assert_eq!(many[i].to_bits(), map.apply(density[i], field[i]).to_bits(), "{i}");
        }
    }

    /// Numbers of the grain model's prototype: (D, spread, ratio) -> centre, linear, quadratic.
    #[test]
    fn coefficients_as_in_the_model() {
        let nodes = gaussian_nodes();
        for (d, t, ratio, expected) in [
            (0.1, 0.05, 1.5, [0.099_355, 0.021_814, 0.001_193]),
            (1.0, 0.15, 1.5, [1.003_815, 0.065_241, 0.001_064]),
            (0.05, 0.1, 2.5, [0.042_078, 0.044_687, 0.009_831]),
        ] {
            let c = solve(d, t, ratio, HIGHEST, &nodes);
            for (a, b) in [c.centre, c.linear, c.quadratic].iter().zip(expected) {
                assert!((a - b).abs() < 2e-5, "{d} {t}: {c:?}");
            }
        }
    }

    #[test]
    fn mean_transmittance_is_kept() {
        let map = PixelMap::new(0.27, 2.8, |d: f64| 0.12 * d.sqrt());
        for d in [0.08f32, 0.4, 1.0, 2.1] {
            let mean: f64 = gaussian_nodes().iter().map(|(g, w)| w * 10f64.powf(-map.apply(d, *g as f32) as f64)).sum();
            assert!((mean * 10f64.powf(d as f64) - 1.0).abs() < 2e-3, "{d}: {mean}");
        }
    }
}
