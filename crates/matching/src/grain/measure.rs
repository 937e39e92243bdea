//! The noise of a patch, told from its structure.
//!
//! The patch is cut into overlapping blocks. Noise is a floor that every block has at every frequency and orientation;
//! structure stands on it in some of them. So of the blocks of one tone the quieter half at the lowest frequencies
//! speaks (noise at other frequencies knows nothing of it), and in the quieter orientations, of the powers at one
//! distance from the origin, a low quantile: of a periodogram's powers, which are exponentially distributed about their
//! mean (Welch 1967), it is -ln(1 - q) of that mean. What lies over the smooth continuation of the higher frequencies
//! at the lowest ones is structure too. Values are those of the display, 0 to 1.

use amber_core::picture::source::encoded_of_code;
use amber_core::{Region, Source};
use rustfft::num_complex::Complex;
use serde::{Deserialize, Serialize};

use crate::error::MatchError;
use crate::numeric::{BLOCK, SECTORS, Spectrometer, covariance, cycles, sector};

/// Lags of the covariance, in pixels, from 0.
pub const LAGS: usize = 9;
/// Least side of a patch in pixels.
pub const LEAST_PATCH: u32 = 48;
/// Tones that are told apart, from black to white.
const TONES: usize = 10;
/// Blocks of a tone below which it is not told.
const FEWEST: usize = 3;
/// Share of the blocks of a tone, those with the least structure, that speaks.
const QUIETER: f64 = 0.5;
/// Blocks of a tone at most: more tell nothing new.
const MOST: usize = 400;
/// Blocks of a part that are looked at, at most about so many.
const MOST_LOOKED_AT: usize = 3000;
/// Share of the powers of a ring that speaks.
const QUANTILE: f64 = 0.35;
/// Orientations of least power that speak, of twelve.
const QUIET_SECTORS: usize = 4;
/// Rings, one for each cycle over the block.
const RINGS: usize = 23;
/// From this ring on the higher frequencies say how the lowest go on.
const TRUSTED: usize = 4;
/// How far over that they may lie before it is structure.
const STRUCTURE: f64 = 1.35;
/// Luminance of encoded values (BT.709's weights).
const LUMA: [f64; 3] = [0.2126, 0.7152, 0.0722];
/// What is nearer to black or white has lost some of its noise.
const ENDS: [f64; 2] = [0.012, 0.988];

/// Noise at one tone.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct ToneNoise {
    /// Mean encoded luminance, 0 to 1.
    pub tone: f64,
    /// Covariance of encoded luminance at lags of 0, 1, 2 … pixels.
    pub luma: Vec<f64>,
    /// Covariance of the encoded channels at one place.
    pub channels: [[f64; 3]; 3],
    /// Blocks that spoke.
    pub blocks: usize,
}

impl ToneNoise {
    /// Standard deviation of encoded luminance.
    pub fn sigma(&self) -> f64 {
        self.luma[0].max(0.0).sqrt()
    }

    /// Standard deviation of each encoded channel.
    pub fn sigmas(&self) -> [f64; 3] {
        [0, 1, 2].map(|k| self.channels[k][k].max(0.0).sqrt())
    }
}

/// The noise of a patch by tone.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct GrainMeasure {
    /// From dark to light.
    pub tones: Vec<ToneNoise>,
}

/// Pairs of channels whose correlation is told: red and green, green and blue, red and blue.
pub const PAIRS: [(usize, usize); 3] = [(0, 1), (1, 2), (0, 2)];

impl GrainMeasure {
    /// Measures a rectangle of a picture.
    pub fn of(source: &Source, region: Region) -> Result<Self, MatchError> {
        let whole = source.region();
        if region.right() > whole.width || region.bottom() > whole.height {
            return Err(MatchError::PatchOutside { width: whole.width, height: whole.height });
        }
        Self::of_part(source, region)
    }

    fn of_part(source: &Source, region: Region) -> Result<Self, MatchError> {
        let spectrometer = Spectrometer::default();
        let mut by_tone: [Vec<Block>; TONES] = Default::default();
        let Region { width, height, .. } = region;
        if width < LEAST_PATCH || height < LEAST_PATCH {
            return Err(MatchError::SmallPatch { width, height, least: LEAST_PATCH });
        }
        for block in some_corners(region).into_iter().filter_map(|at| Block::of(source, at, &spectrometer)) {
            let tone = ((block.tone * TONES as f64) as usize).min(TONES - 1);
            by_tone[tone].push(block);
        }
        let tones: Vec<ToneNoise> = by_tone.into_iter().filter_map(|blocks| noise_of(blocks, QUIETER)).collect();
        if tones.is_empty() {
            let why = "no part of the patch is free of pure black and white".into();
            return Err(MatchError::TooLittle { why });
        }
        Ok(Self { tones })
    }

