//! The filter that gives white noise the correlation of grain.
//!
//! The zero-phase square root of the field's spectrum, cut to a small radius with its energy and its sum restored
//! (without that, granularity reads 2-3 % low), then split into its two strongest separable parts.

use std::f64::consts::PI;

use super::covariance::LatticeCovariance;

/// Density at which the correlation is taken.
const REFERENCE_DENSITY: f64 = 0.7;
const TRANSFORM: usize = 128;
/// Widest filter. A pitch under a twelfth of the grain's diameter would need more; its texture is then cut off.
pub const WIDEST: usize = 24;
const MOST_ENERGY_LOST: f64 = 5e-4;
const MOST_SUM_LOST: f64 = 0.03;
/// Taps are rounded to this grid, so that the last bits of a platform's library functions vanish.
const GRID: f64 = 4_194_304.0;

/// A symmetric filter of rank 2: the sum of sign x (taps by taps).
#[derive(Debug, Clone, PartialEq)]
pub struct GrainKernel {
    /// Taps from the centre outwards, one list per rank, of equal length.
    pub taps: [Vec<f32>; 2],
    /// Signs of the two ranks.
    pub signs: [f32; 2],
}

impl GrainKernel {
    /// Points to each side.
    pub fn radius(&self) -> usize {
        self.taps[0].len() - 1
    }

    /// The filter of a lattice's covariance.
    pub fn new(lattice: &LatticeCovariance) -> Self {
        let r = lattice.relative_covariance(REFERENCE_DENSITY);
        let own = r[0][0].ln_1p();
        let rho: Vec<Vec<f64>> = r.iter().map(|row| row.iter().map(|v| v.ln_1p() / own).collect()).collect();
        let full = square_root(&rho);
        separate(&truncate(&full))
    }
}

/// Sum over the symmetric lattice of a quarter table's function of (value).
fn whole_sum(quarter: &[Vec<f64>], f: impl Fn(f64) -> f64) -> f64 {
    let times = |i: usize| if i == 0 { 1.0 } else { 2.0 };
    let rows = quarter.iter().enumerate();
    rows.map(|(i, row)| row.iter().enumerate().map(|(j, v)| times(i) * times(j) * f(*v)).sum::<f64>()).sum()
}

/// The quarter (i, j >= 0) of the zero-phase kernel whose autocorrelation is `rho`.
fn square_root(rho: &[Vec<f64>]) -> Vec<Vec<f64>> {
    let half = TRANSFORM / 2;
    let cosine: Vec<f64> = (0..TRANSFORM).map(|k| (2.0 * PI * k as f64 / TRANSFORM as f64).cos()).collect();
    let wave = |u: usize, k: usize| cosine[u * k % TRANSFORM];
    let twice = |k: usize, edge: usize| if k == 0 || k == edge { 1.0 } else { 2.0 };
    let lags = rho.len();
    // both transforms are of even functions, so cosines suffice, one axis at a time
    let rows: Vec<Vec<f64>> = (0..lags)
        .map(|k| (0..=half).map(|v| (0..lags).map(|l| twice(l, half) * rho[k][l] * wave(v, l)).sum()).collect())
        .collect();
    let amplitude: Vec<Vec<f64>> = (0..=half)
        .map(|u| {
            let power = |v: usize| (0..lags).map(|k| twice(k, half) * rows[k][v] * wave(u, k)).sum::<f64>();
            (0..=half).map(|v| power(v).max(0.0).sqrt()).collect()
        })
        .collect();
    let size = 2 * WIDEST + 1;
    let partial: Vec<Vec<f64>> = (0..=half)
        .map(|u| (0..size).map(|j| (0..=half).map(|v| twice(v, half) * amplitude[u][v] * wave(v, j)).sum()).collect())
        .collect();
    let scale = 1.0 / (TRANSFORM * TRANSFORM) as f64;
    let back =
        |i: usize, j: usize| (0..=half).map(|u| twice(u, half) * partial[u][j] * wave(u, i)).sum::<f64>() * scale;
    (0..size).map(|i| (0..size).map(|j| back(i, j)).collect()).collect()
}

