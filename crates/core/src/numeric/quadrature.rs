//! Gauss-Hermite quadrature: averages over a normal distribution.

use std::f64::consts::PI;

/// Nodes and weights for the mean over a standard normal variable: E[f] = sum w f(x), weights summing to 1.
///
/// The nodes are roots of the orthonormal Hermite polynomials, found by Newton steps (the classical method of
/// Golub and Welsch's problem; Abramowitz and Stegun 25.4.46).
pub fn normal_nodes(count: usize) -> Vec<(f64, f64)> {
    let n = count as f64;
    let mut out: Vec<(f64, f64)> = Vec::with_capacity(count);
    for i in 0..count {
        // Asymptotic starting points lie between the roots well enough for bisection-free Newton after deflation.
        let mut x = (PI * (i as f64 + 0.75) / (n + 0.5)).cos() * (2.0 * n + 1.0).sqrt();
        let mut derivative = 1.0;
        for _ in 0..200 {
            let (value, previous) = hermite_orthonormal(count, x);
            derivative = (2.0 * n).sqrt() * previous;
            let deflation: f64 = out.iter().map(|(root, _)| 1.0 / (x - root)).sum();
            let step = value / (derivative - value * deflation);
            x -= step;
            if step.abs() < 1e-14 * (1.0 + x.abs()) {
                break;
            }
        }
        out.push((x, 2.0 / (derivative * derivative)));
    }
    let total: f64 = out.iter().map(|(_, w)| w).sum();
    let mut nodes: Vec<_> = out.into_iter().map(|(x, w)| (x * 2.0_f64.sqrt(), w / total)).collect();
    nodes.sort_by(|a, b| a.0.total_cmp(&b.0));
    nodes
}

/// Orthonormal Hermite polynomial of degree `count` and the one below it, at `x`.
fn hermite_orthonormal(count: usize, x: f64) -> (f64, f64) {
    let (mut value, mut previous) = (PI.powf(-0.25), 0.0);
    for j in 0..count {
        let j = j as f64;
        let next = x * (2.0 / (j + 1.0)).sqrt() * value - (j / (j + 1.0)).sqrt() * previous;
        previous = value;
        value = next;
    }
    (value, previous)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn moments_of_the_normal_distribution() {
        for count in [7, 15, 21] {
            let nodes = normal_nodes(count);
            let moment = |k: i32| nodes.iter().map(|(x, w)| w * x.powi(k)).sum::<f64>();
            assert!((moment(0) - 1.0).abs() < 1e-12, "{count}");
            assert!(moment(1).abs() < 1e-10, "{count}");
            assert!((moment(2) - 1.0).abs() < 1e-10, "{count}: {}", moment(2));
            assert!((moment(4) - 3.0).abs() < 1e-9, "{count}: {}", moment(4));
        }
    }
}
