//! How much brighter than its pixel a peak is, and where in a row one may be, told in vectors from steps of codes.
//!
//! What may be a peak by the extremes of some columns may be one by those of more columns too. So windows of one width,
//! one from every column on, pass over whatever their pixels surely do not hold, whichever of them are asked for.

use std::sync::LazyLock;

use multiversion::multiversion;

use super::source::{code_of_light, linear_of_code};

/// Linear light of the lightest channel from which a thing may be a peak.
pub(super) const BRIGHT: f32 = 0.5;
/// How much brighter than the mean of its pixel it is at least; and where it may be a lamp, which a little grey makes
/// none.
const ABOVE_MEAN: f32 = 0.08;
const ABOVE_MEAN_OF_LAMPS: f32 = 0.02;
const LAMP: f32 = 0.85;

/// Codes that the lightest and the darkest channel in a pixel differ by at least, where it may hold a peak.
pub(super) const LEAST_STEP: u16 = 1000;

/// The differences of codes that a peak has at least.
#[derive(Debug, Clone, Copy)]
pub(super) struct LeastSteps {
    /// Code of the lightest channel.
    bright: u16,
    /// Code from which it may be a lamp.
    lamp: u16,
    /// Of the lightest channel over the lightest of the channels' lowest, below the lamps' code and from it on.
    above: [u16; 2],
}

/// Worked out once from the light of all codes.
pub(super) static LEAST_STEPS: LazyLock<LeastSteps> = LazyLock::new(LeastSteps::new);

impl LeastSteps {
    fn new() -> Self {
        let linear = linear_of_code();
        let (bright, lamp) = (bright_code(), linear.partition_point(|light| *light < LAMP) as u16);
        let mut above = [u16::MAX; 2];
        // the lightest mean that lies far enough below
        let mut mean = 0u16;
        for high in bright..=u16::MAX {
            let is_far = |mean: u16| is_above(linear[usize::from(high)], linear[usize::from(mean)]);
            while mean + 1 < high && is_far(mean + 1) {
                mean += 1;
            }
            let least = &mut above[usize::from(high >= lamp)];
            *least = (*least).min(high - mean);
        }
        Self { bright, lamp, above }
    }

    /// For every value of a row, whether the `span` pixels that begin with it may hold a peak, by the lowest and the
    /// highest code of every value.
    pub(super) fn likely(&self, lows: &[u16], highs: &[u16], span: usize) -> Vec<bool> {
        // beyond the last whole window everything is likely
        let mut likely = vec![true; lows.len()];
        if let Some(windows) = lows.len().checked_sub(3 * span) {
            let (mut low, mut high) = (lows[..windows + 3].to_vec(), highs[..windows + 3].to_vec());
            for k in 1..span {
                lower(&mut low, &lows[3 * k..]);
                higher(&mut high, &highs[3 * k..]);
            }
            compare(*self, [&low, &low[1..], &low[2..]], [&high, &high[1..], &high[2..]], &mut likely[..=windows]);
        }
        likely
    }
}

/// The least code of a bright channel.
pub(super) fn bright_code() -> u16 {
    code_of_light(BRIGHT)
}

/// How much brighter than the mean of its pixel a peak of some light is at least.
pub(super) fn above_mean(top: f32) -> f32 {
    if top < LAMP { ABOVE_MEAN } else { ABOVE_MEAN_OF_LAMPS }
}

/// Whether a light is so much brighter than the mean of its pixel that it may be a peak.
pub(super) fn is_above(top: f32, mean_at_least: f32) -> bool {
    top - mean_at_least > 0.99 * above_mean(top)
}

#[multiversion(targets("x86_64+avx2"))]
fn lower(to: &mut [u16], from: &[u16]) {
    to.iter_mut().zip(from).for_each(|(to, from)| *to = (*to).min(*from));
}

#[multiversion(targets("x86_64+avx2"))]
fn higher(to: &mut [u16], from: &[u16]) {
    to.iter_mut().zip(from).for_each(|(to, from)| *to = (*to).max(*from));
}

/// Of three channels, the lowest and the highest over a window.
#[multiversion(targets("x86_64+avx2"))]
fn compare(least: LeastSteps, low: [&[u16]; 3], high: [&[u16]; 3], likely: &mut [bool]) {
    let count = likely.len();
    let ([l0, l1, l2], [h0, h1, h2]) = (low.map(|v| &v[..count]), high.map(|v| &v[..count]));
    for i in 0..count {
        let top = h0[i].max(h1[i]).max(h2[i]);
        let (darkest, most) = (l0[i].min(l1[i]).min(l2[i]), l0[i].max(l1[i]).max(l2[i]));
        let above = if top < least.lamp { least.above[0] } else { least.above[1] };
        likely[i] =
            (top >= least.bright) & (top.wrapping_sub(darkest) > LEAST_STEP) & (top.wrapping_sub(most) >= above);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every pair of codes that is far enough apart is so by the differences too, and they are met by some pair.
    #[test]
    fn no_pair_of_codes_is_passed_over() {
        let linear = linear_of_code();
        let least = LeastSteps::new();
        let mut met = [false; 2];
        for high in least.bright..=u16::MAX {
            let kind = usize::from(high >= least.lamp);
            let nearest = high - least.above[kind];
            let is_far = |mean: u16| is_above(linear[usize::from(high)], linear[usize::from(mean)]);
            assert!((nearest + 1..high).all(|mean| !is_far(mean)), "{high}");
            met[kind] |= is_far(nearest);
        }
        assert!(met[1] && met[0], "{least:?}");
        assert!(least.above[0] > 1000 && least.above[1] > 100, "{least:?}");
    }

    /// A dot on grey makes the windows that hold it likely, and no other; near the end all are.
    #[test]
    fn windows_that_hold_a_dot_are_likely() {
        let (lows, mut highs) = (vec![30_000u16; 60], vec![31_000u16; 60]);
        highs[3 * 10 + 1] = 60_000;
        let likely = LEAST_STEPS.likely(&lows, &highs, 4);
        for pixel in 0..20 {
            assert_eq!(likely[3 * pixel], (7..=10).contains(&pixel) || pixel > 16, "{pixel}");
        }
        assert!(LEAST_STEPS.likely(&lows[..6], &highs[..6], 4).iter().all(|v| *v));
    }
}