/// The smallest quarter that keeps nearly all, its energy made 1 and its sum restored.
fn truncate(full: &[Vec<f64>]) -> Vec<Vec<f64>> {
    let (energy, sum) = (whole_sum(full, |v| v * v), whole_sum(full, |v| v));
    let cut = |radius: usize| -> Vec<Vec<f64>> {
        full[..=radius].iter().map(|row| row[..=radius].iter().map(|v| v / energy.sqrt()).collect()).collect()
    };
    let wanted_sum = sum / energy.sqrt();
    let enough = |radius: &usize| {
        let part = cut(*radius);
        1.0 - whole_sum(&part, |v| v * v) < MOST_ENERGY_LOST
            && (1.0 - whole_sum(&part, |v| v) / wanted_sum).abs() < MOST_SUM_LOST
    };
    let radius = (1..WIDEST).find(enough).unwrap_or(WIDEST);
    let part = cut(radius);
    let window = |i: usize| (PI * i as f64 / (2.0 * (radius + 1) as f64)).cos().powi(2);
    let windows: Vec<Vec<f64>> = (0..=radius).map(|i| (0..=radius).map(|j| window(i) * window(j)).collect()).collect();
    let cross: Vec<Vec<f64>> =
        part.iter().zip(&windows).map(|(a, b)| a.iter().zip(b).map(|(x, y)| x * y).collect()).collect();
    // a part + b window with the wanted sum and energy 1: b from the sum, a from a quadratic, the root near 1
    let (s, w) = (whole_sum(&part, |v| v), whole_sum(&windows, |v| v));
    let (kk, kw, ww) = (whole_sum(&part, |v| v * v), whole_sum(&cross, |v| v), whole_sum(&windows, |v| v * v));
    let (b0, b1) = (wanted_sum / w, -s / w);
    let (qa, qb, qc) = (kk + 2.0 * b1 * kw + b1 * b1 * ww, 2.0 * b0 * kw + 2.0 * b0 * b1 * ww, b0 * b0 * ww - 1.0);
    let root = (qb * qb - 4.0 * qa * qc).max(0.0).sqrt();
    let roots = [(-qb + root) / (2.0 * qa), (-qb - root) / (2.0 * qa)];
    let a = if (roots[0] - 1.0).abs() < (roots[1] - 1.0).abs() { roots[0] } else { roots[1] };
    let (a, b) = if a.is_finite() && (a - 1.0).abs() < 0.5 { (a, b0 + b1 * a) } else { (1.0 / kk.sqrt(), 0.0) };
    let mixed = |i: usize, j: usize| a * part[i][j] + b * windows[i][j];
    (0..=radius).map(|i| (0..=radius).map(|j| mixed(i, j)).collect()).collect()
}

/// The two strongest separable parts of a symmetric kernel, energy 1.
fn separate(quarter: &[Vec<f64>]) -> GrainKernel {
    let radius = quarter.len() - 1;
    let size = 2 * radius + 1;
    let from_centre = |i: usize| i.abs_diff(radius);
    let matrix: Vec<Vec<f64>> =
        (0..size).map(|i| (0..size).map(|j| quarter[from_centre(i)][from_centre(j)]).collect()).collect();
    let mut pairs = symmetric_eigen(matrix);
    pairs.sort_by(|a, b| b.0.abs().total_cmp(&a.0.abs()));
    pairs.truncate(2);
    pairs.resize(2, (0.0, vec![0.0; size]));
    let energy: f64 = pairs.iter().map(|(value, _)| value * value).sum();
    let rounded = |v: f64| ((v * GRID).round() / GRID) as f32;
    let taps = |(value, vector): &(f64, Vec<f64>)| -> Vec<f32> {
        // the direction of an eigenvector is arbitrary: the centre is made positive
        let way = if vector[radius] < 0.0 { -1.0 } else { 1.0 };
        let strength = way * (value.abs() / energy.sqrt()).sqrt();
        (0..=radius).map(|j| rounded(strength * 0.5 * (vector[radius + j] + vector[radius - j]))).collect()
    };
    GrainKernel { taps: [taps(&pairs[0]), taps(&pairs[1])], signs: [0, 1].map(|q| pairs[q].0.signum() as f32) }
}

