//! The second-order statistics of the grain model.
//!
//! Discs of log-normal radius, Poisson in the plane, each multiplying transmittance by 1 - kappa, in clusters. With
//! C_D(h) = Cov_T(h)/E[T]^2 = exp(kappa D ln10 G(h)) - 1 and G(h) = g(h) + m (L_(d/2) * N)(h): g is the radius-weighted
//! mean of disc covariograms, the second term the pairs of different grains of a cluster.

use std::f64::consts::{LN_10, PI, SQRT_2};

use crate::numeric::parallel::{for_parts, made_of};
use crate::numeric::quadrature::normal_nodes;

/// How finely the statistics are computed.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Detail {
    /// Knots of the radial tables.
    knots: usize,
    /// Cells of the lattice across a pixel or a grain, whichever is smaller, and the fewest in all.
    cells: f64,
    fewest_cells: usize,
}

const FINE: Detail = Detail { knots: 1200, cells: 16.0, fewest_cells: 64 };
/// For a picture in motion.
const ROUGH: Detail = Detail { knots: 240, cells: 6.0, fewest_cells: 24 };
/// Radius of the aperture of RMS granularity (ISO 10505: 48 um across).
const APERTURE_RADIUS_UM: f64 = 24.0;
/// Least opacity of a grain; the greatest is 1 (opaque silver).
const KAPPA: (f64, f64) = (1e-5, 1.0);

/// What the grain is like, on the film.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct GrainShape {
    /// RMS granularity at D = 1 through a 48 um aperture, times 1000.
    pub granularity: f64,
    /// Mean grain or dye-cloud diameter in um.
    pub diameter_um: f64,
    /// 0 even to 1 mixed and clustered.
    pub roughness: f64,
    /// Optical spread of the grain image in um (standard deviation).
    pub blur_um: f64,
}

impl GrainShape {
    /// Spread of the logarithm of radius.
    pub fn log_radius_sigma(&self) -> f64 {
        0.15 + 0.35 * self.roughness
    }

    /// Expected number of further grains in a grain's cluster.
    fn cluster_size(&self) -> f64 {
        1.5 * self.roughness
    }

    /// Spread of a cluster in um.
    fn cluster_sigma_um(&self) -> f64 {
        0.75 * self.diameter_um
    }
}

/// Covariogram of a disc of radius `radius`, 1 at distance 0.
fn disc_overlap(distance: f64, radius: f64) -> f64 {
    let t = (distance / (2.0 * radius)).min(1.0);
    2.0 / PI * (t.acos() - t * (1.0 - t * t).sqrt())
}

/// e^-x I0(x), Abramowitz and Stegun 9.8.1 and 9.8.2.
fn scaled_bessel_i0(x: f64) -> f64 {
    if x < 3.75 {
        let t = (x / 3.75).powi(2);
        let series = [3.515_622_9, 3.089_942_4, 1.206_749_2, 0.265_973_2, 0.036_076_8, 0.004_581_3];
        let sum = series.iter().enumerate().map(|(k, c)| c * t.powi(k as i32 + 1)).sum::<f64>();
        (-x).exp() * (1.0 + sum)
    } else {
        let t = 3.75 / x;
        let series = [
            0.398_942_28,
            0.013_285_92,
            0.002_253_19,
            -0.001_575_65,
            0.009_162_81,
            -0.020_577_06,
            0.026_355_37,
            -0.016_476_33,
            0.003_923_77,
        ];
        series.iter().enumerate().map(|(k, c)| c * t.powi(k as i32)).sum::<f64>() / x.sqrt()
    }
}

/// An emulsion: the radial function G(h) and the grain opacity that gives the wanted granularity.
#[derive(Debug, Clone)]
pub struct Emulsion {
    /// What it was made of.
    pub shape: GrainShape,
    /// Opacity of a crystal: how much of the light it takes.
    pub kappa: f64,
    /// Multiplies the spread where even opaque grains of this size would be finer than asked for.
    pub gain: f64,
    detail: Detail,
    furthest_um: f64,
    /// Distances furthest (i/KNOTS)^1.5, in um.
    knots_um: Vec<f64>,
    /// G at the knots.
    radial: Vec<f64>,
}

