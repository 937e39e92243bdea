//! Pictures of one's own that are laid on others: what they hold, at every size that is asked for, and where they come
//! from.

use std::sync::{Arc, OnceLock};

use multiversion::multiversion;

/// The picture at one size: encoded sRGB and what covers, interleaved, 8 bits each.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Level {
    pub width: usize,
    pub height: usize,
    rgba: Vec<u8>,
}

/// Cover of what has not been looked at.
pub(crate) const NOT_YET: f32 = -1.0;

/// A picture of one's own, and its halves down to a few pixels.
#[derive(Debug, Clone)]
pub struct OwnPicture {
    first: Level,
    /// Made when one of them is asked for.
    smaller: OnceLock<Vec<Level>>,
    /// All of it covers.
    opaque: bool,
}

impl Level {
    /// Half of it; colours count by how much they cover.
    fn halved(&self) -> Self {
        let (width, height) = (self.width.div_ceil(2), self.height.div_ceil(2));
        let mut rgba = Vec::with_capacity(4 * width * height);
        for y in 0..height {
            for x in 0..width {
                let mut sum = [0u32; 4];
                for (dx, dy) in [(0, 0), (1, 0), (0, 1), (1, 1)] {
                    let p = self.pixel((2 * x + dx).min(self.width - 1), (2 * y + dy).min(self.height - 1));
                    let cover = u32::from(p[3]);
                    (0..3).for_each(|k| sum[k] += u32::from(p[k]) * cover);
                    sum[3] += cover;
                }
                let of = |v: u32| (v + sum[3] / 2).checked_div(sum[3]).unwrap_or(0) as u8;
                rgba.extend([of(sum[0]), of(sum[1]), of(sum[2]), ((sum[3] + 2) / 4) as u8]);
            }
        }
        Self { width, height, rgba }
    }

    /// Colours and cover of a line where no edge is near; elsewhere the cover stays [`NOT_YET`].
    pub fn line_within(
        &self,
        opaque: bool,
        place: &impl Fn(usize) -> [f64; 2],
        soft: [f64; 2],
        rgb: [&mut [f32]; 3],
        cover: &mut [f32],
    ) {
        // less than half a pixel of the frame from an edge is not within
        let low = soft.map(|s| (0.5 * s - 0.5).max(0.0));
        let high = [self.width as f64 - 1.0 - low[0], self.height as f64 - 1.0 - low[1]];
        match opaque {
            true => line_within(&self.rgba, self.width, place, [low, high], rgb, cover, opaque_between),
            false => line_within(&self.rgba, self.width, place, [low, high], rgb, cover, covering_between),
        }
    }

    /// Colour and cover of a pixel.
    #[inline(always)]
    pub fn pixel(&self, x: usize, y: usize) -> [u8; 4] {
        let at = 4 * (y * self.width + x);
        [self.rgba[at], self.rgba[at + 1], self.rgba[at + 2], self.rgba[at + 3]]
    }
}

/// Two pixels beside one another.
type Pair = [u8; 8];

/// Colour and cover between four pixels that cover.
#[inline(always)]
fn opaque_between([upper, lower]: [&Pair; 2], [wx, wy]: [f32; 2]) -> [f32; 4] {
    let mixed = |k: usize| {
        let (a, b) = (f32::from(upper[k]), f32::from(upper[k + 4]));
        let (c, d) = (f32::from(lower[k]), f32::from(lower[k + 4]));
        let (above, below) = (a + wx * (b - a), c + wx * (d - c));
        (above + wy * (below - above)) * (1.0 / 255.0)
    };
    [mixed(0), mixed(1), mixed(2), 1.0]
}

/// Colour and cover between four pixels, the colours weighed by how much each covers.
#[inline(always)]
pub(crate) fn covering_between([upper, lower]: [&Pair; 2], [wx, wy]: [f32; 2]) -> [f32; 4] {
    if upper[3] | upper[7] | lower[3] | lower[7] == 0 {
        return [0.0; 4];
    }
    let mut sum = [0.0f32; 4];
    for (pair, wy) in [(upper, 1.0 - wy), (lower, wy)] {
        for (pixel, wx) in [(0, 1.0 - wx), (4, wx)] {
            let p = |k: usize| f32::from(pair[pixel + k]) * (1.0 / 255.0);
            let weight = wx * wy * p(3);
            (0..3).for_each(|k| sum[k] += weight * p(k));
            sum[3] += weight;
        }
    }
    let cover = sum[3];
    if cover > 0.0 { [sum[0] / cover, sum[1] / cover, sum[2] / cover, cover] } else { [0.0; 4] }
}

