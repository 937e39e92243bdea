//! How badly a stock and its tuning explain a reference.

use amber_core::{CoreError, Development, Stock};

use super::natural::{Unlike, unlike};
use super::undeveloped::{Lattice, Was, undeveloped};
use crate::colour::{Palette, PointPrint};

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
        1.5 * (NOISE + self.off).ln() + 0.6 * self.off + self.unlike.sum() + SPREAD * self.spread
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