impl Emulsion {
    /// With the crystals' covariance.
    pub fn new(shape: GrainShape) -> Self {
        Self::with_opacity(shape, None)
    }

    /// For a picture in motion: a fifth of the work, its spread within a hundredth.
    pub fn roughly(shape: GrainShape) -> Self {
        Self::in_detail(shape, None, ROUGH)
    }

    /// With a given kappa in place of the one that gives the granularity.
    pub fn with_opacity(shape: GrainShape, kappa: Option<f64>) -> Self {
        Self::in_detail(shape, kappa, FINE)
    }

    fn in_detail(shape: GrainShape, kappa: Option<f64>, detail: Detail) -> Self {
        let sigma = shape.log_radius_sigma();
        let median = 0.5 * shape.diameter_um * (-sigma * sigma).exp();
        let radii: Vec<(f64, f64)> =
            normal_nodes(15).into_iter().map(|(z, w)| (median * (sigma * z).exp(), w)).collect();
        Self::of_radii(shape, &radii, kappa, detail)
    }

    fn of_radii(shape: GrainShape, radii: &[(f64, f64)], kappa: Option<f64>, detail: Detail) -> Self {
        let total: f64 = radii.iter().map(|(r, w)| w * r * r).sum();
        let largest = radii.iter().map(|(r, _)| *r).fold(0.0, f64::max);
        let furthest_um = 2.0 * largest + 5.0 * SQRT_2 * shape.cluster_sigma_um();
        let cluster = shape.cluster_size();
        let clustered = SpreadDisc::clustered(&shape);
        let pair = |h: f64| if cluster > 0.0 { cluster * clustered.overlap(h) } else { 0.0 };
        let knots = detail.knots;
        let knots_um: Vec<f64> = (0..=knots).map(|i| furthest_um * (i as f64 / knots as f64).powf(1.5)).collect();
        let at = |i: usize| {
            let h = knots_um[i];
            let own: f64 = radii.iter().map(|(r, w)| w * r * r / total * disc_overlap(h, *r)).sum();
            own + pair(h)
        };
        let radial = made_of(knots_um.len(), &at);
        let mut emulsion = Self { shape, kappa: 1.0, gain: 1.0, detail, furthest_um, knots_um, radial };
        match kappa {
            Some(kappa) => emulsion.kappa = kappa,
            None => emulsion.solve_opacity(),
        }
        emulsion
    }

    /// Bisection for kappa, on its logarithm.
    fn solve_opacity(&mut self) {
        let wanted = self.shape.granularity;
        let aperture: Vec<f64> = self.knots_um.iter().map(|h| disc_overlap(*h, APERTURE_RADIUS_UM)).collect();
        let opaque = self.granularity_through(&aperture, KAPPA.1);
        if opaque <= wanted {
            self.kappa = KAPPA.1;
            self.gain = wanted / opaque;
            return;
        }
        let (mut low, mut high) = (KAPPA.0.ln(), KAPPA.1.ln());
        for _ in 0..50 {
            let middle = 0.5 * (low + high);
            if self.granularity_through(&aperture, middle.exp()) < wanted { low = middle } else { high = middle }
        }
        self.kappa = (0.5 * (low + high)).exp();
    }

    /// RMS granularity (times 1000) at D = 1 for an opacity, without optical spread; `aperture` is its overlap at the
    /// knots.
    fn granularity_through(&self, aperture: &[f64], kappa: f64) -> f64 {
        let area = PI * APERTURE_RADIUS_UM.powi(2);
        let seen = |i: usize, h: f64, g: f64| ((kappa * LN_10 * g).exp_m1()) * aperture[i] * 2.0 * PI * h;
        (self.integrate(seen) / area).sqrt() * 1000.0 / LN_10
    }

