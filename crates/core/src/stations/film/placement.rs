//! Placing the layers' curves on the exposure axis by the film's speed.
//!
//! x = 0 is the metered point, H = 10/S lx s. The speed criteria of the standards then fix where each curve crosses
//! its criterion density: ISO 6 (black-and-white negative), ISO 5800 (colour negative), ISO 2240 (reversal).

use super::curve::CharacteristicCurve;
use crate::stock::{Stock, StockKind};

/// Scene reflectance that a meter makes mid grey.
pub const MID_GREY: f64 = 0.18;
/// Scene light of the metered point: 10/78, from the saturation speed of ISO 12232.
pub const METERED: f64 = 0.128;

/// log10 exposure of the 18 % grey relative to the metered point.
pub fn grey_log_exposure() -> f64 {
    (MID_GREY / METERED).log10()
}

/// Density above base and fog of the ISO 6 criterion, and its log10 exposure: S = 0.8/Hm.
const ISO_6: (f64, f64) = (0.10, 0.08);
/// Density above base and fog of the ISO 5800 criterion: S = sqrt(2)/Hm.
const ISO_5800_DENSITY: f64 = 0.15;

/// The two criterion densities of ISO 2240 for a reversal layer.
///
/// The standard's second point is at Dmin + 2.00; for films of small range it names the tangent point instead, for
/// which dmin + 85 % of the range stands in here.
fn reversal_criteria(curve: &CharacteristicCurve) -> (f64, f64) {
    let s = &curve.shape;
    (s.dmin + 0.20, (s.dmin + 2.0).min(s.dmin + 0.85 * (s.dmax - s.dmin)))
}

/// The curves of a stock, unpushed, placed by its speed.
pub fn placed_curves(stock: &Stock) -> Vec<CharacteristicCurve> {
    let reversal = stock.kind.is_reversal();
    let unplaced = stock.curves.list().into_iter().map(|s| CharacteristicCurve::new(s, 0.0, reversal));
    let mut curves: Vec<CharacteristicCurve> = unplaced
        .map(|mut curve| {
            if let Some(plate) = &stock.plate {
                // by how much of the plate mid grey covers: there is little latitude, the standard's point says nothing
                let grey = curve.shape.dmin - (1.0 - plate.grey_cover).log10() / plate.k;
                curve.x0 = grey_log_exposure() - curve.exposure(grey);
                return curve;
            }
            curve.x0 = criterion_exposure(stock.kind) - criterion_of(&curve, stock.kind) + curve.shape.shift;
            curve
        })
        .collect();
    let shifts: Vec<f64> = curves.iter().map(|c| c.shape.shift).collect();
    let common = match stock.kind {
        StockKind::BlackAndWhiteNegative | StockKind::ContactPrint | StockKind::Plate => -shifts[0],
        StockKind::ColourNegative => -0.5 * (shifts[1] + shifts.iter().copied().fold(f64::MIN, f64::max)),
        _ => -shifts.iter().sum::<f64>() / shifts.len() as f64,
    };
    curves.iter_mut().for_each(|c| c.x0 += common);
    curves
}

/// log10 exposure at which the criterion has to lie.
fn criterion_exposure(kind: StockKind) -> f64 {
    match kind {
        StockKind::BlackAndWhiteNegative | StockKind::ContactPrint | StockKind::Plate => ISO_6.1.log10(),
        StockKind::ColourNegative => (2.0f64.sqrt() / 10.0).log10(),
        _ => 0.0,
    }
}

/// log10 exposure at which a curve meets its criterion.
fn criterion_of(curve: &CharacteristicCurve, kind: StockKind) -> f64 {
    match kind {
        StockKind::BlackAndWhiteNegative | StockKind::ContactPrint | StockKind::Plate => {
            curve.exposure(curve.shape.dmin + ISO_6.0)
        }
        StockKind::ColourNegative => curve.exposure(curve.shape.dmin + ISO_5800_DENSITY),
        _ => {
            let (t, s) = reversal_criteria(curve);
            0.5 * (curve.exposure(t) + curve.exposure(s))
        }
    }
}

/// Speed found from the curves, as the standard of the kind computes it, relative to the nominal speed.
pub fn measured_relative_speed(curves: &[CharacteristicCurve], kind: StockKind) -> f64 {
    let at: Vec<f64> = curves.iter().map(|c| criterion_of(c, kind)).collect();
    let log_exposure = match kind {
        StockKind::BlackAndWhiteNegative | StockKind::ContactPrint | StockKind::Plate => at[0],
        StockKind::ColourNegative => 0.5 * (at[1] + at.iter().copied().fold(f64::MIN, f64::max)),
        _ => at.iter().sum::<f64>() / at.len() as f64,
    };
    10f64.powf(criterion_exposure(kind) - log_exposure)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::Catalogue;

    /// ISO 6:1993, ISO 5800:1987, ISO 2240:2003 (formulas from memory): a stock's nominal speed comes out of its own
    /// curve within a third of a stop. Ours is placed exactly; the reversal S point is a stand-in for the tangent rule.
    #[test]
    fn nominal_speed_comes_out_of_the_curves() {
        for stock in Catalogue::all().iter().filter(|s| s.kind != StockKind::Plate) {
            let ratio = measured_relative_speed(&placed_curves(stock), stock.kind);
            assert!(ratio.log2().abs() < 0.001, "{}: {ratio}", stock.id);
        }
    }

    /// ISO 6: development for which a log exposure range of 1.30 above the speed point gives a density of 0.80.
    #[test]
    fn standard_development() {
        for stock in
            Catalogue::all().iter().filter(|s| s.kind == StockKind::BlackAndWhiteNegative && s.contrast.is_none())
        {
            let curve = placed_curves(stock)[0];
            let speed_point = curve.exposure(curve.shape.dmin + 0.10);
            let gain = curve.density(speed_point + 1.30) - curve.density(speed_point);
            assert!((gain - 0.80).abs() < 0.005, "{}: {gain}", stock.id);
        }
    }
}
