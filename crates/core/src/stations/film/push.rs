//! Push and pull: rating the film N stops faster and developing it accordingly.
//!
//! Negative: gamma rises with time as gamma_inf (1 - e^(-kt)) (Nutting; Mees), fog and dmax rise, and the true speed
//! gains only a part of N. Reversal: contrast rises a little, dmax falls, and nearly the whole of N is real speed. The
//! developed curves are then placed so that the speed gained, read by the criterion of the standard, is just that
//! share: gamma and fog alone would move the criterion. The constants are model choices.

use super::curve::CharacteristicCurve;
use super::speed;
use crate::stock::{CurveShape, StockKind};

const TIME_PER_STOP: f64 = 1.32;
const COLOUR_KT: f64 = 1.7;
const BLACK_AND_WHITE_KT: f64 = 1.15;
const FOG: f64 = 0.05;
const FOG_PER_STOP: f64 = 1.6;
const DMAX_PER_STOP: f64 = 0.05;
/// Reversal: dmax lost for each stop of push and gained for each of pull, on a film of the full range.
const REVERSAL_DMAX: (f64, f64) = (0.22, 0.06);
/// Density range of a slide; of a shorter one as much less is lost.
const FULL_RANGE: f64 = 3.2;
/// Reversal: change of the greatest slope and of the toe for each stop.
const REVERSAL_SLOPE: f64 = 0.07;
const REVERSAL_TOE: f64 = -0.04;

/// Share of N stops that is real speed.
pub fn speed_share(kind: StockKind, stops: f64) -> f64 {
    match (kind.is_reversal(), stops >= 0.0) {
        (false, true) => 0.35,
        (false, false) => 0.5,
        (true, true) => 0.93,
        (true, false) => 0.95,
    }
}

/// Rating and development: how many stops faster the film is rated, and how many stops of push it gets in the bath.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Development {
    /// By how much it was rated away from its speed.
    pub rated_stops: f64,
    /// Development in stops of push: that of the rating, and the trim of the time.
    pub developed_stops: f64,
}

impl Development {
    /// `time` is the development time relative to the nominal time of the rating.
    pub fn new(rated_stops: f64, time: f64) -> Self {
        Self { rated_stops, developed_stops: rated_stops + time.ln() / TIME_PER_STOP.ln() }
    }

    /// Change of every layer's log10 exposure: less light reaches a film that is rated faster.
    pub fn log_exposure(&self) -> f64 {
        -2f64.log10() * self.rated_stops
    }
}

/// The curves of a film after development pushed by `stops`.
pub fn developed(curves: Vec<CharacteristicCurve>, kind: StockKind, stops: f64) -> Vec<CharacteristicCurve> {
    if stops == 0.0 {
        return curves;
    }
    let shaped: Vec<_> =
        curves.iter().map(|c| CharacteristicCurve { shape: developed_shape(c, kind, stops), ..*c }).collect();
    let gained = speed::film_point(&curves, kind) - speed::film_point(&shaped, kind);
    let missing = 2f64.log10() * stops * speed_share(kind, stops) - gained;
    shaped.into_iter().map(|c| CharacteristicCurve { x0: c.x0 - missing, ..c }).collect()
}

fn developed_shape(curve: &CharacteristicCurve, kind: StockKind, stops: f64) -> CurveShape {
    let s = curve.shape;
    let mut shape = if kind.is_reversal() {
        let per_stop = if stops > 0.0 { REVERSAL_DMAX.0 } else { REVERSAL_DMAX.1 };
        let lost = per_stop * ((s.dmax - s.dmin) / FULL_RANGE).min(1.0) * stops;
        let toe = s.toe * (1.0 + REVERSAL_TOE * stops);
        let slope = curve.greatest_slope() * (1.0 + REVERSAL_SLOPE * stops);
        CharacteristicCurve::shape_with_slope(CurveShape { toe, dmax: s.dmax - lost, ..s }, slope)
    } else {
        let kt = if kind.is_colour() { COLOUR_KT } else { BLACK_AND_WHITE_KT };
        let rise = (1.0 - (-kt * TIME_PER_STOP.powf(stops)).exp()) / (1.0 - (-kt).exp());
        CurveShape {
            gamma: s.gamma * rise,
            dmin: s.dmin + FOG * (FOG_PER_STOP.powf(stops) - 1.0),
            dmax: s.dmax * (1.0 + DMAX_PER_STOP * stops),
            ..s
        }
    };
    shape.gamma *= 1.0 + s.push_skew * stops;
    shape
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stations::film::placement::placed_curves;
    use crate::stock::Catalogue;

    /// Common practice, no source: a push raises contrast and fog of a negative, and costs a slide its blacks while its
    /// contrast rises too. Read on the curves, not on what they are made of.
    #[test]
    fn push_raises_contrast() {
        for stock in Catalogue::all() {
            let placed = placed_curves(stock);
            let [pulled, pushed] = [-2.0, 2.0].map(|n| developed(placed.clone(), stock.kind, n));
            for ((own, pulled), pushed) in placed.iter().zip(&pulled).zip(&pushed) {
                let steeper = pushed.greatest_slope() / own.greatest_slope();
                let softer = pulled.greatest_slope() / own.greatest_slope();
                assert!(steeper > 1.05 && softer < 0.95, "{}: {softer} {steeper}", stock.id);
                if stock.kind.is_reversal() {
                    assert!(pushed.shape.dmax < own.shape.dmax && pulled.shape.dmax > own.shape.dmax, "{}", stock.id);
                } else {
                    assert!(pushed.shape.dmin > own.shape.dmin && own.shape.dmin > pulled.shape.dmin, "{}", stock.id);
                }
            }
        }
    }
}