    /// Measures even patches, one tone for each, in the same way.
    pub(super) fn of_even(source: &Source, patches: &[Region]) -> Self {
        let spectrometer = Spectrometer::default();
        let measured = |patch: &Region| {
            noise_of(corners(*patch).filter_map(|corner| Block::of(source, corner, &spectrometer)).collect(), QUIETER)
        };
        let mut tones: Vec<ToneNoise> = patches.iter().filter_map(measured).collect();
        tones.sort_by(|a, b| a.tone.total_cmp(&b.tone));
        Self { tones }
    }

    /// The noise at a tone, between measured tones on a straight line; `None` where nothing was measured.
    pub fn at(&self, tone: f64) -> Option<ToneNoise> {
        let above = self.tones.partition_point(|t| t.tone < tone);
        let (Some(low), Some(high)) = (self.tones.get(above.max(1) - 1), self.tones.get(above).or(self.tones.last()))
        else {
            return None;
        };
        let apart = high.tone - low.tone;
        let share = if apart > 0.0 { ((tone - low.tone) / apart).clamp(0.0, 1.0) } else { 0.0 };
        let between = |a: f64, b: f64| a + share * (b - a);
        Some(ToneNoise {
            tone,
            luma: low.luma.iter().zip(&high.luma).map(|(a, b)| between(*a, *b)).collect(),
            channels: std::array::from_fn(|i| {
                std::array::from_fn(|j| between(low.channels[i][j], high.channels[i][j]))
            }),
            blocks: low.blocks.min(high.blocks),
        })
    }

    /// What is left of this noise where other noise is there already: variances and covariances are differences.
    pub fn less(&self, own: &Self) -> Self {
        let left = |tone: &ToneNoise| {
            let own = own.at(tone.tone)?;
            // what is over is over: nothing can be taken away
            let share = (1.0 - own.luma[0] / tone.luma[0].max(1e-12)).max(0.0);
            let difference = |a: f64, b: f64| if share > 0.0 { a - b } else { 0.0 };
            let channel = |i: usize, j: usize| {
                let d = difference(tone.channels[i][j], own.channels[i][j]);
                if i == j { d.max(0.0) } else { d }
            };
            Some(ToneNoise {
                luma: tone.luma.iter().zip(&own.luma).map(|(a, b)| difference(*a, *b)).collect(),
                channels: std::array::from_fn(|i| std::array::from_fn(|j| channel(i, j))),
                ..tone.clone()
            })
        };
        Self { tones: self.tones.iter().map(|t| left(t).unwrap_or_else(|| t.clone())).collect() }
    }

    /// Standard deviation of luminance over all tones: the root of the mean of variances.
    pub fn sigma(&self) -> f64 {
        self.mean(|t| t.luma[0]).max(0.0).sqrt()
    }

    /// Standard deviation of a channel over all tones.
    pub fn sigma_of(&self, channel: usize) -> f64 {
        self.mean(|t| t.channels[channel][channel]).max(0.0).sqrt()
    }

    /// Correlation of luminance at lags of 0, 1, 2 … pixels, over all tones.
    pub fn correlation(&self) -> Vec<f64> {
        let at: Vec<f64> = (0..LAGS).map(|lag| self.mean(|t| t.luma[lag])).collect();
        at.iter().map(|c| if at[0] > 0.0 { c / at[0] } else { 0.0 }).collect()
    }

    /// Distance in pixels at which the correlation has fallen to 1/e, between whole lags on a straight line; of white
    /// noise 0.63.
    pub fn length_px(&self) -> f64 {
        const E: f64 = 0.367_879_441;
        let correlation = self.correlation();
        let fallen = (1..LAGS).find(|lag| correlation[*lag] < E);
        fallen.map_or((LAGS - 1) as f64, |lag| {
            let (before, after) = (correlation[lag - 1], correlation[lag]);
            (lag - 1) as f64 + (before - E) / (before - after)
        })
    }

