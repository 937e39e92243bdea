//! Cross-processing: a film in the other film's bath, as a change of its data.
//!
//! Slide film developed as a negative: hard, without a mask, its layers mismatched (the blue one softest), printed on
//! gloss paper. Negative film developed as a slide: seen with its mask still in it, to which the eye adapts partly. The
//! directions are common practice, the constants model choices; no curve is drawn for the look.

use super::{CurveShape, Stock, StockKind, ViewerAdaptation};

/// Slide film as a negative, by layer R, G, B.
const AS_NEGATIVE_GAMMA: [f64; 3] = [0.53, 0.53, 0.31];
const AS_NEGATIVE_RANGE: [f64; 3] = [0.70, 0.72, 0.52];
const AS_NEGATIVE_FOG: f64 = 0.06;
const AS_NEGATIVE_TOE: f64 = 1.1;
const AS_NEGATIVE_SHOULDER: f64 = 1.25;
const AS_NEGATIVE_INHIBITION: f64 = 0.9;
const AS_NEGATIVE_PRINT: &str = "gloss-paper";

/// Negative film as a slide.
const AS_REVERSAL_GAMMA: [f64; 3] = [2.35, 2.25, 2.05];
const AS_REVERSAL_DMAX: [f64; 3] = [0.90, 0.98, 0.98];
const AS_REVERSAL_DMAX_CAP: f64 = 2.6;
const AS_REVERSAL_DMIN: f64 = 0.10;
const AS_REVERSAL_TOE: f64 = 0.18;
const AS_REVERSAL_SHOULDER: f64 = 0.30;
const AS_REVERSAL_INHIBITION: f64 = 0.5;
const AS_REVERSAL_VIEW: &str = "D50";
const AS_REVERSAL_VIEWER: ViewerAdaptation = ViewerAdaptation { share: 0.62, gain: 1.12 };

impl Stock {
    /// The stock as the other bath makes it; kinds that have no other bath stay as they are.
    pub fn crossed(&self) -> Stock {
        match self.kind {
            StockKind::Reversal => self.as_negative(),
            StockKind::ColourNegative => self.as_reversal(),
            _ => self.clone(),
        }
    }

    fn as_negative(&self) -> Stock {
        let curves = self.curves.map(|i, s| CurveShape {
            dmin: s.dmin + AS_NEGATIVE_FOG,
            gamma: s.gamma * AS_NEGATIVE_GAMMA[i],
            toe: s.toe * AS_NEGATIVE_TOE,
            shoulder: s.shoulder * AS_NEGATIVE_SHOULDER,
            dmax: s.dmin + (s.dmax - s.dmin) * AS_NEGATIVE_RANGE[i],
            shift: 0.0,
            push_skew: s.push_skew,
        });
        Stock {
            kind: StockKind::ColourNegative,
            curves,
            mask: 0.0,
            print: Some(AS_NEGATIVE_PRINT.into()),
            ..self.inhibited(AS_NEGATIVE_INHIBITION)
        }
    }

    fn as_reversal(&self) -> Stock {
        let curves = self.curves.map(|i, s| CurveShape {
            dmin: AS_REVERSAL_DMIN,
            gamma: s.gamma * AS_REVERSAL_GAMMA[i],
            toe: AS_REVERSAL_TOE,
            shoulder: AS_REVERSAL_SHOULDER,
            dmax: s.dmax.min(AS_REVERSAL_DMAX_CAP) * AS_REVERSAL_DMAX[i],
            shift: 0.0,
            push_skew: s.push_skew,
        });
        Stock {
            kind: StockKind::Reversal,
            curves,
            view: Some(AS_REVERSAL_VIEW.into()),
            viewer: Some(AS_REVERSAL_VIEWER),
            ..self.inhibited(AS_REVERSAL_INHIBITION)
        }
    }

    /// The stock with its interlayer effects made weaker or stronger.
    pub fn inhibited(&self, factor: f64) -> Stock {
        let scaled = |m: [[f64; 3]; 3]| m.map(|row| row.map(|v| v * factor));
        Stock {
            inhibition: self.inhibition.map(scaled),
            inhibition_high: self.inhibition_high.map(scaled),
            ..self.clone()
        }
    }
}
