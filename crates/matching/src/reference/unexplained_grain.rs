//! How badly the grain of a stock explains the noise of a reference.
//!
//! A patch of a picture holds what else is fine in it beside the grain, which makes its noise stronger, never weaker:
//! grain that would show at any tone and does not speaks against a stock, and so do colours of grain that would differ
//! less than they do. How far noise is correlated, and between channels, is asked where the stock's grain alone is as
//! strong. How much each counts is a model choice.

use amber_core::Stock;

use crate::grain::{GrainMeasure, ToneNoise};

/// Blocks of a tone that are enough to tell its noise.
const ENOUGH_BLOCKS: usize = 4;

/// By how much the grain of a stock is stronger than the noise of a reference at one tone, as ln.
struct Over {
    light: f64,
    /// In the channel where it is most.
    channel: f64,
    blocks: usize,
}

fn over(of_stock: &GrainMeasure, reference: &GrainMeasure) -> Vec<Over> {
    let ln_ratio = |ours: f64, theirs: f64| (ours.max(1e-4) / theirs.max(1e-4)).ln();
    let at = |theirs: &ToneNoise| {
        let ours = of_stock.at(theirs.tone)?;
        let channels = ours.sigmas().into_iter().zip(theirs.sigmas()).map(|(a, b)| ln_ratio(a, b));
        let channel = channels.fold(f64::NEG_INFINITY, f64::max);
        Some(Over { light: ln_ratio(ours.sigma(), theirs.sigma()), channel, blocks: theirs.blocks })
    };
    reference.tones.iter().filter_map(at).collect()
}

/// Mean over the tones, each by the root of its blocks.
fn mean(over: &[Over]) -> Option<f64> {
    let weight = |o: &Over| (o.blocks as f64).sqrt();
    let all: f64 = over.iter().map(weight).sum();
    (all > 0.0).then(|| over.iter().map(|o| o.light * weight(o)).sum::<f64>() / all)
}

/// ln of the noise of a stock over that of a reference, over the tones of the reference.
pub fn log_ratio(of_stock: &GrainMeasure, reference: &GrainMeasure) -> Option<f64> {
    mean(&over(of_stock, reference))
}

/// How badly the grain of a stock explains the noise of a reference; less is better.
pub fn unexplained_grain(stock: &Stock, of_stock: &GrainMeasure, reference: &GrainMeasure) -> f64 {
    let over = over(of_stock, reference);
    let Some(more) = mean(&over) else { return 0.0 };
    let told = || over.iter().filter(|o| o.blocks >= ENOUGH_BLOCKS);
    let light = told().map(|o| o.light).fold(0.0, f64::max);
    let channel = told().map(|o| o.channel).fold(0.0, f64::max);
    let as_strong = (-(more / 0.5).powi(2)).exp();
    let beyond = |v: f64, loose: f64| (v / loose).powi(2).min(6.0);
    let length = (of_stock.length_px() / reference.length_px()).ln();
    let colour = of_stock.between()[0] - reference.between()[0];
    let of_colour = as_strong * 0.6 * beyond(colour, 0.15) + 0.2 * beyond(colour.max(0.0), 0.2);
    0.7 * beyond(light, 0.15)
        + 0.4 * beyond((channel - 0.1).max(0.0), 0.2)
        + 0.3 * (-more).clamp(0.0, 2.0)
        + as_strong * (0.3 * beyond(length, 0.4) - 0.5)
        + if stock.layers() == 3 { of_colour } else { 0.0 }
}

#[cfg(test)]
mod tests {
    use super::*;
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
