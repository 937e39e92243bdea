//! What a reduced picture would forget: small bright things in its pixels.
//!
//! A lamp of two pixels is a grey speck after the picture was reduced; what weighs light by how bright it is (halation,
//! bloom) would not see it. So a reduced picture remembers, for every pixel that holds something much brighter than the
//! rest of it, the two of them apart: how much of the pixel is bright, and the colours of both. `share * bright + (1 -
//! share) * rest` is the pixel itself.

use std::ops::Range;

use multiversion::multiversion;
use rayon::prelude::*;

use super::Source;
use super::peak::Peak;
use super::peak_steps::{BRIGHT, LEAST_STEP, LEAST_STEPS, above_mean, bright_code, is_above};
use super::source::{CODES, Held, code_of_8_bit, code_of_light, linear_of_code};

/// Rows of the smaller picture that a thread takes on together at most: the last to finish is not waited for long.
pub(super) const AT_ONCE: usize = 16;

/// Light of a full pixel, or of a part of one that was reduced before.
#[derive(Clone, Copy)]
struct Sample {
    light: [f32; 3],
    weight: f32,
}

impl Sample {
    fn top(&self) -> f32 {
        self.light[0].max(self.light[1]).max(self.light[2])
    }
}

/// The full pixels that one reduced pixel covers along an axis: the first, and the share of each; shares sum to one.
pub(super) type Coverage = [(usize, Vec<f32>)];

/// The peaks of a picture to which `full` was reduced by the columns and rows that its pixels cover.
pub(super) fn of_reduced(full: &Source, small: &Source, columns: &Coverage, rows: &Coverage) -> Vec<Peak> {
    let linear = linear_of_code();
    let brightest = bright_code();
    let least = &*LEAST_STEPS;
    let span = columns.iter().map(|(_, shares)| shares.len()).max().unwrap_or(1);
    let width = full.width();
    let row_of_peaks = |y: usize| -> Vec<Peak> {
        let (top, row_shares) = (rows[y].0, &rows[y].1);
        let bottom = top + row_shares.len();
        let remembered = !full.peaks_of_rows(top as u32..bottom as u32).is_empty();
        let [lows, highs] = extremes(full.held(), 3 * width as usize, top..bottom);
        let likely = least.likely(&lows, &highs, span);
        let means = small.row(y as u32, 0, small.width());
        let bright_here = |x: usize, (left, shares): &(usize, Vec<f32>)| {
            let right = left + shares.len();
            let (held, mean) = (3 * left..3 * right, &means[3 * x..3 * x + 3]);
            likely[3 * left] && may_be_peak(&lows[held.clone()], &highs[held], mean, brightest, linear)
                || remembered && full.has_peak_between(&[top, bottom], &[*left, right])
        };
        let (mut found, mut samples) = (Vec::new(), Vec::new());
        for (x, covered) in columns.iter().enumerate().filter(|(x, covered)| bright_here(*x, covered)) {
            let (left, shares) = covered;
            samples.clear();
            for (r, across) in row_shares.iter().enumerate() {
                let first = (top + r) * width as usize + left;
                samples_of(full, first, shares.iter().map(|along| across * along), linear, &mut samples);
            }
            let index = (y * small.width() as usize + x) as u32;
            found.extend(split(&samples, index, [0, 1, 2].map(|k| linear[means[3 * x + k] as usize])));
        }
        found
    };
    (0..small.height() as usize).into_par_iter().with_max_len(AT_ONCE).flat_map_iter(row_of_peaks).collect()
}

/// Whether a pixel may hold a peak, by its own code and the lowest and the highest ones in the columns that it covers:
/// what surely holds none is not looked at sample by sample.
fn may_be_peak(lows: &[u16], highs: &[u16], mean: &[u16], brightest: u16, linear: &[f32; CODES]) -> bool {
    let high = highs.iter().fold(0, |high, code| high.max(*code));
    if high < brightest {
        return false;
    }
    let mut channels = [u16::MAX; 3];
    for pixel in lows.chunks_exact(3) {
        channels.iter_mut().zip(pixel).for_each(|(low, code)| *low = (*low).min(*code));
    }
    let [least, most] = channels.iter().fold([u16::MAX, 0], |[a, b], code| [a.min(*code), b.max(*code)]);
    // the mean of the samples' lightest channels is no darker than the pixel's own lightest channel, nor than the
    // lightest of the channels' lowest, but for rounding
    let most = mean.iter().fold(most, |most, code| most.max(*code));
    let [top, mean_at_least] = [high, most].map(|code| linear[usize::from(code)]);
    high - least > LEAST_STEP && is_above(top, mean_at_least)
}

