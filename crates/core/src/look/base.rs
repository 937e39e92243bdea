//! A table as the base of a stock: a film that records light as it is, scanned, with the look on the scan. Its grain,
//! halation, curves and years are those of any film.

use std::collections::BTreeMap;

use crate::colour::look::Look;
use crate::error::CoreError;
use crate::own_stock::StockName;
use crate::stock::{Catalogue, CurveShape, LayerCurves, Stock};
use crate::value::Value;

/// Colours of each channel that a stock keeps at most.
const MOST: u32 = 33;
/// A long straight line: what the toe and the shoulder bend lies outside what a picture holds.
const STRAIGHT: CurveShape =
    CurveShape { dmin: 0.1, gamma: 0.6, toe: 0.05, shoulder: 0.05, dmax: 3.2, shift: 0.0, push_skew: 0.0 };
/// The view of the print station in which the look acts.
const VIEW: (&str, &str) = ("print.view", "scan");

impl Stock {
    /// A stock of one's own with a look as its colours.
    pub fn of_look(look: &Look, called: &StockName) -> Result<Self, CoreError> {
        let base = Catalogue::first().as_ref().clone();
        let mut halation = base.halation.clone();
        halation.strength.iter_mut().for_each(|v| *v *= 0.5);
        let straight = Stock {
            curves: LayerCurves::Colour { red: STRAIGHT, green: STRAIGHT, blue: STRAIGHT },
            inhibition: None,
            inhibition_high: None,
            mask: 0.0,
            cref: [0.0; 3],
            cc: [0.0; 3],
            dens: 0.0,
            // up the straight line: five stops under mid grey the toe would be seen
            ev: 3.0,
            halation,
            look: Some(look.at_most(MOST)),
            own: BTreeMap::from([(VIEW.0.into(), Value::Choice(VIEW.1.into()))]),
            ..base
        };
        straight.renamed(&called.id(), called)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::development::Development;
    use crate::frame::Frame;
    use crate::picture::Source;

    fn called() -> StockName {
        StockName { name: "Borrowed".into(), family: "mine".into(), notes: String::new() }
    }

    fn look(colour: impl Fn([f32; 3]) -> [f32; 3]) -> Look {
        let level = |i: u32| i as f32 / 32.0;
        let all = (0..33u32.pow(3)).map(|i| colour([i % 33, i / 33 % 33, i / 33 / 33].map(level))).collect();
        Look::of_colours(33, all).unwrap()
    }

    fn shown(stock: &Stock, source: &Source) -> Vec<u8> {
        let mut development = Development::new(stock);
        for lamp in ["film.grain", "film.halation"] {
            development.switch(lamp, false).unwrap();
        }
        Frame::new(source.clone()).unwrap().render(stock, &development).unwrap().display_8_bit().unwrap()
    }

    /// With a look that changes nothing the stock gives the original; with another it gives what the table says.
    #[test]
    fn a_stock_of_a_look_shows_the_look() {
        let ramp = Source::from_linear_srgb(96, 64, |x, y| {
            let [u, v] = [f64::from(x) / 95.0, f64::from(y) / 63.0];
            // the loudest colours of sRGB are drawn in as on every print
            let grey = 0.3 * (u + v) / 2.0;
            [u * u, v * v * 0.9, (u * v).powi(2) + 0.02].map(|c| (0.7 * c + grey).clamp(0.001, 1.0))
        });
        let original = ramp.display_8_bit(ramp.region());
        let mean_off = |shown: &[u8], wanted: &dyn Fn([f32; 3]) -> [f32; 3]| -> f64 {
            let off = shown.chunks_exact(3).zip(original.chunks_exact(3)).map(|(shown, before)| {
                let wanted = wanted([before[0], before[1], before[2]].map(|v| f32::from(v) / 255.0));
                (0..3).map(|k| (f64::from(shown[k]) / 255.0 - f64::from(wanted[k])).abs()).sum::<f64>() / 3.0
            });
            off.sum::<f64>() / (original.len() / 3) as f64
        };
        let identity = Stock::of_look(&look(|c| c), &called()).unwrap();
        let plain = mean_off(&shown(&identity, &ramp), &|c| c);
        assert!(plain < 0.012, "{plain}");
        let warm = |[r, g, b]: [f32; 3]| [0.1 + 0.9 * r, g * g * (3.0 - 2.0 * g), 0.8 * b];
        let stock = Stock::of_look(&look(warm), &called()).unwrap();
        let off = mean_off(&shown(&stock, &ramp), &warm);
        assert!(off < 0.02, "{off}");
        let again = Stock::from_json(&stock.to_json()).unwrap();
        assert_eq!(again.content_hash(), stock.content_hash());
    }
}