    /// Correlation between channels, in the order of [`PAIRS`], over all tones.
    pub fn between(&self) -> [f64; 3] {
        PAIRS.map(|(i, j)| {
            let variance = |k: usize| self.mean(|t| t.channels[k][k]).max(0.0);
            let scale = (variance(i) * variance(j)).sqrt();
            if scale > 0.0 { self.mean(|t| t.channels[i][j]) / scale } else { 0.0 }
        })
    }

    /// Mean over the tones, each by the root of its blocks.
    fn mean(&self, of: impl Fn(&ToneNoise) -> f64) -> f64 {
        let weights = || self.tones.iter().map(|t| (t.blocks as f64).sqrt());
        self.tones.iter().zip(weights()).map(|(t, w)| w * of(t)).sum::<f64>() / weights().sum::<f64>()
    }
}

/// Corners of overlapping blocks.
fn corners(region: Region) -> impl Iterator<Item = [u32; 2]> {
    let step = (BLOCK / 2) as u32;
    let along = move |from: u32, length: u32| (from..=from + length - BLOCK as u32).step_by(step as usize);
    along(region.y, region.height).flat_map(move |y| along(region.x, region.width).map(move |x| [x, y]))
}

/// Corners of blocks, thinned out where there are more than tell anything new.
fn some_corners(region: Region) -> Vec<[u32; 2]> {
    let all: Vec<[u32; 2]> = corners(region).collect();
    let every = all.len().div_ceil(MOST_LOOKED_AT).max(1);
    // not along a line: a step that shares no divisor with the blocks across
    all.into_iter().enumerate().filter(|(i, _)| (i * 7919) % every == 0).map(|(_, corner)| corner).collect()
}

/// A block's tone and the transforms of its channels and luminance.
struct Block {
    tone: f64,
    /// Power of luminance at the lowest frequencies: how much structure there is.
    low: f64,
    /// Red, green, blue, luminance.
    transforms: [Vec<Complex<f64>>; 4],
}

impl Block {
    fn of(source: &Source, [x, y]: [u32; 2], spectrometer: &Spectrometer) -> Option<Self> {
        let encoded = encoded_of_code();
        let mut values: [Vec<f64>; 4] = std::array::from_fn(|_| Vec::with_capacity(BLOCK * BLOCK));
        let mut clipped = 0;
        for row in y..y + BLOCK as u32 {
            for p in source.row(row, x, BLOCK as u32).chunks_exact(3) {
                let rgb = [p[0], p[1], p[2]].map(|code| f64::from(encoded[code as usize]));
                let luma: f64 = rgb.iter().zip(LUMA).map(|(v, w)| v * w).sum();
                clipped += usize::from(!(ENDS[0]..=ENDS[1]).contains(&luma));
                rgb.into_iter().chain([luma]).zip(&mut values).for_each(|(v, plane)| plane.push(v));
            }
        }
        if clipped > BLOCK * BLOCK / 50 {
            return None;
        }
        let tone = values[3].iter().sum::<f64>() / (BLOCK * BLOCK) as f64;
        let transforms = values.each_ref().map(|v| spectrometer.transform(v));
        let is_low = |i: &usize| (0.5..2.5).contains(&cycles(*i));
        let low = (0..BLOCK * BLOCK).filter(is_low).map(|i| transforms[3][i].norm_sqr()).sum();
        Some(Self { tone, low, transforms })
    }
}

/// The noise of the blocks of one tone, of which a share, the quieter ones, speaks.
fn noise_of(mut blocks: Vec<Block>, quieter: f64) -> Option<ToneNoise> {
    if blocks.len() < FEWEST {
        return None;
    }
    blocks.sort_by(|a, b| a.low.total_cmp(&b.low));
    blocks.truncate(((blocks.len() as f64 * quieter) as usize).max(FEWEST).min(MOST));
    let quiet = quiet_sectors(&blocks);
    let floor = |of: usize| Floor::of(&blocks, &quiet, |b, i| b.transforms[of][i].norm_sqr());
    let floors: [Floor; 4] = std::array::from_fn(floor);
    let luma = covariance(LAGS, |c| floors[3].at(c));
    let variance: Vec<f64> = floors[..3].iter().map(|f| covariance(1, |c| f.at(c))[0]).collect();
    let together = together(&blocks, &quiet, &floors[3]);
    let channels = std::array::from_fn(|i| {
        std::array::from_fn(|j| if i == j { variance[i] } else { together[i][j] * (variance[i] * variance[j]).sqrt() })
    });
    let tone = blocks.iter().map(|b| b.tone).sum::<f64>() / blocks.len() as f64;
    Some(ToneNoise { tone, luma, channels, blocks: blocks.len() })
}

