//! How badly a stock and its tuning explain a reference.

use amber_core::{CoreError, Development, Stock};

use super::natural::{Unlike, unlike};
use super::undeveloped::{Lattice, Was, undeveloped};
use crate::colour::{Palette, PointPrint};
use crate::grain::GrainMeasure;

/// Distance in Lab from what can be printed that says nothing, since a picture's noise brings it, and the most that
/// counts.
const NOISE: f64 = 0.05;
const MOST_OFF: f64 = 8.0;
/// How much the volume of a print counts: as though so many colours were seen that know nothing of one another.
const SPREAD: f64 = 0.7;

/// How badly colours are explained, by what.
#[derive(Debug, Clone, Copy)]
pub struct Explained {
    /// How far the colours lie from those that can be printed: mean distance in Lab.
    pub off: f64,
    /// How unlike a camera's picture the undeveloped colours are.
    pub unlike: Unlike,
    /// ln of the volume that the print gives to colours: of two stocks that explain a reference alike, the one that can
    /// show less besides explains it better.
    pub spread: f64,
}

/// The lattices that are printed.
pub struct Explainer {
    colours: Lattice,
    greys: Lattice,
}

impl Explained {
    /// One number of both. Ten times nearer says as much as any colour that is a little further off.
    pub fn badness(&self) -> f64 {
        (NOISE + self.off).ln() + 0.6 * self.off + self.unlike.sum() + SPREAD * self.spread
    }
}

impl Default for Explainer {
    fn default() -> Self {
        Self { colours: Lattice::of_colours(), greys: Lattice::of_greys() }
    }
}

impl Explainer {
    /// How badly a development of a stock explains the colours of a reference.
    pub fn explained(
        &self,
        reference: &Palette,
        stock: &Stock,
        development: &Development,
    ) -> Result<Explained, CoreError> {
        let coloured = stock.layers() == 3;
        let print = PointPrint::new(stock, development)?;
        let was = undeveloped(reference, &print, if coloured { &self.colours } else { &self.greys });
        let all: f64 = was.iter().map(|w| w.share).sum::<f64>().max(1e-9);
        let spread = was.iter().map(|w| w.share * w.spread).sum::<f64>() / all;
        Ok(Explained { off: off(&was), unlike: unlike(&was, coloured), spread })
    }
}

/// Mean of the distances; a colour weighs by the root of its share.
fn off(was: &[Was]) -> f64 {
    let weight = |w: &Was| w.share.sqrt();
    let sum = was.iter().map(|w| weight(w) * w.off.min(MOST_OFF)).sum::<f64>();
    sum / was.iter().map(weight).sum::<f64>().max(1e-9)
}

/// How badly the grain of a stock explains the noise of a reference: grain that would show and does not speaks against
/// it, noise that it has not may be the picture's.
pub fn unexplained_grain(stock: &Stock, of_stock: &GrainMeasure, reference: &GrainMeasure) -> f64 {
    let Some(more) = log_ratio(of_stock, reference) else { return 0.0 };
    let as_strong = (-(more / 0.35).powi(2)).exp();
    let length = (of_stock.length_px() / reference.length_px()).ln();
    let colour = of_stock.between()[0] - reference.between()[0];
    let of_colour = if stock.layers() == 3 { (colour / 0.2).powi(2).min(6.0) } else { 0.0 };
    0.6 * (more.max(0.0) / 0.2).powi(2).min(6.0)
        + 0.3 * (-more).clamp(0.0, 2.0)
        + as_strong * (0.7 * (length / 0.2).powi(2).min(6.0) - 1.4)
        + 0.33 * of_colour
}

/// ln of the noise of a stock over that of a reference, over the tones of the reference.
pub fn log_ratio(of_stock: &GrainMeasure, reference: &GrainMeasure) -> Option<f64> {
    let at = |tone: &crate::grain::ToneNoise| {
        let ours = of_stock.at(tone.tone)?.sigma().max(1e-4);
        Some(((ours / tone.sigma().max(1e-4)).ln(), (tone.blocks as f64).sqrt()))
    };
    let ratios: Vec<(f64, f64)> = reference.tones.iter().filter_map(at).collect();
    let weight: f64 = ratios.iter().map(|r| r.1).sum();
    (weight > 0.0).then(|| ratios.iter().map(|r| r.0 * r.1).sum::<f64>() / weight)
}
