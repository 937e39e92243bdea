//! Characteristic curves through the steps of a wedge.

use amber_core::stations::film::CharacteristicCurve;
use amber_core::stock::CurveShape;
use amber_core::stock::chart::WedgeStep;

use crate::numeric::{Unknown, least_squares};

/// Steps that a curve needs.
pub const FEWEST_STEPS: usize = 6;
/// A density that is that far off the curve, and that many times further than most, is no density of it.
const OUTLIER: (f64, f64) = (0.06, 5.0);
/// Fog of a film whose base and mask are taken apart.
const FOG: f64 = 0.07;
/// Least density from which on it holds more than fog.
const MASKED: f64 = 0.16;
const ROUNDS: usize = 60;

/// A curve through a layer's steps, over log exposure from mid grey.
#[derive(Debug, Clone)]
pub struct LayerFit {
    /// The curve; where it lies is `x0`.
    pub curve: CharacteristicCurve,
    /// Base and mask under it.
    pub minimum: f64,
    /// Density measured less density of the curve, by step.
    pub residuals: Vec<f64>,
    /// Steps that were left out.
    pub outliers: Vec<usize>,
}

impl LayerFit {
    /// Density with base and mask.
    pub fn density(&self, log_exposure: f64) -> f64 {
        self.minimum + self.curve.density(log_exposure)
    }
}

/// Fits the curve of a layer; `masked` where base and mask may lie under it.
pub fn fit_layer(steps: &[WedgeStep], layer: usize, reversal: bool, masked: bool, like: CurveShape) -> LayerFit {
    let points: Vec<[f64; 2]> = steps.iter().map(|s| [s.log_exposure, s.density[layer]]).collect();
    let mut left_out: Vec<usize> = Vec::new();
    let mut fitted = through(&points, &left_out, reversal, masked, like);
    for _ in 0..2 {
        let off = |fit: &LayerFit| -> Vec<f64> { points.iter().map(|p| p[1] - fit.density(p[0])).collect() };
        let residuals = off(&fitted);
        let mut sizes: Vec<f64> = residuals.iter().map(|r| r.abs()).collect();
        sizes.sort_by(f64::total_cmp);
        let middle = sizes[sizes.len() / 2].max(0.004);
        let is_off = |r: f64| r.abs() > OUTLIER.0 && r.abs() > OUTLIER.1 * middle;
        let found: Vec<usize> = (0..residuals.len()).filter(|i| is_off(residuals[*i])).collect();
        if found == left_out || points.len() - found.len() < FEWEST_STEPS {
            break;
        }
        left_out = found;
        fitted = through(&points, &left_out, reversal, masked, like);
    }
    let residuals = points.iter().map(|p| p[1] - fitted.density(p[0])).collect();
    LayerFit { residuals, outliers: left_out, ..fitted }
}

fn through(points: &[[f64; 2]], left_out: &[usize], reversal: bool, masked: bool, like: CurveShape) -> LayerFit {
    let used: Vec<[f64; 2]> =
        points.iter().enumerate().filter(|(i, _)| !left_out.contains(i)).map(|(_, p)| *p).collect();
    let densities = || used.iter().map(|p| p[1]);
    let least = densities().fold(f64::INFINITY, f64::min);
    let most = densities().fold(f64::NEG_INFINITY, f64::max);
    let minimum = if masked && least > MASKED { least - FOG } else { 0.0 };
    let start_x0 = {
        // where the density is a third up
        let wanted = least + 0.35 * (most - least);
        let nearest = used.iter().min_by(|a, b| (a[1] - wanted).abs().total_cmp(&(b[1] - wanted).abs()));
        let x = nearest.map_or(0.0, |p| p[0]);
        let up = 0.35 * (most - least) / like.gamma;
        if reversal { x + up } else { x - up }
    };
    let unknown = |start: f64, low: f64, high: f64, step: f64| Unknown {
        start: start.max(low).min(high),
        bounds: [low, high],
        step,
    };
    let fog = (least - minimum).max(0.0);
    let unknowns = vec![
        unknown(fog, 0.0, fog + 0.1, 1e-3),
        unknown((most - minimum).max(like.dmax), most - minimum - 0.05, 4.8, 5e-3),
        unknown(like.gamma.ln(), 0.1f64.ln(), 12f64.ln(), 1e-3),
        unknown(like.toe.ln(), 0.03f64.ln(), 1.5f64.ln(), 3e-3),
        unknown(like.shoulder.ln(), 0.03f64.ln(), 1.5f64.ln(), 3e-3),
        unknown(start_x0, -6.0, 6.0, 1e-3),
    ];
    let curve = |at: &[f64]| {
        let shape = CurveShape {
            dmin: at[0],
            dmax: at[1].max(at[0] + 0.25),
            gamma: at[2].exp(),
            toe: at[3].exp(),
            shoulder: at[4].exp(),
            shift: 0.0,
            push_skew: 0.0,
        };
        CharacteristicCurve::new(shape, at[5], reversal)
    };
    let found = least_squares(unknowns, ROUNDS, |at| {
        let curve = curve(at);
        let mut residuals: Vec<f64> = used.iter().map(|p| 100.0 * (curve.density(p[0]) + minimum - p[1])).collect();
        // what the wedge does not reach stays as films commonly are
        residuals.push(0.3 * (at[1] - like.dmax));
        residuals.push(0.2 * (at[3] - like.toe.ln()));
        residuals.push(0.2 * (at[4] - like.shoulder.ln()));
        Some(residuals)
    });
    LayerFit { curve: curve(&found), minimum, residuals: Vec::new(), outliers: Vec::new() }
}
