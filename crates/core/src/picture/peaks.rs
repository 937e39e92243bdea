//! What a reduced picture would forget: small bright things in its pixels.
//!
//! A lamp of two pixels is a grey speck after the picture was reduced; what weighs light by how bright it is (halation, bloom)
//! would not see it. So a reduced picture remembers, for every pixel that holds something much brighter than the rest of it,
//! the two of them apart: how much of the pixel is bright, and the colours of both. `share * bright + (1 - share) * rest` is the
//! pixel itself.

use rayon::prelude::*;

use super::Source;
use super::source::{code_of_light, linear_of_code};

/// Linear light of the lightest channel from which a thing may be a peak.
const BRIGHT: f32 = 0.5;
/// How much brighter than the mean of its pixel it is at least.
const ABOVE_MEAN: f32 = 0.08;

/// Codes that the lightest and the darkest channel in a pixel differ by at least, where it may hold a peak.
const LEAST_STEP: u16 = 1000;

/// A pixel of a reduced picture that holds something bright.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Peak {
    /// Which pixel, counted row by row.
    pub index: u32,
    /// Part of the pixel that is bright, 0..1.
    pub share: f32,
    /// Codes of the bright part and of the rest.
    pub bright: [u16; 3],
    pub rest: [u16; 3],
}

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

/// The first pixel of each reduced one along an axis, and the end of the last.
fn borders(small: u32, full: u32) -> Vec<usize> {
    (0..=small).map(|i| (f64::from(i) * f64::from(full) / f64::from(small)).round() as usize).collect()
}

/// The peaks of `small`, which `full` was reduced to.
pub(super) fn of_reduced(full: &Source, small: &Source) -> Vec<Peak> {
    let linear = linear_of_code();
    let (columns, rows) = (borders(small.width(), full.width()), borders(small.height(), full.height()));
    let brightest = bright_code();
    let width = full.width();
    let row_of_peaks = |y: usize| -> Vec<Peak> {
        let lines: Vec<&[u16]> = (rows[y]..rows[y + 1]).map(|r| full.row(r as u32, 0, width)).collect();
        let inner = |x: usize| 3 * columns[x]..3 * columns[x + 1];
        let remembered = !full.peaks_of_rows(rows[y] as u32..rows[y + 1] as u32).is_empty();
        let bright_here = |x: usize| {
            let (mut low, mut high) = (u16::MAX, 0u16);
            for code in lines.iter().flat_map(|line| &line[inner(x)]) {
                low = low.min(*code);
                high = high.max(*code);
            }
            high >= brightest && high - low > LEAST_STEP
                || remembered && full.has_peak_between(&rows[y..=y + 1], &columns[x..=x + 1])
        };
        let mut found = Vec::new();
        for x in (0..small.width() as usize).filter(|x| bright_here(*x)) {
            let samples: Vec<Sample> = (rows[y]..rows[y + 1])
                .flat_map(|r| (columns[x]..columns[x + 1]).map(move |c| (r, c)))
                .flat_map(|(r, c)| samples_of(full, r * width as usize + c, linear))
                .collect();
            let index = (y * small.width() as usize + x) as u32;
            let mean = small.row(y as u32, x as u32, 1);
            found.extend(split(&samples, index, [0, 1, 2].map(|k| linear[mean[k] as usize])));
        }
        found
    };
    (0..small.height() as usize).into_par_iter().flat_map_iter(row_of_peaks).collect()
}

/// The least code of a bright channel.
fn bright_code() -> u16 {
    code_of_light(BRIGHT)
}

fn samples_of(full: &Source, index: usize, linear: &[f32]) -> Vec<Sample> {
    let light = |codes: [u16; 3]| codes.map(|c| linear[c as usize]);
    match full.peak(index as u32) {
        Some(p) => vec![
            Sample { light: light(p.bright), weight: p.share },
            Sample { light: light(p.rest), weight: 1.0 - p.share },
        ],
        None => {
            let at = &full.pixels()[3 * index..3 * index + 3];
            vec![Sample { light: light([at[0], at[1], at[2]]), weight: 1.0 }]
        }
    }
}

/// The bright part of a pixel and the rest, where they differ.
fn split(samples: &[Sample], index: u32, mean: [f32; 3]) -> Option<Peak> {
    let all: f32 = samples.iter().map(|s| s.weight).sum();
    let top = samples.iter().map(Sample::top).fold(0.0, f32::max);
    let average = samples.iter().map(|s| s.weight * s.top()).sum::<f32>() / all.max(1e-6);
    if samples.len() < 2 || top < BRIGHT || top - average < ABOVE_MEAN {
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
