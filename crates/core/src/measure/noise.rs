//! How noisy a picture is, tone by tone.
//!
//! In blocks of the picture, the finest diagonal detail is taken (a Haar step); its median absolute value over 0.6745
//! is the standard deviation of noise (Donoho, Johnstone 1994). Blocks with texture read too much, so of the blocks of
//! one tone the quieter quarter speaks. Noise of colour is read at half the size, because cameras keep colour coarser.

use rayon::prelude::*;

use crate::picture::Source;
use crate::picture::source::encoded_of_code;

/// Tones that are told apart.
pub const TONES: usize = 8;
/// Side of a block in pixels.
const BLOCK: u32 = 16;
/// Blocks that are looked at, at most about so many.
const MOST_BLOCKS: f64 = 6000.0;
/// Median of the absolute value of a normal distribution of unit deviation.
const MEDIAN_OF_NORMAL: f32 = 0.6745;
/// A quarter of the blocks of pure noise read less than this share of the truth.
const QUARTER: f32 = 0.90;
/// Blocks of a tone below which it borrows from its neighbours.
const FEWEST: usize = 12;
/// No picture counts as quieter: half a step of an 8-bit picture.
const LEAST: f32 = 0.5 / 255.0;

/// Standard deviation of the noise on encoded values (0..1), by tone from black to white, in orthonormal opponent axes.
#[derive(Debug, Clone, PartialEq)]
pub struct NoiseLevels {
    /// Standard deviation of encoded luminance, by tone.
    pub luminance: [f32; TONES],
    /// Standard deviation of encoded colour differences, by tone.
    pub colour: [f32; TONES],
}

/// Luminance and two colour differences of encoded values: orthonormal.
#[inline(always)]
pub fn opponent(r: f32, g: f32, b: f32) -> [f32; 3] {
    [(r + g + b) * 0.577_350_26, (r - b) * 0.707_106_77, (r - g - g + b) * 0.408_248_3]
}

/// The way back of [`opponent`].
#[inline(always)]
pub fn from_opponent(y: f32, u: f32, v: f32) -> [f32; 3] {
    let (y, u, v) = (y * 0.577_350_26, u * 0.707_106_77, v * 0.408_248_3);
    [y + u + v, y - v - v, y - u + v]
}

impl NoiseLevels {
    /// Estimated from the flattest windows of a picture.
    pub fn of(source: &Source) -> Self {
        let blocks = (source.width() / BLOCK).max(1) as f64 * (source.height() / BLOCK).max(1) as f64;
        let stride = (blocks / MOST_BLOCKS).sqrt().ceil().max(1.0) as u32;
        let starts = |side: u32| (0..side.saturating_sub(BLOCK - 1)).step_by((BLOCK * stride) as usize);
        let rows: Vec<u32> = starts(source.height()).collect();
        let blocks = rows.into_par_iter().flat_map_iter(|y| starts(source.width()).map(move |x| block(source, x, y)));
        let mut found: [[Vec<f32>; TONES]; 2] = Default::default();
        for (mean, fine, colour) in blocks.collect::<Vec<_>>() {
            // what is clipped has lost its noise
            if (0.02..0.97).contains(&mean) {
                let tone = ((mean * TONES as f32) as usize).min(TONES - 1);
                found[0][tone].push(fine);
                found[1][tone].push(colour);
            }
        }
        let [luminance, colour] = found.map(by_tone);
        Self { luminance, colour }
    }
}

/// Mean encoded value, noise of luminance and of colour of a block.
fn block(source: &Source, x: u32, y: u32) -> (f32, f32, f32) {
    const N: usize = BLOCK as usize;
    let encoded = encoded_of_code();
    let mut axes = [[[0.0f32; N]; N]; 3];
    for (row, line) in (y..y + BLOCK).enumerate() {
        for (column, p) in source.row(line, x, BLOCK).chunks_exact(3).enumerate() {
            let o = opponent(encoded[p[0] as usize], encoded[p[1] as usize], encoded[p[2] as usize]);
            for (axis, v) in axes.iter_mut().zip(o) {
                axis[row][column] = v;
            }
        }
    }
    let mean = axes[0].iter().flatten().sum::<f32>() / (N * N) as f32 * 0.577_350_26;
    let fine = diagonals(&axes[0], N, 1);
    // means of 2 x 2 have half the deviation of white noise
    let colour = 2.0 * deviation([diagonals(&axes[1], N, 2), diagonals(&axes[2], N, 2)].concat());
    (mean, deviation(fine), colour)
}