/// The lowest and the highest codes in every column of some rows, each `length` values long.
fn extremes(held: Held, length: usize, rows: Range<usize>) -> [Vec<u16>; 2] {
    match held {
        Held::Codes(codes) => extremes_of_codes(codes, length, rows),
        Held::Srgb8(values) => {
            extremes_of_8_bit(values, length, rows).map(|v| v.into_iter().map(code_of_8_bit).collect())
        }
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn extremes_of_codes(codes: &[u16], length: usize, rows: Range<usize>) -> [Vec<u16>; 2] {
    extremes_by_column(codes, length, rows)
}

#[multiversion(targets("x86_64+avx2"))]
fn extremes_of_8_bit(values: &[u8], length: usize, rows: Range<usize>) -> [Vec<u8>; 2] {
    extremes_by_column(values, length, rows)
}

#[inline(always)]
fn extremes_by_column<T: Copy + Ord>(held: &[T], length: usize, rows: Range<usize>) -> [Vec<T>; 2] {
    let first = held[rows.start * length..][..length].to_vec();
    let [mut lows, mut highs] = [first.clone(), first];
    for row in held[rows.start * length..rows.end * length].chunks_exact(length).skip(1) {
        // one after the other: each is a vector of its own
        lows.iter_mut().zip(row).for_each(|(low, value)| *low = (*low).min(*value));
        highs.iter_mut().zip(row).for_each(|(high, value)| *high = (*high).max(*value));
    }
    [lows, highs]
}

/// Full pixels side by side, each of a weight; of one that was reduced before, its two parts.
fn samples_of(
    full: &Source,
    first: usize,
    weights: impl Iterator<Item = f32>,
    linear: &[f32; CODES],
    samples: &mut Vec<Sample>,
) {
    let light = |codes: [u16; 3]| codes.map(|c| linear[c as usize]);
    let remembers = !full.peaks().is_empty();
    for (index, weight) in (first..).zip(weights) {
        match remembers.then(|| full.peak(index as u32)).flatten() {
            Some(p) => samples.extend([
                Sample { light: light(p.bright), weight: weight * p.share },
                Sample { light: light(p.rest), weight: weight * (1.0 - p.share) },
            ]),
            None => samples.push(Sample { light: light(full.pixel(index)), weight }),
        }
    }
}

/// The bright part of a pixel and the rest, where they differ.
fn split(samples: &[Sample], index: u32, mean: [f32; 3]) -> Option<Peak> {
    let all: f32 = samples.iter().map(|s| s.weight).sum();
    let top = samples.iter().map(Sample::top).fold(0.0, f32::max);
    let average = samples.iter().map(|s| s.weight * s.top()).sum::<f32>() / all.max(1e-6);
    if samples.len() < 2 || top < BRIGHT || top - average < above_mean(top) {
        return None;
    }
    let cut = 0.5 * (top + average);
    let (mut weight, mut bright) = (0.0f32, [0.0f32; 3]);
    for s in samples.iter().filter(|s| s.top() >= cut) {
        weight += s.weight;
        bright.iter_mut().zip(s.light).for_each(|(sum, v)| *sum += s.weight * v);
    }
    let share = (weight / all).clamp(1e-4, 0.999);
    let bright = bright.map(|v| v / weight);
    let rest: [f32; 3] = std::array::from_fn(|k| ((mean[k] - share * bright[k]) / (1.0 - share)).max(0.0));
    Some(Peak { index, share, bright: bright.map(code_of_light), rest: rest.map(code_of_light) })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What is not looked at sample by sample holds no peak: bright, coloured and noisy pictures, in codes and 8 bits.
    #[test]
    fn nothing_is_passed_over() {
        let mut state = 7u32;
        let mut random = move || {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            state >> 24
        };
        let (mut passed, mut held) = (0, 0);
        for noise in [2u32, 9, 30] {
            let (width, height) = (120u32, 80u32);
            let value = |i: u32, noise: u32| (150 + i % 3 * 30 + i / 3 % 40 + noise).min(255) as u8;
            let values: Vec<u8> = (0..3 * width * height).map(|i| value(i, random() % noise)).collect();
            let full = Source::of_8_bit(width, height, values).unwrap();
            let wide = Source::new(width, height, full.pixels().into_owned()).unwrap();
            let small = full.reduced(30, 20);
            assert!(small.peaks() == wide.reduced(30, 20).peaks());
            let linear = linear_of_code();
            for index in 0..600u32 {
                let (x, y) = (4 * (index % 30), 4 * (index / 30));
                let mut samples = Vec::new();
                for row in y..y + 4 {
                    samples_of(&full, (row * width + x) as usize, [1.0 / 16.0; 4].into_iter(), linear, &mut samples);
                }
                let mean = small.pixel(index as usize);
                let rows = 4 * (index / 30) as usize..4 * (index / 30) as usize + 4;
                let columns = 3 * x as usize..3 * x as usize + 12;
                let [lows, highs] = extremes(full.held(), 3 * width as usize, rows);
                let looked_at = may_be_peak(&lows[columns.clone()], &highs[columns], &mean, bright_code(), linear);
                let mean = mean.map(|code| linear[usize::from(code)]);
                assert!(looked_at || split(&samples, index, mean).is_none(), "{noise}, {index}");
                passed += u32::from(!looked_at);
                held += u32::from(small.peaks().iter().any(|p| p.index == index));
            }
        }
        assert!(passed > 100 && held > 100, "{passed} {held}");
    }

    #[test]
    fn a_lamp_of_two_pixels_is_remembered_through_two_reductions() {
        let lamp = |x: u32, y: u32| (101..103).contains(&x) && (61..63).contains(&y);
        let full = Source::from_linear_srgb(240, 160, |x, y| if lamp(x, y) { [1.0, 0.9, 0.7] } else { [0.02; 3] });
        let half = full.reduced(80, 53);
        let small = half.reduced(20, 13);
        for (reduced, pixels) in [(half, 9.0), (small, 144.0)] {
            let bright: f32 = reduced.peaks().iter().map(|p| p.share).sum::<f32>() * pixels;
            assert!((3.5..4.7).contains(&bright), "{bright} full pixels of lamp: {:?}", reduced.peaks());
            for p in reduced.peaks() {
                let light = linear_of_code()[p.bright[0] as usize];
                assert!((light - 1.0).abs() < 0.01 && p.rest[0] < p.bright[0], "{p:?}");
            }
        }
        let flat = Source::from_linear_srgb(60, 60, |x, _| [f64::from(x) / 60.0; 3]).reduced(20, 20);
        assert!(flat.peaks().is_empty(), "a gradient has none");
    }
}