/// The orientations in which there is least: lines, edges and weaves lie in some of them alone, noise in all.
fn quiet_sectors(blocks: &[Block]) -> [bool; SECTORS] {
    let mut powers: [Vec<f64>; SECTORS] = Default::default();
    for i in (0..BLOCK * BLOCK).filter(|i| i / BLOCK <= BLOCK / 2 && (4.0..15.0).contains(&cycles(*i))) {
        let of = |b: &Block| (b.transforms[3][i].norm_sqr() * cycles(i)).max(1e-12).ln();
        powers[sector(i)].extend(blocks.iter().map(of));
    }
    let means = powers.map(|p| p.iter().sum::<f64>() / p.len().max(1) as f64);
    let mut sorted = means;
    sorted.sort_by(f64::total_cmp);
    means.map(|m| m <= sorted[QUIET_SECTORS - 1])
}

/// Correlation of the channels where luminance is no higher than its floor allows.
fn together(blocks: &[Block], quiet: &[bool; SECTORS], luma: &Floor) -> [[f64; 3]; 3] {
    let mut sums = [[0.0; 3]; 3];
    for block in blocks {
        for i in (0..BLOCK * BLOCK).filter(|i| cycles(*i) >= TRUSTED as f64 && quiet[sector(*i)]) {
            if block.transforms[3][i].norm_sqr() > 2.5 * luma.at(cycles(i)) {
                continue;
            }
            let at = [0, 1, 2].map(|k| block.transforms[k][i]);
            for (a, row) in sums.iter_mut().enumerate() {
                for (b, sum) in row.iter_mut().enumerate() {
                    *sum += (at[a] * at[b].conj()).re;
                }
            }
        }
    }
    let scale = |a: usize, b: usize| (sums[a][a] * sums[b][b]).sqrt().max(1e-30);
    std::array::from_fn(|a| std::array::from_fn(|b| sums[a][b] / scale(a, b)))
}

/// Mean power of the noise by distance from the origin.
struct Floor {
    rings: [f64; RINGS],
}

impl Floor {
    fn of(blocks: &[Block], quiet: &[bool; SECTORS], power: impl Fn(&Block, usize) -> f64) -> Self {
        let mut found: [Vec<f64>; RINGS] = Default::default();
        // the other half of the plane is the same once more
        for i in (0..BLOCK * BLOCK).filter(|i| i / BLOCK <= BLOCK / 2 && quiet[sector(*i)]) {
            let ring = (cycles(i).round() as usize).min(RINGS - 1);
            found[ring].extend(blocks.iter().map(|b| power(b, i)));
        }
        let mut rings = found.map(|mut powers| {
            powers.sort_by(f64::total_cmp);
            let at = (powers.len() as f64 * QUANTILE) as usize;
            powers.get(at).map_or(0.0, |p| p / -(1.0 - QUANTILE).ln())
        });
        let level = continued(&rings);
        for (ring, most) in level.iter().enumerate() {
            if ring < 2 || rings[ring] > STRUCTURE * most {
                rings[ring] = *most;
            }
        }
        Self { rings }
    }

    /// At so many cycles over the block, between rings on a straight line.
    fn at(&self, cycles: f64) -> f64 {
        let at = cycles.min((RINGS - 1) as f64);
        let ring = (at as usize).min(RINGS - 2);
        self.rings[ring] + (self.rings[ring + 1] - self.rings[ring]) * (at - ring as f64)
    }
}