    /// The emulsion whose granularity, *read on the developed film*, is the stated one.
    ///
    /// The opacity is solved without the optical spread; the spread takes a few per cent of what the aperture reads,
    /// which this gives back.
    pub fn reading_as_stated(mut self) -> Self {
        let blur = self.shape.blur_um;
        if blur > 0.0 {
            let spread = SpreadDisc::new(APERTURE_RADIUS_UM, 2.0 * blur * blur);
            let seen = |overlap: &(dyn Fn(f64) -> f64 + Sync)| {
                let overlaps = made_of(self.knots_um.len(), &|i| overlap(self.knots_um[i]));
                self.integrate(|i, h, g| (self.kappa * LN_10 * g).exp_m1() * overlaps[i] * 2.0 * PI * h)
            };
            self.gain *= (seen(&|h| disc_overlap(h, APERTURE_RADIUS_UM)) / seen(&|h| spread.overlap(h))).sqrt();
        }
        self
    }

    /// Trapezoid over the radial knots of f(i, h, G(h)).
    fn integrate(&self, f: impl Fn(usize, f64, f64) -> f64) -> f64 {
        let at = &self.knots_um;
        let mut sum = 0.0;
        let mut last = f(0, 0.0, self.radial[0]);
        for i in 1..at.len() {
            let value = f(i, at[i], self.radial[i]);
            sum += 0.5 * (value + last) * (at[i] - at[i - 1]);
            last = value;
        }
        sum
    }

    /// G at a distance.
    fn radial_at(&self, h: f64) -> f64 {
        if h >= self.furthest_um {
            return 0.0;
        }
        let knots = self.radial.len() - 1;
        let u = (h / self.furthest_um).powf(2.0 / 3.0) * knots as f64;
        let i = (u as usize).min(knots - 1);
        // linear in h, not in the index
        let (near, far) = (self.knots_um[i], self.knots_um[i + 1]);
        let t = (h - near) / (far - near);
        self.radial[i] + (self.radial[i + 1] - self.radial[i]) * t
    }

    /// The statistics of this emulsion seen by pixels of a pitch.
    pub fn on_lattice(&self, pitch_um: f64) -> LatticeCovariance {
        LatticeCovariance::new(self, pitch_um, MOST_LAGS + 1)
    }

    /// The same for [`LatticeCovariance::relative_variance`] alone.
    pub fn of_single_pixels(&self, pitch_um: f64) -> LatticeCovariance {
        LatticeCovariance::new(self, pitch_um, 1)
    }
}

/// The covariogram of a disc convolved with an isotropic Gaussian of a variance per axis, in polar form.
struct SpreadDisc {
    variance: f64,
    step: f64,
    /// Distances within the disc's covariogram, and its values there.
    within: [(f64, f64); SPREAD_STEPS],
}

/// Steps of the integral over a disc's covariogram.
const SPREAD_STEPS: usize = 64;

impl SpreadDisc {
    fn new(radius: f64, variance: f64) -> Self {
        let step = 2.0 * radius / SPREAD_STEPS as f64;
        let within = std::array::from_fn(|i| {
            let s = (i as f64 + 0.5) * step;
            (s, disc_overlap(s, radius))
        });
        Self { variance, step, within }
    }

    /// L_(d/2) * N: of two grains whose places in a cluster are independent.
    fn clustered(shape: &GrainShape) -> Self {
        Self::new(0.5 * shape.diameter_um, 2.0 * shape.cluster_sigma_um().powi(2))
    }

    /// Its value at a distance.
    fn overlap(&self, h: f64) -> f64 {
        let variance = self.variance;
        self.within
            .iter()
            .map(|(s, overlap)| {
                let spread = (-(h - s).powi(2) / (2.0 * variance)).exp() * scaled_bessel_i0(h * s / variance);
                overlap * s / variance * spread * self.step
            })
            .sum()
    }
}

