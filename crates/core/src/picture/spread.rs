//! Light spread by a sum of Gaussians, each blurred on a plane on which it is a few pixels wide.

use super::Plane;

/// A part of the kernel is blurred where its standard deviation has at least this many pixels.
const FINEST_SIGMA: f64 = 1.0;

/// Largest power of two by which a frame may be reduced for a blur of `sigma` pixels.
pub fn factor_for(sigma: f64) -> u32 {
    let mut factor = 1;
    while sigma / f64::from(2 * factor) >= FINEST_SIGMA {
        factor *= 2;
    }
    factor
}

/// The weighted sum of the kernel's parts, on the finest of their planes. `lit` was reduced by `base`; the kernel's
/// standard deviations, the narrowest first, are in pixels before that.
pub fn spread(lit: Plane, kernel: &[(f64, f64)], base: u32) -> Plane {
    let mut levels = vec![lit];
    let mut parts: Vec<(usize, f64, f64)> = Vec::new();
    for (sigma, weight) in kernel {
        let wanted = factor_for(*sigma);
        let level = (wanted / base).max(1).ilog2() as usize;
        while levels.len() <= level {
            let next = levels[levels.len() - 1].halved();
            levels.push(next);
        }
        let factor = f64::from(base << level);
        // averaging over boxes has already spread the light a little, and stretching the plane will
        let boxed = if level == 0 && base == 1 { 0.0 } else { (factor * factor - 1.0) / 12.0 + factor * factor / 6.0 };
        parts.push((level, (sigma * sigma - boxed).max(0.0).sqrt() / factor, *weight));
    }
    // from the coarsest to the finest: each sum is enlarged to the next
    let mut sum: Option<(usize, Plane)> = None;
    for (level, sigma, weight) in parts.into_iter().rev() {
        let mut part = levels[level].blurred(sigma);
        part.values.iter_mut().for_each(|v| *v *= weight as f32);
        if let Some((coarser, coarse)) = sum.take() {
            let wider = coarse.doubled((coarser - level) as u32, part.width, part.height);
            part.values.iter_mut().zip(wider).for_each(|(v, w)| *v += w);
        }
        sum = Some((level, part));
    }
    sum.map_or_else(|| levels.remove(0), |(_, plane)| plane)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn wide_blurs_are_made_small() {
        assert_eq!(factor_for(1.2), 1);
        assert_eq!(factor_for(2.4), 2);
        assert_eq!(factor_for(5.8), 4);
        assert_eq!(factor_for(50.0), 32);
    }

    /// Against the sum of the blurs, each at full size: the light is kept, and nowhere off by more than a fiftieth of
    /// the highest.
    #[test]
    fn planes_give_the_sum_of_the_blurs() {
        let (width, height) = (240usize, 160usize);
        let lamp = |i: usize| if (i % width).abs_diff(90) < 5 && (i / width).abs_diff(70) < 4 { 10.0 } else { 0.1 };
        let lit = Plane { width, height, values: (0..width * height).map(lamp).collect() };
        let kernel = [(0.9, 0.45), (3.6, 0.33), (13.5, 0.22)];
        let found = spread(lit.clone(), &kernel, 1);
        let mut wanted = vec![0.0f32; width * height];
        for (sigma, weight) in kernel {
            let part = lit.blurred(sigma);
            wanted.iter_mut().zip(part.values).for_each(|(sum, v)| *sum += weight as f32 * v);
        }
        let highest = wanted.iter().copied().fold(0.0, f32::max);
        let furthest = found.values.iter().zip(&wanted).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(furthest < 0.02 * highest, "{furthest} of {highest}");
        let [a, b] = [&found.values, &wanted].map(|v| v.iter().sum::<f32>());
        assert!((a / b - 1.0).abs() < 0.002, "{a} {b}");
    }
}
