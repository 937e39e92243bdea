//! Which of several answers is to be shown first, when more than one may be right.
//!
//! The best explanation of a reference need not be the best answer: three that explain it nearly as well and give
//! nearly the same print are surer than one that stands alone. Every answer is right with a probability that falls with
//! how badly it explains (Boltzmann's form); its risk is what is lost, on the average over what may be right, if its
//! print is shown (a Bayes estimator). The temperature and the loss are model choices.

use amber_core::colour::difference::ciede2000;
use amber_core::colour::lab::Lab;

use crate::numeric::quantile;

/// By how much worse an explanation is that is e times less probable.
const TEMPERATURE: f64 = 1.0;
/// Distance of two prints at which half is lost, and how steeply more is.
const HALF_LOST: f64 = 4.0;
const STEEPNESS: f64 = 1.5;

/// Answers with their prints of one picture.
pub struct Consensus {
    weights: Vec<f64>,
    /// What is lost if one is shown where another is right.
    loss: Vec<Vec<f64>>,
}

impl Consensus {
    /// `badness` and the print of each; `shares` are those of the print's colours.
    pub fn new(badness: &[f64], prints: &[Vec<Lab>], shares: &[f64]) -> Self {
        let least = badness.iter().copied().fold(f64::INFINITY, f64::min);
        let weights: Vec<f64> = badness.iter().map(|b| (-(b - least) / TEMPERATURE).exp()).collect();
        let all: f64 = weights.iter().sum();
        let lost = |a: &[Lab], b: &[Lab]| 1.0 / (1.0 + (STEEPNESS * (HALF_LOST - apart(a, b, shares))).exp());
        let loss = prints.iter().map(|a| prints.iter().map(|b| lost(a, b)).collect()).collect();
        Self { weights: weights.iter().map(|w| w / all).collect(), loss }
    }

    /// What is lost on the average if the best of some answers counts, 0 to 1.
    pub fn risk(&self, shown: &[usize]) -> f64 {
        let least = |right: usize| shown.iter().map(|s| self.loss[*s][right]).fold(1.0, f64::min);
        self.weights.iter().enumerate().map(|(right, weight)| weight * least(right)).sum()
    }
}

/// Median CIEDE2000 of two prints, colour by colour.
fn apart(a: &[Lab], b: &[Lab], shares: &[f64]) -> f64 {
    let distances = a.iter().zip(b).map(|(a, b)| ciede2000(*a, *b));
    quantile(distances.zip(shares.iter().copied()), 0.5)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn print(l: f64) -> Vec<Lab> {
        vec![[l, 0.0, 0.0], [l + 20.0, 5.0, 5.0], [l + 40.0, 0.0, 10.0]]
    }

    #[test]
    fn three_that_agree_are_surer_than_one_that_is_a_little_better() {
        let prints = [print(20.0), print(40.0), print(41.0), print(40.5)];
        let consensus = Consensus::new(&[0.0, 0.3, 0.4, 0.4], &prints, &[0.4, 0.3, 0.3]);
        let alone = consensus.risk(&[0]);
        assert!((1..4).all(|i| consensus.risk(&[i]) < alone));
        // much better it is right all the same
        let clear = Consensus::new(&[0.0, 4.0, 4.1, 4.1], &prints, &[0.4, 0.3, 0.3]);
        assert!(clear.risk(&[0]) < clear.risk(&[1]));
        // the second to be shown is one of another look
        assert!(consensus.risk(&[1, 0]) < consensus.risk(&[1, 2]) - 0.1);
    }

    #[test]
    fn the_middle_colour_by_its_share_counts() {
        let mut other = print(20.0);
        other[0][0] += 30.0;
        assert!(apart(&print(20.0), &other, &[0.2, 0.4, 0.4]) < 1e-9);
        assert!(apart(&print(20.0), &other, &[0.6, 0.2, 0.2]) > 15.0);
    }
}