#[multiversion(targets("x86_64+avx2"))]
fn line_within(
    rgba: &[u8],
    width: usize,
    place: &impl Fn(usize) -> [f64; 2],
    [low, high]: [[f64; 2]; 2],
    [red, green, blue]: [&mut [f32]; 3],
    cover: &mut [f32],
    between: impl Fn([&Pair; 2], [f32; 2]) -> [f32; 4],
) {
    for (i, cover) in cover.iter_mut().enumerate() {
        let [x, y] = place(i);
        let (x, y) = (x - 0.5, y - 0.5);
        if x < low[0] || y < low[1] || x >= high[0] || y >= high[1] {
            continue;
        }
        let (column, line) = (x as usize, y as usize);
        let shares = [(x - column as f64) as f32, (y - line as f64) as f32];
        let pair = |at: usize| rgba.get(at..)?.first_chunk::<8>();
        let upper = 4 * (line * width + column);
        if let (Some(upper), Some(lower)) = (pair(upper), pair(upper + 4 * width)) {
            [red[i], green[i], blue[i], *cover] = between([upper, lower], shares);
        }
    }
}

impl OwnPicture {
    /// Of interleaved encoded sRGB and cover; `None` where the numbers do not make a picture.
    pub fn new(width: u32, height: u32, rgba: Vec<u8>) -> Option<Self> {
        let (width, height) = (width as usize, height as usize);
        if width == 0 || height == 0 || rgba.len() != 4 * width * height {
            return None;
        }
        let opaque = rgba.chunks_exact(4).all(|p| p[3] == 255);
        Some(Self { first: Level { width, height, rgba }, smaller: OnceLock::new(), opaque })
    }

    /// Its halves, and theirs, down to a few pixels.
    fn smaller(&self) -> &[Level] {
        self.smaller.get_or_init(|| {
            let mut levels: Vec<Level> = Vec::new();
            while let Some(last) = levels.last().or(Some(&self.first)).filter(|l| l.width.max(l.height) > 4) {
                let next = last.halved();
                levels.push(next);
            }
            levels
        })
    }

    /// The picture halved so many times, or as often as it can be.
    pub(crate) fn level(&self, halvings: usize) -> &Level {
        match halvings {
            0 => &self.first,
            n => self.smaller().get(n - 1).or(self.smaller().last()).unwrap_or(&self.first),
        }
    }

    /// Whether all of it covers.
    pub fn is_opaque(&self) -> bool {
        self.opaque
    }

    /// Width and height.
    pub fn size(&self) -> [u32; 2] {
        [self.first.width as u32, self.first.height as u32]
    }

    /// The smallest of its sizes that is at least as long as an edge: width, height and sRGB on mid grey, interleaved.
    pub fn small(&self, edge: u32) -> (u32, u32, Vec<u8>) {
        let long_enough = |level: &&Level| level.width.max(level.height) >= edge as usize;
        let level = self.smaller().iter().rev().find(long_enough).unwrap_or(&self.first);
        let on_grey = |p: &[u8]| {
            let cover = u32::from(p[3]);
            [0, 1, 2].map(|k| ((u32::from(p[k]) * cover + 128 * (255 - cover) + 127) / 255) as u8)
        };
        let pixels = level.rgba.chunks_exact(4).flat_map(on_grey).collect();
        (level.width as u32, level.height as u32, pixels)
    }

    /// Bytes of all its sizes.
    pub fn bytes(&self) -> usize {
        self.first.rgba.len() / 3 * 4
    }
}

/// Where one's own pictures come from.
pub trait OwnPictures: Send + Sync {
    /// The picture with a content hash; `None` where it is not there.
    fn picture(&self, hash: &str) -> Option<Arc<OwnPicture>>;
}

/// There are none.
pub struct NoPictures;

impl OwnPictures for NoPictures {
    fn picture(&self, _hash: &str) -> Option<Arc<OwnPicture>> {
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What is transparent has no colour to give to its neighbours.
    #[test]
    fn halves_weigh_by_cover() {
        let rgba = [[255, 0, 0, 255], [0, 255, 0, 0]].concat().repeat(32);
        let picture = OwnPicture::new(8, 8, rgba).unwrap();
        assert_eq!(picture.level(1).pixel(1, 1), [255, 0, 0, 128]);
        assert!(OwnPicture::new(8, 8, vec![0; 3]).is_none() && OwnPicture::new(0, 8, vec![]).is_none());
    }
}
