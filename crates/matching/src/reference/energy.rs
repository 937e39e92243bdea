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

/// Blocks of a tone that are enough to tell its noise.
const ENOUGH_BLOCKS: usize = 4;

/// How badly the grain of a stock explains the noise of a reference.
///
/// A patch of a picture holds what else is fine in it beside the grain. That makes noise stronger, and correlated
/// further and between channels, never the other way: grain that would show at any tone and does not speaks against a
/// stock, and so do colours of grain that would differ less than they do. How far it is correlated is asked where the
/// stock's grain alone is as strong as the noise.
pub fn unexplained_grain(stock: &Stock, of_stock: &GrainMeasure, reference: &GrainMeasure) -> f64 {
    let Some(more) = log_ratio(of_stock, reference) else { return 0.0 };
    let as_strong = (-(more / 0.5).powi(2)).exp();
    let beyond = |v: f64, loose: f64| (v / loose).powi(2).min(6.0);
    let [light, channel] = most_over(of_stock, reference);
    let length = (of_stock.length_px() / reference.length_px()).ln();
    let colour = of_stock.between()[0] - reference.between()[0];
    let of_colour = as_strong * 0.6 * beyond(colour, 0.15) + 0.2 * beyond(colour.max(0.0), 0.2);
    0.7 * beyond(light.max(0.0), 0.15)
        + 0.4 * beyond((channel - 0.1).max(0.0), 0.2)
        + 0.3 * (-more).clamp(0.0, 2.0)
        + as_strong * (0.3 * beyond(length, 0.4) - 0.5)
        + if stock.layers() == 3 { of_colour } else { 0.0 }
}

/// ln of the noise of a stock over that of a reference, in luminance and in any channel, at the tone where it is most.
fn most_over(of_stock: &GrainMeasure, reference: &GrainMeasure) -> [f64; 2] {
    let ln_ratio = |ours: f64, theirs: f64| (ours.max(1e-4) / theirs.max(1e-4)).ln();
    let at = |tone: &crate::grain::ToneNoise| {
        let ours = of_stock.at(tone.tone)?;
        let [of_channels, theirs] = [&ours, tone].map(|t| t.sigmas());
        let channels = of_channels.iter().zip(theirs).map(|(a, b)| ln_ratio(*a, b));
        Some([ln_ratio(ours.sigma(), tone.sigma()), channels.fold(f64::NEG_INFINITY, f64::max)])
    };
    let told = reference.tones.iter().filter(|tone| tone.blocks >= ENOUGH_BLOCKS);
    told.filter_map(at).fold([0.0; 2], |most, [light, channel]| [most[0].max(light), most[1].max(channel)])
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::grain::ToneNoise;
    use amber_core::Catalogue;

    /// Noise of one tone: its deviation, how far it is correlated, and between channels.
    fn noise(sigma: f64, length: f64, between: f64) -> GrainMeasure {
        let variance = sigma * sigma;
        let luma = (0..24).map(|lag| variance * (-f64::from(lag) / length).exp()).collect();
        let channel = |i: usize, j: usize| if i == j { variance } else { between * variance };
        let channels = std::array::from_fn(|i| std::array::from_fn(|j| channel(i, j)));
        GrainMeasure { tones: vec![ToneNoise { tone: 0.5, luma, channels, blocks: 20 }] }
    }

    /// A patch may hold more than grain, never less.
    #[test]
    fn what_cannot_be_speaks_against_a_stock() {
        let [coloured, grey] = ["plover", "juniper"].map(|id| Catalogue::find(id).unwrap());
        let of = |stock: &Stock, more: f64, longer: f64, alike: f64| {
            unexplained_grain(stock, &noise(0.02, 2.0, 0.3), &noise(0.02 * more, 2.0 * longer, 0.3 + alike))
        };
        let same = of(&coloured, 1.0, 1.0, 0.0);
        // stronger noise with structure in it is hardly worse; weaker noise than the grain is
        assert!((0.0..1.5).contains(&(of(&coloured, 2.5, 2.0, 0.3) - same)));
        assert!(of(&coloured, 0.6, 1.0, 0.0) - same > 4.0);
        // of noise that is as strong, one correlated far less or further is another stock's
        assert!(of(&coloured, 1.0, 2.0, 0.0) - same > 0.4 && of(&coloured, 1.0, 0.5, 0.0) - same > 0.4);
        // at one tone is enough
        let at = |tone: f64, sigma: f64| ToneNoise { tone, ..noise(sigma, 2.0, 0.3).tones[0].clone() };
        let two = GrainMeasure { tones: vec![at(0.3, 0.05), at(0.7, 0.012)] };
        assert!(unexplained_grain(&grey, &noise(0.02, 2.0, 0.3), &two) > 3.0);
        // colours that differ more than the grain's speak against it, on a film of colours
        assert!(of(&coloured, 2.5, 1.0, -0.4) - of(&coloured, 2.5, 1.0, 0.4) > 0.5);
        assert_eq!(of(&grey, 1.0, 1.0, -0.4), of(&grey, 1.0, 1.0, 0.0));
    }
}
