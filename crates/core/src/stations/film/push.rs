//! Push and pull: rating the film N stops faster and developing it accordingly.
//!
//! Negative: gamma rises with time as gamma_inf (1 - e^(-kt)) (Nutting; Mees), fog and dmax rise, and the true speed
//! gains only a part of N. Reversal: gamma rises a little, dmax falls, and nearly the whole of N is real speed. The
//! constants are model choices.

use super::curve::CharacteristicCurve;
use crate::stock::{CurveShape, StockKind};

const TIME_PER_STOP: f64 = 1.32;
const COLOUR_KT: f64 = 1.7;
const BLACK_AND_WHITE_KT: f64 = 1.15;
const FOG: f64 = 0.05;
const FOG_PER_STOP: f64 = 1.6;
const DMAX_PER_STOP: f64 = 0.05;

/// Share of N stops that is real speed.
fn speed_share(kind: StockKind, stops: f64) -> f64 {
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
    pub rated_stops: f64,
    /// Development in stops of push: that of the rating, and the trim of the time.
    pub developed_stops: f64,
}

impl Development {
    /// `time` is the development time relative to the nominal time of the rating.
    pub fn new(rated_stops: f64, time: f64) -> Self {
        Self { rated_stops, developed_stops: rated_stops + time.ln() / TIME_PER_STOP.ln() }
    }
}

/// Change of every layer's log10 exposure: less light reaches a film that is rated faster, as far as development does
/// not make up for it.
pub fn exposure_shift(kind: StockKind, development: Development) -> f64 {
    let stops = development.developed_stops;
    2f64.log10() * (stops * speed_share(kind, stops) - development.rated_stops)
}

/// The curve after development pushed by `stops`; its place on the exposure axis stays.
pub fn developed(curve: CharacteristicCurve, kind: StockKind, stops: f64) -> CharacteristicCurve {
    let s = curve.shape;
    let mut shape = if kind.is_reversal() {
        let dmax = if stops > 0.0 { s.dmax - 0.22 * stops } else { s.dmax - 0.06 * stops };
        CurveShape { gamma: s.gamma * (1.0 + 0.07 * stops), toe: s.toe * (1.0 - 0.04 * stops), dmax, ..s }
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
    CharacteristicCurve { shape, ..curve }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stations::film::placement::placed_curves;
    use crate::stock::Catalogue;

    /// Common practice, no source: a push raises contrast and fog of a negative and costs a slide its blacks.
    #[test]
    fn push_raises_contrast() {
        for stock in Catalogue::all() {
            for curve in placed_curves(stock) {
                let [pulled, own, pushed] = [-2.0, 0.0, 2.0].map(|n| developed(curve, stock.kind, n));
                if stock.kind.is_reversal() {
                    assert!(pushed.shape.dmax < own.shape.dmax && pushed.shape.gamma > own.shape.gamma);
                } else {
                    assert!(pulled.greatest_slope() < own.greatest_slope(), "{}", stock.id);
                    assert!(own.greatest_slope() < pushed.greatest_slope(), "{}", stock.id);
                    assert!(pushed.shape.dmin > own.shape.dmin && own.shape.dmin > pulled.shape.dmin);
                }
                assert_eq!(own, curve);
            }
        }
    }
}
