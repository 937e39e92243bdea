//! Placing the layers' curves on the exposure axis by the film's speed.
//!
//! x = 0 is the metered point, H = 10/S lx s. The criteria of the standards ([`super::speed`]) then fix where the
//! curves lie.

use super::curve::CharacteristicCurve;
use super::speed;
use crate::stock::{Stock, StockKind};

/// Scene reflectance that a meter makes mid grey.
pub const MID_GREY: f64 = 0.18;
/// Scene light of the metered point: 10/78, from the saturation speed of ISO 12232.
pub const METERED: f64 = 0.128;

/// log10 exposure of the 18 % grey relative to the metered point.
pub fn grey_log_exposure() -> f64 {
    (MID_GREY / METERED).log10()
}

/// The curves of a stock, unpushed, placed by its speed.
pub fn placed_curves(stock: &Stock) -> Vec<CharacteristicCurve> {
    let reversal = stock.kind.is_reversal();
    let mut curves: Vec<CharacteristicCurve> = stock
        .curves
        .list()
        .into_iter()
        .map(|shape| {
            let unplaced = CharacteristicCurve::new(shape, 0.0, reversal);
            let at = match &stock.plate {
                // by how much of the plate mid grey covers: there is little latitude, the standard's point says nothing
                Some(plate) => {
                    let grey = shape.dmin - (1.0 - plate.grey_cover).log10() / plate.k;
                    grey_log_exposure() - unplaced.exposure(grey)
                }
                None => speed::nominal_point(stock.kind) - speed::layer_point(&unplaced, stock.kind) + shape.shift,
            };
            CharacteristicCurve { x0: at, ..unplaced }
        })
        .collect();
    if stock.plate.is_none() {
        let shifts: Vec<f64> = curves.iter().map(|c| c.shape.shift).collect();
        move_all(&mut curves, -speed::joined(&shifts, stock.kind));
    }
    if matches!(stock.kind, StockKind::Instant | StockKind::BlackAndWhiteInstant | StockKind::ScreenPlate) {
        // of so small a range that the layers' stand-in for the S point is half a stop off
        let off = speed::film_point(&curves, stock.kind) - speed::nominal_point(stock.kind);
        move_all(&mut curves, -off);
    }
    curves
}

fn move_all(curves: &mut [CharacteristicCurve], by: f64) {
    curves.iter_mut().for_each(|c| c.x0 += by);
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::Catalogue;

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