/// Covariance of the transmittance of pixels (boxes, after the optical spread), relative to the squared mean.
#[derive(Debug, Clone)]
pub struct LatticeCovariance {
    /// Distance of the lattice's points.
    pub pitch_um: f64,
    kappa: f64,
    gain: f64,
    /// Midpoint of cell i on each axis carries the folded weights q for lag 0, 1, 2, ...
    weights: Vec<Vec<f64>>,
    /// G on the grid of midpoints, row by row.
    grid: Vec<f64>,
    cells: usize,
    cell_um: f64,
}

/// Most lags that a kernel may need.
pub const MOST_LAGS: usize = 48;

impl LatticeCovariance {
    fn new(emulsion: &Emulsion, pitch_um: f64, most_lags: usize) -> Self {
        let furthest = emulsion.furthest_um;
        let finest = pitch_um.min(emulsion.shape.diameter_um);
        let Detail { cells, fewest_cells, .. } = emulsion.detail;
        let cells = ((cells * furthest / finest) as usize).clamp(fewest_cells, 700);
        let cell_um = furthest / cells as f64;
        let at = |i: usize| (i as f64 + 0.5) * cell_um;
        let spread = SQRT_2 * emulsion.shape.blur_um.max(0.001 * pitch_um);
        let lags = (((furthest + pitch_um + 5.0 * spread) / pitch_um).ceil() as usize + 1).min(most_lags);
        let weights = made_of(lags, &|k| {
            let lag = k as f64 * pitch_um;
            let q = |u: f64| pixel_weight(u, pitch_um, spread);
            (0..cells).map(|i| q(at(i) - lag) + q(at(i) + lag)).collect()
        });
        let mut grid = vec![0.0; cells * cells];
        for_parts(&mut grid, cells, &|i, row| {
            row[i..].iter_mut().enumerate().for_each(|(j, g)| *g = emulsion.radial_at(at(i).hypot(at(i + j))));
        });
        for i in 0..cells {
            for j in i + 1..cells {
                grid[j * cells + i] = grid[i * cells + j];
            }
        }
        Self { pitch_um, kappa: emulsion.kappa, gain: emulsion.gain, weights, grid, cells, cell_um }
    }

    /// Variance of a pixel's transmittance at a density, relative to the squared mean.
    pub fn relative_variance(&self, density: f64) -> f64 {
        let near = &self.weights[0];
        let used = near.iter().rposition(|w| *w > 1e-12).map_or(0, |i| i + 1);
        let scale = self.kappa * density * LN_10;
        let mut sum = 0.0;
        for i in 0..used {
            let row = &self.grid[i * self.cells..][..used];
            let mut line = 0.5 * near[i] * (scale * row[i]).exp_m1();
            for j in i + 1..used {
                line += near[j] * (scale * row[j]).exp_m1();
            }
            sum += 2.0 * near[i] * line;
        }
        sum * self.cell_um * self.cell_um * self.gain * self.gain
    }

    /// Covariance at lags (k, l), k and l from 0, as a square table, at a density; without the gain.
    pub fn relative_covariance(&self, density: f64) -> Vec<Vec<f64>> {
        let n = self.cells;
        let scale = self.kappa * density * LN_10;
        let covariance: Vec<f64> = self.grid.iter().map(|g| (scale * g).exp_m1()).collect();
        let half: Vec<Vec<f64>> = self
            .weights
            .iter()
            .map(|w| {
                let rows = covariance.chunks_exact(n);
                rows.map(|row| row.iter().zip(w).map(|(c, w)| c * w).sum::<f64>()).collect()
            })
            .collect();
        let area = self.cell_um * self.cell_um;
        let between = |a: &Vec<f64>, b: &Vec<f64>| a.iter().zip(b).map(|(x, y)| x * y).sum::<f64>() * area;
        self.weights.iter().map(|w| half.iter().map(|h| between(w, h)).collect()).collect()
    }
}