/// The most that the lowest rings can be, by how the next go on: ln S is a line over the square of the frequency, as of
/// a Gaussian, through the trusted rings.
fn continued(rings: &[f64; RINGS]) -> [f64; TRUSTED] {
    let points: Vec<[f64; 2]> = (TRUSTED..TRUSTED + 4).map(|r| [(r * r) as f64, rings[r].max(1e-12).ln()]).collect();
    let count = points.len() as f64;
    let mean = |k: usize| points.iter().map(|p| p[k]).sum::<f64>() / count;
    let (x, y) = (mean(0), mean(1));
    let slope = points.iter().map(|p| (p[0] - x) * (p[1] - y)).sum::<f64>()
        / points.iter().map(|p| (p[0] - x).powi(2)).sum::<f64>();
    let slope = slope.min(0.0);
    std::array::from_fn(|r| (y + slope * ((r * r) as f64 - x)).exp())
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_core::colour::transfer::decode_srgb;

    /// Normal noise, white, of a linear congruential generator.
    fn noise(seed: u32) -> impl FnMut() -> f64 {
        let mut state = seed;
        move || {
            let mut uniform = || {
                state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
                f64::from(state >> 8) / f64::from(1 << 24)
            };
            (0..12).map(|_| uniform()).sum::<f64>() - 6.0
        }
    }

    /// Luminance noise of a deviation, averaged over squares of `spread` pixels (its correlation falls linearly to 0 at
    /// `spread`), on some structure.
    fn picture(side: u32, sigma: f64, spread: usize, structure: impl Fn(u32, u32) -> f64) -> Source {
        let wide = side as usize + spread;
        let mut next = noise(7);
        let white: Vec<f64> = (0..wide * wide).map(|_| next()).collect();
        Source::from_linear_srgb(side, side, |x, y| {
            let mut sum = 0.0;
            for dy in 0..spread {
                for dx in 0..spread {
                    sum += white[(y as usize + dy) * wide + x as usize + dx];
                }
            }
            let value = structure(x, y) + sigma * sum / spread as f64;
            [decode_srgb(value.clamp(0.0, 1.0)); 3]
        })
    }

    #[test]
    fn noise_on_a_flat_patch_is_read() {
        for (spread, length) in [(1, 0.632), (2, 1.264), (3, 1.896)] {
            let source = picture(256, 0.03, spread, |x, _| 0.4 + 0.1 * f64::from(x) / 256.0);
            let found = GrainMeasure::of(&source, source.region()).unwrap();
            println!("{spread}: {} {}", found.sigma(), found.length_px());
            assert!((found.sigma() / 0.03 - 1.0).abs() < 0.09, "{spread}: {}", found.sigma());
            assert!((found.length_px() / length - 1.0).abs() < 0.12, "{spread}: {}", found.length_px());
            assert!(found.between().iter().all(|r| *r > 0.99));
        }
    }

    /// A weave, and blades of grass: lines of many lengths and slants over one another.
    #[test]
    fn structure_is_passed_over() {
        let weave = |x: u32, y: u32| {
            let turn = |v: u32, period: f64| (std::f64::consts::TAU * f64::from(v) / period).sin();
            0.45 + 0.06 * turn(x, 5.0) * turn(y, 7.0).signum() + 0.04 * turn(y, 6.3)
        };
        let mut next = noise(3);
        let side = 256usize;
        let mut grass = vec![0.4; side * side];
        for _ in 0..900 {
            let [x, y, lean] = [128.0 + 42.0 * next(), 128.0 + 42.0 * next(), 0.5 * next()];
            let (tone, length) = (0.4 + 0.07 * next(), 14.0 + 5.0 * next());
            for step in 0..(2.0 * length).max(4.0) as usize {
                let up = step as f64 / 2.0;
                let at = [(x + lean * up) as usize, (y - up) as usize];
                if at[0] + 1 < side && at[1] < side {
                    grass[at[1] * side + at[0]] = tone;
                    grass[at[1] * side + at[0] + 1] = tone;
                }
            }
        }
        let grass = |x: u32, y: u32| grass[y as usize * side + x as usize];
        for (what, structure) in [("weave", &weave as &dyn Fn(u32, u32) -> f64), ("grass", &grass)] {
            for spread in [1, 2] {
                let source = picture(side as u32, 0.025, spread, structure);
                let found = GrainMeasure::of(&source, source.region()).unwrap();
                println!("{what} {spread}: {} {}", found.sigma(), found.length_px());
                assert!((found.sigma() / 0.025 - 1.0).abs() < 0.2, "{what} {spread}: {}", found.sigma());
            }
        }
    }

    #[test]
    fn what_cannot_be_measured_is_said() {
        let black = Source::from_linear_srgb(64, 64, |_, _| [0.0; 3]);
        let error = GrainMeasure::of(&black, black.region()).unwrap_err().to_string();
        assert!(error.contains("too little"), "{error}");
        let error = GrainMeasure::of(&black, Region::new(0, 0, 20, 64)).unwrap_err().to_string();
        assert!(error.contains("20 × 64"), "{error}");
        assert!(GrainMeasure::of(&black, Region::new(10, 0, 60, 60)).is_err());
    }
}