/// Diagonal Haar detail of means over `size` x `size` pixels.
fn diagonals<const N: usize>(axis: &[[f32; N]; N], side: usize, size: usize) -> Vec<f32> {
    let mean = |x: usize, y: usize| {
        let rows = axis[y..y + size].iter();
        rows.map(|r| r[x..x + size].iter().sum::<f32>()).sum::<f32>() / (size * size) as f32
    };
    let starts = || (0..side).step_by(2 * size);
    let detail =
        |x: usize, y: usize| 0.5 * ((mean(x, y) + mean(x + size, y + size)) - (mean(x + size, y) + mean(x, y + size)));
    starts().flat_map(|y| starts().map(move |x| (x, y))).map(|(x, y)| detail(x, y)).collect()
}

fn deviation(mut detail: Vec<f32>) -> f32 {
    detail.iter_mut().for_each(|v| *v = v.abs());
    detail.sort_by(f32::total_cmp);
    let middle = detail.len() / 2;
    0.5 * (detail[middle - 1] + detail[middle]) / MEDIAN_OF_NORMAL
}

/// The quieter quarter of each tone; a tone with too few blocks takes its nearest neighbour's.
fn by_tone(found: [Vec<f32>; TONES]) -> [f32; TONES] {
    let read: Vec<Option<f32>> = found
        .into_iter()
        .map(|mut blocks| {
            blocks.sort_by(f32::total_cmp);
            (blocks.len() >= FEWEST).then(|| (blocks[blocks.len() / 4] / QUARTER).max(LEAST))
        })
        .collect();
    std::array::from_fn(|tone| {
        let nearest = (0..TONES).filter(|i| read[*i].is_some()).min_by_key(|i| i.abs_diff(tone));
        nearest.and_then(|i| read[i]).unwrap_or(LEAST)
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::colour::transfer::decode_srgb;

    /// White noise of a known deviation on encoded values; half of the picture with texture.
    #[test]
    fn known_noise_is_read() {
        let mut state = 1u32;
        let mut noise = move || {
            (0..12)
                .map(|_| {
                    state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
                    f64::from(state >> 8) / f64::from(1 << 24)
                })
                .sum::<f64>()
                - 6.0
        };
        let values: Vec<[f64; 3]> = (0..512 * 320)
            .map(|i| {
                let texture = if i % 512 < 200 { 0.1 * ((i * 7 % 13) as f64 / 13.0 - 0.5) } else { 0.0 };
                [0, 1, 2].map(|_| decode_srgb((0.4 + texture + 0.03 * noise()).clamp(0.0, 1.0)))
            })
            .collect();
        let source = Source::from_linear_srgb(512, 320, |x, y| values[(y * 512 + x) as usize]);
        let levels = NoiseLevels::of(&source);
        for level in [levels.luminance[3], levels.colour[3]] {
            assert!((level - 0.03).abs() < 0.003, "{levels:?}");
        }
        let clean = Source::from_linear_srgb(64, 64, |x, _| [x as f64 / 64.0; 3]);
        assert_eq!(NoiseLevels::of(&clean).colour, [LEAST; TONES]);
    }

    #[test]
    fn opponent_axes_come_back() {
        let [y, u, v] = opponent(0.2, 0.7, 0.4);
        for (a, b) in from_opponent(y, u, v).iter().zip([0.2, 0.7, 0.4]) {
            assert!((a - b).abs() < 1e-6);
        }
        assert!((y * y + u * u + v * v - (0.04 + 0.49 + 0.16)).abs() < 1e-5);
    }
}
