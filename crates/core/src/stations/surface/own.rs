//! A picture of one's own as a sheet.

use std::sync::{Arc, OnceLock};

use multiversion::multiversion;

use super::matter::{Colours, Matter, Neutral, Stuff};
use super::placing::{Ground, Laid, Placing, Window};
use crate::controls::choices;

choices! {
    /// How a picture is laid.
    pub enum Fit {
        Once = "once", "Once";
        Stretch = "stretch", "Stretched";
        Repeat = "repeat", "Repeated";
    }
}

/// The picture at one size: encoded sRGB and what covers, interleaved, 8 bits each.
#[derive(Debug, Clone, PartialEq)]
struct Level {
    width: usize,
    height: usize,
    rgba: Vec<u8>,
}

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

    /// Colours of a line where four pixels that cover meet and no edge is near; elsewhere nothing covers yet.
    fn line_within(&self, place: &impl Fn(usize) -> [f64; 2], soft: [f64; 2], rgb: [&mut [f32]; 3], cover: &mut [f32]) {
        // less than half a pixel of the frame from an edge is not within
        let low = soft.map(|s| (0.5 * s - 0.5).max(0.0));
        let high = [self.width as f64 - 1.0 - low[0], self.height as f64 - 1.0 - low[1]];
        line_within(&self.rgba, self.width, place, [low, high], rgb, cover);
    }

    #[inline(always)]
    fn pixel(&self, x: usize, y: usize) -> [u8; 4] {
        let at = 4 * (y * self.width + x);
        [self.rgba[at], self.rgba[at + 1], self.rgba[at + 2], self.rgba[at + 3]]
    }
}