/// q(u): a triangle (two pixel boxes) convolved with the optical spread of both, normalised to unit integral.
fn pixel_weight(u: f64, pitch: f64, spread: f64) -> f64 {
    let ramp = |u: f64| {
        let z = u / spread;
        let density = (-0.5 * z * z).exp() / (2.0 * PI).sqrt();
        let share = 0.5 * libm::erfc(-z / SQRT_2);
        u * share + spread * density
    };
    (ramp(u + pitch) - 2.0 * ramp(u) + ramp(u - pitch)) / (pitch * pitch)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn shape(granularity: f64, diameter_um: f64) -> GrainShape {
        GrainShape { granularity, diameter_um, roughness: 0.35, blur_um: 2.2 }
    }

    #[test]
    fn roughly_is_within_a_hundredth() {
        for (granularity, diameter) in [(6.0, 3.7), (10.0, 4.5), (40.0, 10.5)] {
            let both = [Emulsion::new, Emulsion::roughly].map(|make| make(shape(granularity, diameter)));
            let spreads = both.map(|emulsion| {
                let lattice = emulsion.reading_as_stated().of_single_pixels(6.0);
                [0.1, 1.0, 2.5].map(|d| lattice.gain * lattice.relative_variance(d).sqrt())
            });
            for (exact, rough) in spreads[0].iter().zip(spreads[1]) {
                println!("{granularity}: {exact} {rough}");
                assert!((rough / exact - 1.0).abs() < 0.01 && rough != *exact, "{granularity}: {exact} {rough}");
            }
        }
    }

    fn granularity_of(emulsion: &Emulsion, kappa: f64) -> f64 {
        let aperture: Vec<f64> = emulsion.knots_um.iter().map(|h| disc_overlap(*h, APERTURE_RADIUS_UM)).collect();
        emulsion.granularity_through(&aperture, kappa)
    }

    fn opaque_discs(radius: f64) -> Emulsion {
        let even = GrainShape { granularity: 0.0, diameter_um: 2.0 * radius, roughness: 0.0, blur_um: 0.0 };
        Emulsion::of_radii(even, &[(radius, 1.0)], Some(1.0), FINE)
    }

    /// The exact Boolean model (Newson, Delon, Galerne 2017) with opaque discs of one radius: analytic granularity,
    /// as the grain model's prototype states it.
    #[test]
    fn opaque_discs_have_the_analytic_granularity() {
        for (radius, expected) in [(0.5, 18.784), (1.15, 42.913)] {
            let measured = granularity_of(&opaque_discs(radius), 1.0);
            assert!((measured / expected - 1.0).abs() < 0.002, "{radius}: {measured}");
        }
    }

    /// The same against discs that are drawn: Poisson in the plane, read through a 48 um aperture at D = 1, within 5 %.
    #[test]
    fn drawn_discs_have_the_granularity_of_the_model() {
        const RADIUS: f64 = 2.0;
        const CELL: f64 = 0.5;
        const TRIALS: usize = 1200;
        // a circle of 24 um on a grid, with a margin for discs that reach in from outside
        let half = APERTURE_RADIUS_UM + RADIUS;
        let side = (2.0 * half / CELL) as usize;
        let at = |i: usize| (i as f64 + 0.5) * CELL - half;
        let mut state = 7u64;
        let mut chance = || {
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (state >> 11) as f64 / (1u64 << 53) as f64
        };
        // the share left open is a tenth: as many discs as that, give or take their chance
        let expected = LN_10 / (PI * RADIUS * RADIUS) * (2.0 * half).powi(2);
        let mut open = Vec::with_capacity(TRIALS);
        for _ in 0..TRIALS {
            let mut covered = vec![false; side * side];
            // Poisson by its definition: exponential waits
            let mut waited = -(1.0 - chance()).ln();
            while waited < expected {
                let (x, y) = ((chance() - 0.5) * 2.0 * half, (chance() - 0.5) * 2.0 * half);
                let reach = |v: f64| {
                    let low = ((v - RADIUS + half) / CELL).floor().max(0.0) as usize;
                    (low, (((v + RADIUS + half) / CELL).ceil() as usize).min(side))
                };
                let ((left, right), (top, bottom)) = (reach(x), reach(y));
                for j in top..bottom {
                    for i in left..right {
                        covered[j * side + i] |= (at(i) - x).hypot(at(j) - y) < RADIUS;
                    }
                }
                waited -= (1.0 - chance()).ln();
            }
            let inside = (0..side * side).filter(|k| at(k % side).hypot(at(k / side)) < APERTURE_RADIUS_UM);
            let (mut seen, mut all) = (0usize, 0usize);
            inside.for_each(|k| {
                all += 1;
                seen += usize::from(!covered[k]);
            });
            open.push(seen as f64 / all as f64);
        }
        let mean = open.iter().sum::<f64>() / TRIALS as f64;
        let spread = (open.iter().map(|t| (t - mean).powi(2)).sum::<f64>() / TRIALS as f64).sqrt();
        let drawn = 1000.0 * spread / (mean * LN_10);
        let model = granularity_of(&opaque_discs(RADIUS), 1.0);
        println!("drawn {drawn:.2}, model {model:.2}, open {mean:.4}");
        assert!((mean - 0.1).abs() < 0.004 && (drawn / model - 1.0).abs() < 0.05, "{drawn:.2} {model:.2}");
    }

    /// F(x) = integral of (exp(x L_1(h)) - 1) 2 pi h dh over a disc of radius 1 (analytic, from the prototype).
    #[test]
    fn integral_of_the_covariogram() {
        let discs = opaque_discs(1.0);
        for (x, expected) in [(0.1, 0.321_52), (1.0, 4.0289), (LN_10, 13.6812)] {
            let measured = discs.integrate(|_, h, g| (x * g).exp_m1() * 2.0 * PI * h);
            assert!((measured / expected - 1.0).abs() < 0.001, "{x}: {measured}");
        }
    }

    /// Granularity, diameter, kappa, pitch, spread at four densities, correlation at lags (1,0) and (1,1).
    type Row = (f64, f64, f64, f64, [f64; 4], f64, f64);

    /// Spread and correlation on the lattice against the prototype's table, within 1 %.
    #[test]
    fn lattice_statistics_as_tabulated() {
        let table: [Row; 6] = [
            (6.0, 3.7, 0.00808, 6.0, [0.0166, 0.0371, 0.0526, 0.0745], 0.425, 0.187),
            (10.0, 4.5, 0.01541, 3.0, [0.0300, 0.0673, 0.0954, 0.1355], 0.768, 0.592),
            (10.0, 4.5, 0.01541, 12.0, [0.0193, 0.0433, 0.0614, 0.0871], 0.196, 0.042),
            (25.0, 7.5, 0.03693, 6.0, [0.0570, 0.1280, 0.1820, 0.2605], 0.553, 0.317),
            (40.0, 10.5, 0.05169, 6.0, [0.0789, 0.1779, 0.2539, 0.3660], 0.643, 0.423),
            (50.0, 12.5, 0.05983, 6.0, [0.0905, 0.2044, 0.2924, 0.4234], 0.692, 0.489),
        ];
        for (granularity, diameter, kappa, pitch, spread, rho10, rho11) in table {
            let emulsion = Emulsion::new(shape(granularity, diameter));
            assert!((emulsion.kappa / kappa - 1.0).abs() < 0.01, "G {granularity}: {}", emulsion.kappa);
            let lattice = emulsion.on_lattice(pitch);
            for (density, expected) in [0.1, 0.5, 1.0, 2.0].into_iter().zip(spread) {
                let measured = lattice.relative_variance(density).sqrt();
                assert!((measured / expected - 1.0).abs() < 0.01, "G {granularity} D {density}: {measured}");
            }
            let r = lattice.relative_covariance(0.7);
            let rho = |k: usize, l: usize| r[k][l] / r[0][0];
            assert!((rho(1, 0) - rho10).abs() < 0.002, "G {granularity}: {}", rho(1, 0));
            assert!((rho(1, 1) - rho11).abs() < 0.002, "G {granularity}: {}", rho(1, 1));
        }
    }
}
