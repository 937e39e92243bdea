//! The stock as this development uses it: tuned, and in the chosen bath.

use super::curve::CharacteristicCurve;
use super::settings::FilmSettings;
use crate::stations::bath::BathSettings;
use crate::stock::{CurveShape, Stock};

/// The stock with its curves and interlayer effect as tuned, crossed where the bath is.
///
/// What returned is a stock like any other: placement by speed, printing and grain need not know where its numbers came
/// from. Development itself (push, time, fog) is not in it.
pub fn as_developed(stock: &Stock, film: &FilmSettings, bath: &BathSettings) -> Stock {
    let curves = stock.curves.map(|layer, shape| {
        let tuning = film.curves.get(layer).copied().unwrap_or_default();
        let shaped = CurveShape {
            toe: tuning.toe.unwrap_or(shape.toe),
            shoulder: tuning.shoulder.unwrap_or(shape.shoulder),
            ..shape
        };
        tuning.gamma.map_or(shaped, |gamma| CharacteristicCurve::shape_with_slope(shaped, gamma))
    });
    let tuned = Stock { curves, skip_bleach: bath.skip_bleach, ..stock.inhibited(film.interlayer) };
    if bath.crossed { tuned.crossed() } else { tuned }
}