#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
fn line_within(
    rgba: &[u8],
    width: usize,
    place: &impl Fn(usize) -> [f64; 2],
    [low, high]: [[f64; 2]; 2],
    [red, green, blue]: [&mut [f32]; 3],
    cover: &mut [f32],
) {
    for (i, cover) in cover.iter_mut().enumerate() {
        let [x, y] = place(i);
        let (x, y) = (x - 0.5, y - 0.5);
        if x < low[0] || y < low[1] || x >= high[0] || y >= high[1] {
            continue;
        }
        let (column, line) = (x as usize, y as usize);
        let (wx, wy) = ((x - column as f64) as f32, (y - line as f64) as f32);
        let upper = 4 * (line * width + column);
        let (Some(upper), Some(lower)) =
            (rgba.get(upper..upper + 8), rgba.get(upper + 4 * width..upper + 4 * width + 8))
        else {
            continue;
        };
        let mut mixed = [0.0f32; 4];
        for (k, v) in mixed.iter_mut().enumerate() {
            let (a, b) = (f32::from(upper[k]), f32::from(upper[k + 4]));
            let (c, d) = (f32::from(lower[k]), f32::from(lower[k + 4]));
            let (above, below) = (a + wx * (b - a), c + wx * (d - c));
            *v = (above + wy * (below - above)) * (1.0 / 255.0);
        }
        (red[i], green[i], blue[i], *cover) = (mixed[0], mixed[1], mixed[2], 1.0);
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
    fn level(&self, halvings: usize) -> &Level {
        match halvings {
            0 => &self.first,
            n => self.smaller().get(n - 1).or(self.smaller().last()).unwrap_or(&self.first),
        }
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

/// A picture laid on a ground.
pub struct OwnSheet {
    picture: Arc<OwnPicture>,
    /// Micrometres of the sheet that a pixel of the picture takes, across and down.
    um: [f64; 2],
    fit: Fit,
}

/// Micrometres that a pixel of a picture takes at scale 1: it covers the ground, or is stretched to it.
fn pixel_um(size: [u32; 2], fit: Fit, half_um: [f64; 2]) -> [f64; 2] {
    let each = [0, 1].map(|k| 2.0 * half_um[k] / f64::from(size[k]));
    match fit {
        Fit::Stretch => each,
        _ => [each[0].max(each[1]); 2],
    }
}

/// How a picture of a size must be laid so that no edge of it shows, and whether one shows as it is laid.
pub fn covering(size: [u32; 2], fit: Fit, ground: &Ground, laid: &Laid, frame: [u32; 2]) -> (Laid, bool) {
    let placing = Placing::new(ground, laid, frame);
    let um = pixel_um(size, fit, placing.half_um);
    let half = [0, 1].map(|k| 0.5 * um[k] * f64::from(size[k]));
    // a hair's breadth is not an edge
    let growth = placing.growth_to_cover(half, frame);
    let shows = fit != Fit::Repeat && growth > 1.0 + 1e-6;
    (if shows { Laid { scale: laid.scale * growth, ..*laid } } else { *laid }, shows)
}

impl OwnSheet {
    /// On a ground of half a size.
    pub fn new(picture: Arc<OwnPicture>, fit: Fit, half_um: [f64; 2]) -> Self {
        Self { um: pixel_um(picture.size(), fit, half_um), picture, fit }
    }

    /// The picture at every pixel of a window.
    pub fn over(&self, window: &Window) -> Matter {
        let pixels = window.region.pixels();
        let footprint = (window.placing.pixel_um / self.um[0].max(self.um[1])).max(1.0);
        let index = (libm::log2(footprint) + 0.35).floor().max(0.0) as usize;
        let level = self.picture.level(index);
        let full = self.picture.size().map(f64::from);
        // a level's pixel, from its own count: an odd side's half is a little wider than half
        let per = [level.width as f64 / (full[0] * self.um[0]), level.height as f64 / (full[1] * self.um[1])];
        // pixels of the level that one of the frame is wide
        let soft = per.map(|per| per * window.placing.pixel_um);
        let (mut rgb, mut cover) = ([vec![0.0; pixels], vec![0.0; pixels], vec![0.0; pixels]], vec![0.0; pixels]);
        let region = &window.region;
        let width = region.width as usize;
        let [red, green, blue] = &mut rgb;
        let lines = red.chunks_exact_mut(width).zip(green.chunks_exact_mut(width)).zip(blue.chunks_exact_mut(width));
        for ((y, ((r, g), b)), cover) in (region.y..).zip(lines).zip(cover.chunks_exact_mut(width)) {
            let place = |column: usize| {
                let [u, v] = window.placing.on_sheet(f64::from(region.x) + column as f64 + 0.5, f64::from(y) + 0.5);
                [u * per[0] + 0.5 * level.width as f64, v * per[1] + 0.5 * level.height as f64]
            };
            if self.picture.opaque {
                level.line_within(&place, soft, [r, g, b], cover);
            }
            for i in (0..width).filter(|i| cover[*i] == 0.0).collect::<Vec<_>>() {
                if let Some(sampled) = self.sampled(level, place(i), soft) {
                    [r[i], g[i], b[i], cover[i]] = sampled;
                }
            }
        }
        Stuff::Paint { rgb: Colours::Rgb(rgb), cover, neutral: Neutral::White }.into()
    }

    /// Colour and cover at a place of a level, in its pixels; `None` beyond its edges.
    fn sampled(&self, level: &Level, at: [f64; 2], soft: [f64; 2]) -> Option<[f32; 4]> {
        let sides = [level.width, level.height];
        let mut corners = [[0usize; 2]; 2];
        let mut shares = [0.0f32; 2];
        let mut edge = 1.0f32;
        for k in 0..2 {
            let side = sides[k] as f64;
            // its edge is as soft as a pixel of the frame, and no softer
            if self.fit != Fit::Repeat {
                let inside = (at[k].min(side - at[k]) + 1e-6) / soft[k] + 0.5;
                if inside <= 0.0 {
                    return None;
                }
                edge *= inside.min(1.0) as f32;
            }
            let place = at[k] - 0.5;
            let below = place.floor();
            shares[k] = (place - below) as f32;
            let of = |i: i64| match self.fit {
                Fit::Repeat => {
                    let within = i.rem_euclid(2 * sides[k] as i64) as usize;
                    if within < sides[k] { within } else { 2 * sides[k] - 1 - within }
                }
                _ => i.clamp(0, sides[k] as i64 - 1) as usize,
            };
            corners[k] = [of(below as i64), of(below as i64 + 1)];
        }
        let mut sum = [0.0f32; 4];
        for (dy, wy) in [1.0 - shares[1], shares[1]].into_iter().enumerate() {
            for (dx, wx) in [1.0 - shares[0], shares[0]].into_iter().enumerate() {
                let p = level.pixel(corners[0][dx], corners[1][dy]).map(|v| f32::from(v) * (1.0 / 255.0));
                let weight = wx * wy * p[3];
                (0..3).for_each(|k| sum[k] += weight * p[k]);
                sum[3] += weight;
            }
        }
        let cover = sum[3];
        (cover > 0.0).then(|| [sum[0] / cover, sum[1] / cover, sum[2] / cover, cover * edge])
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    const GROUND: Ground = Ground { middle: [0.5; 2], size: [1.0; 2], width_um: 36_000.0 };

    fn picture(width: u32, height: u32) -> Arc<OwnPicture> {
        let of = |i: u32| [(i * 7 % 251) as u8, (i * 13 % 241) as u8, (i % 233) as u8, 255];
        Arc::new(OwnPicture::new(width, height, (0..width * height).flat_map(of).collect()).unwrap())
    }

    fn laid(picture: &Arc<OwnPicture>, fit: Fit, laid: Laid, size: [u32; 2]) -> ([Vec<f32>; 3], Vec<f32>) {
        let placing = Placing::new(&GROUND, &laid, size);
        let sheet = OwnSheet::new(picture.clone(), fit, placing.half_um);
        let window = Window { region: Region::whole(size[0], size[1]), placing: &placing };
        match sheet.over(&window).stuff {
            Stuff::Paint { rgb, cover, .. } => ([0, 1, 2].map(|k| rgb.plane(k).to_vec()), cover),
            other => panic!("{other:?}"),
        }
    }

    /// A picture of the frame's own size lies on it pixel by pixel.
    #[test]
    fn it_covers_the_frame_exactly() {
        let picture = picture(90, 60);
        let (rgb, cover) = laid(&picture, Fit::Once, Laid::PLAIN, [90, 60]);
        for i in 0..90 * 60 {
            assert!((rgb[0][i] * 255.0 - (i * 7 % 251) as f32).abs() < 1e-3, "{i}");
            assert_eq!(cover[i], 1.0);
        }
        let turned = laid(&picture, Fit::Once, Laid { degrees: 180.0, ..Laid::PLAIN }, [90, 60]).0;
        let mirrored = laid(&picture, Fit::Once, Laid { mirrored: [true, true], ..Laid::PLAIN }, [90, 60]).0;
        assert_eq!(turned, mirrored);
    }

    #[test]
    fn once_has_edges_and_repeated_has_none() {
        let picture = picture(64, 64);
        let half = Laid { scale: 0.5, ..Laid::PLAIN };
        let (_, cover) = laid(&picture, Fit::Once, half, [96, 64]);
        assert_eq!((cover[0], cover[32 * 96 + 48]), (0.0, 1.0));
        let (_, cover) = laid(&picture, Fit::Repeat, half, [96, 64]);
        assert!(cover.iter().all(|c| (c - 1.0).abs() < 1e-6));
        let (_, shows) = covering([64, 64], Fit::Once, &GROUND, &half, [96, 64]);
        let (grown, _) = covering([64, 64], Fit::Once, &GROUND, &half, [96, 64]);
        assert!(shows && (grown.scale - 1.0).abs() < 1e-9, "{grown:?}");
        assert!(!covering([64, 64], Fit::Repeat, &GROUND, &half, [96, 64]).1);
        assert!(laid(&picture, Fit::Once, grown, [96, 64]).1.iter().all(|c| (c - 1.0).abs() < 1e-6));
        let turned = Laid { degrees: 30.0, ..Laid::PLAIN };
        let (grown, shows) = covering([64, 64], Fit::Stretch, &GROUND, &turned, [96, 64]);
        assert!(shows && laid(&picture, Fit::Stretch, grown, [96, 64]).1.iter().all(|c| (c - 1.0).abs() < 1e-6));
    }

    /// What is transparent has no colour to give to its neighbours.
    #[test]
    fn halves_weigh_by_cover() {
        let rgba = [[255, 0, 0, 255], [0, 255, 0, 0]].concat().repeat(32);
        let picture = OwnPicture::new(8, 8, rgba).unwrap();
        assert_eq!(picture.level(1).pixel(1, 1), [255, 0, 0, 128]);
        assert!(OwnPicture::new(8, 8, vec![0; 3]).is_none() && OwnPicture::new(0, 8, vec![]).is_none());
    }
}