/// Eigenvalues and eigenvectors of a symmetric matrix by Jacobi rotations.
fn symmetric_eigen(mut m: Vec<Vec<f64>>) -> Vec<(f64, Vec<f64>)> {
    let n = m.len();
    let mut vectors: Vec<Vec<f64>> = (0..n).map(|i| (0..n).map(|j| f64::from(i == j)).collect()).collect();
    for _ in 0..60 {
        let off: f64 = (0..n).flat_map(|i| (0..i).map(move |j| (i, j))).map(|(i, j)| m[i][j] * m[i][j]).sum();
        if off < 1e-26 {
            break;
        }
        for p in 0..n {
            for q in p + 1..n {
                if m[p][q].abs() < 1e-300 {
                    continue;
                }
                let theta = (m[q][q] - m[p][p]) / (2.0 * m[p][q]);
                let t = theta.signum() / (theta.abs() + (theta * theta + 1.0).sqrt());
                let c = 1.0 / (t * t + 1.0).sqrt();
                let s = t * c;
                for row in m.iter_mut() {
                    let (a, b) = (row[p], row[q]);
                    row[p] = c * a - s * b;
                    row[q] = s * a + c * b;
                }
                for k in 0..n {
                    let (a, b) = (m[p][k], m[q][k]);
                    m[p][k] = c * a - s * b;
                    m[q][k] = s * a + c * b;
                }
                for row in vectors.iter_mut() {
                    let (a, b) = (row[p], row[q]);
                    row[p] = c * a - s * b;
                    row[q] = s * a + c * b;
                }
            }
        }
    }
    (0..n).map(|i| (m[i][i], vectors.iter().map(|row| row[i]).collect())).collect()
}

#[cfg(test)]
mod tests {
    use super::super::covariance::{Emulsion, GrainShape};
    use super::*;

    fn kernel(granularity: f64, diameter_um: f64, pitch_um: f64) -> GrainKernel {
        let shape = GrainShape { granularity, diameter_um, roughness: 0.35, blur_um: 2.2 };
        GrainKernel::new(&Emulsion::new(shape).on_lattice(pitch_um))
    }

    /// The example of the grain model's prototype: G 20, d 6.5, rough 0.35, blur 2.2, pitch 6.
    #[test]
    fn taps_as_in_the_model() {
        let k = kernel(20.0, 6.5, 6.0);
        let expected = [[0.91319, 0.28787, 0.00740], [0.05149, -0.08027, -0.05448]];
        assert_eq!(k.radius(), 2);
        for (taps, wanted) in k.taps.iter().zip(expected) {
            for (a, b) in taps.iter().zip(wanted) {
                assert!((a - b).abs() < 2e-3, "{:?}", k.taps);
            }
        }
        assert_eq!(k.signs, [1.0, 1.0]);
    }

    #[test]
    fn energy_is_one_and_radius_grows_as_the_pitch_falls() {
        let mut last = 0;
        for pitch in [20.0, 6.0, 3.0, 2.0] {
            let k = kernel(40.0, 10.5, pitch);
            let energy: f64 = (0..2)
                .map(|q| {
                    let t = &k.taps[q];
                    let e: f64 =
                        t.iter().enumerate().map(|(i, v)| if i == 0 { 1.0 } else { 2.0 } * (v * v) as f64).sum();
                    e * e
                })
                .sum();
            assert!((energy - 1.0).abs() < 1e-4, "{pitch}: {energy}");
            assert!(k.radius() >= last);
            last = k.radius();
        }
        assert!(last <= 12);
    }
}
