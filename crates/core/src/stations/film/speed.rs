//! Where a film's speed is read: the criteria of the standards, on developed curves.
//!
//! ISO 6 (black-and-white negative), ISO 5800 (colour negative), ISO 2240 (reversal); their formulas from memory.

use super::curve::CharacteristicCurve;
use crate::colour::space::SRGB_LUMINANCE;
use crate::stock::StockKind;

/// Density above base and fog of the ISO 6 criterion.
const ISO_6_DENSITY: f64 = 0.10;
/// Density above base and fog of the ISO 5800 criterion.
const ISO_5800_DENSITY: f64 = 0.15;
/// Densities above the least one of the two criteria of ISO 2240.
const ISO_2240_DENSITIES: (f64, f64) = (0.20, 2.00);
/// How far from the first point the line to the shoulder is looked for, and in what steps (log10 exposure).
const TANGENT: (f64, f64) = (8.0, 0.01);

/// log10 exposure, relative to the metered point, at which the criterion lies when a film has its nominal speed S: the
/// metered point is 10/S lx s, ISO 6 has S = 0.8/Hm, ISO 5800 sqrt(2)/Hm, ISO 2240 10/Hm.
pub fn nominal_point(kind: StockKind) -> f64 {
    match kind {
        StockKind::BlackAndWhiteNegative | StockKind::ContactPrint | StockKind::Plate => 0.08f64.log10(),
        StockKind::ColourNegative => (2.0f64.sqrt() / 10.0).log10(),
        _ => 0.0,
    }
}

/// log10 exposure at which one layer meets its criterion.
///
/// For reversal films it says how the layers lie to one another. The standard's second point is at Dmin + 2.00; for
/// films of small range it names the tangent point instead, for which dmin + 85 % of the range stands in here.
pub fn layer_point(curve: &CharacteristicCurve, kind: StockKind) -> f64 {
    let s = &curve.shape;
    match kind {
        StockKind::BlackAndWhiteNegative | StockKind::ContactPrint | StockKind::Plate => {
            curve.exposure(s.dmin + ISO_6_DENSITY)
        }
        StockKind::ColourNegative => curve.exposure(s.dmin + ISO_5800_DENSITY),
        _ => {
            let (first, second) = ISO_2240_DENSITIES;
            let second = (s.dmin + second).min(s.dmin + 0.85 * (s.dmax - s.dmin));
            0.5 * (curve.exposure(s.dmin + first) + curve.exposure(second))
        }
    }
}

/// What the layers' points are as a whole: the mean of the green-sensitive and the slowest layer of a colour negative,
/// the mean of all in a reversal film.
pub fn joined(points: &[f64], kind: StockKind) -> f64 {
    match kind {
        StockKind::BlackAndWhiteNegative | StockKind::ContactPrint | StockKind::Plate => points[0],
        StockKind::ColourNegative => 0.5 * (points[1] + points.iter().copied().fold(f64::MIN, f64::max)),
        _ => points.iter().sum::<f64>() / points.len() as f64,
    }
}

/// log10 exposure at which the film as a whole meets the criterion of its standard.
pub fn film_point(curves: &[CharacteristicCurve], kind: StockKind) -> f64 {
    if kind.is_reversal() {
        return visual_point(curves);
    }
    let points: Vec<f64> = curves.iter().map(|c| layer_point(c, kind)).collect();
    joined(&points, kind)
}

/// Density to the eye of the layers together, as ISO 2240 reads it.
fn visual_density(curves: &[CharacteristicCurve], x: f64) -> f64 {
    match curves {
        [single] => single.density(x),
        layers => {
            let light: f64 =
                layers.iter().zip(SRGB_LUMINANCE).map(|(curve, weight)| weight * 10f64.powf(-curve.density(x))).sum();
            -light.log10()
        }
    }
}

/// ISO 2240: the mean of T, at 0.20 above the least density, and S, at 2.00 above it or where the line from T touches
/// the shoulder before that.
fn visual_point(curves: &[CharacteristicCurve]) -> f64 {
    let density = |x: f64| visual_density(curves, x);
    let middle = curves.iter().map(|c| c.x0).sum::<f64>() / curves.len() as f64;
    let (span, step) = TANGENT;
    let [least, most] = [density(middle + span), density(middle - span)];
    // density falls with exposure
    let at = |wanted: f64| {
        let (mut low, mut high) = (middle - span, middle + span);
        for _ in 0..60 {
            let x = 0.5 * (low + high);
            if density(x) > wanted { low = x } else { high = x }
        }
        0.5 * (low + high)
    };
    let (first, second) = ISO_2240_DENSITIES;
    let t = at(least + first);
    let slope = |x: f64| (density(x) - least - first) / (t - x);
    let steepest = (2..(span / step) as usize)
        .map(|i| t - step * i as f64)
        .max_by(|a, b| slope(*a).total_cmp(&slope(*b)))
        .map_or(t, |x| peak(&slope, x - step, x + step));
    let s = if most > least + second { at(least + second).max(steepest) } else { steepest };
    0.5 * (t + s)
}

/// Where a function with one maximum between `low` and `high` has it.
fn peak(f: &dyn Fn(f64) -> f64, mut low: f64, mut high: f64) -> f64 {
    for _ in 0..40 {
        let third = (high - low) / 3.0;
        if f(low + third) < f(high - third) { low += third } else { high -= third }
    }
    0.5 * (low + high)
}
