//! Ranges of hue and of tone, read from the decoded picture.
//!
//! Hue is Oklab's; a colour counts the more the stronger it is, for a grey has no hue. Tone is luminance in zones, V at
//! mid grey, before exposure.

use multiversion::multiversion;

use super::Range;
use crate::colour::oklab::WideToOklab;
use crate::colour::space::MID_GREY;
use crate::colour::space::{SRGB_LUMINANCE, SRGB_TO_WIDE};
use crate::numeric::{log2, smooth_share};
use crate::picture::source::linear_of_code;
use crate::picture::{Region, Source};

/// Chroma over lightness below which a colour has no hue for a mask, and above which it has.
const COLOURED: [f32; 2] = [0.015, 0.05];
/// Light below which black is black, relative to mid grey.
const FLOOR: f32 = 1.0 / 1024.0;
/// Hardest border of a hue range in degrees and of a tone range in zones.
const HARDEST: [f64; 2] = [1.0, 0.05];

/// Hue in degrees, colourfulness (chroma over lightness) and zone of a place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reading {
    /// Oklab hue.
    pub hue_degrees: f64,
    /// Oklab chroma.
    pub colourfulness: f64,
    /// Zone of its luminance: V is mid grey.
    pub zone: f64,
}

/// What a range would find on average over a region of the decoded picture.
pub fn read(source: &Source, region: Region) -> Reading {
    let linear = linear_of_code();
    let mut mean = [0.0f64; 3];
    for y in region.y..region.bottom() {
        for codes in source.row(y, region.x, region.width).chunks_exact(3) {
            mean.iter_mut().zip(codes).for_each(|(m, c)| *m += f64::from(linear[*c as usize]));
        }
    }
    let rgb = mean.map(|v| (v / region.pixels().max(1) as f64) as f32);
    let (a, b) = colour(&WideToOklab::new(), &SRGB_TO_WIDE.to_f32(), rgb);
    Reading {
        hue_degrees: f64::from(libm::atan2f(b, a).to_degrees().rem_euclid(360.0)),
        colourfulness: f64::from((a * a + b * b).sqrt()),
        zone: f64::from(zone(rgb)),
    }
}

#[inline(always)]
fn zone([r, g, b]: [f32; 3]) -> f32 {
    let w = SRGB_LUMINANCE.map(|v| v as f32);
    5.0 + log2(((w[0] * r + w[1] * g + w[2] * b) * (1.0 / MID_GREY)).max(0.0) + FLOOR)
}

/// Oklab's a and b over L.
#[inline(always)]
fn colour(oklab: &WideToOklab, to_wide: &[[f32; 3]; 3], [r, g, b]: [f32; 3]) -> (f32, f32) {
    let wide = [0, 1, 2].map(|k| to_wide[k][0] * r + to_wide[k][1] * g + to_wide[k][2] * b);
    let [l, a, b] = oklab.lab(wide);
    let per = 1.0 / l.max(0.02);
    (a * per, b * per)
}

/// 1 within `low..=high`, fading over the feathers.
#[inline(always)]
fn inside(v: f32, low: f32, high: f32, per: [f32; 2]) -> f32 {
    smooth_share((1.0 + (v - low) * per[0]).min(1.0 + (high - v) * per[1]))
}

fn per_feather(range: &Range, hardest: f64) -> [f32; 2] {
    range.feather.map(|f| 1.0 / f.max(hardest) as f32)
}

pub(super) fn tone(range: &Range, source: &Source, region: Region) -> Vec<f32> {
    let per = per_feather(range, HARDEST[1]);
    over(source, region, |rgb, out| tones(rgb, out, [range.low as f32, range.high as f32], per))
}

pub(super) fn hue(range: &Range, source: &Source, region: Region) -> Vec<f32> {
    let per = per_feather(range, HARDEST[0]);
    let half = 0.5 * (range.high - range.low).rem_euclid(360.0);
    let centre = range.low + half;
    let (oklab, to_wide) = (WideToOklab::new(), SRGB_TO_WIDE.to_f32());
    over(source, region, |rgb, out| {
        for (pixel, o) in rgb.iter().zip(out) {
            let (a, b) = colour(&oklab, &to_wide, *pixel);
            let from = libm::atan2f(b, a).to_degrees() - centre as f32;
            let from = from - 360.0 * (from / 360.0).round();
            let coloured = ((a * a + b * b).sqrt() - COLOURED[0]) / (COLOURED[1] - COLOURED[0]);
            *o = inside(from, -half as f32, half as f32, per) * coloured.clamp(0.0, 1.0);
        }
    })
}

/// Row by row in linear light.
fn over(source: &Source, region: Region, act: impl Fn(&[[f32; 3]], &mut [f32])) -> Vec<f32> {
    let linear = linear_of_code();
    let mut out = vec![0.0; region.pixels()];
    let mut row = vec![[0.0f32; 3]; region.width as usize];
    for (y, line) in (region.y..region.bottom()).zip(out.chunks_exact_mut(region.width as usize)) {
        for (rgb, codes) in row.iter_mut().zip(source.row(y, region.x, region.width).chunks_exact(3)) {
            *rgb = [0, 1, 2].map(|k| linear[codes[k] as usize]);
        }
        act(&row, line);
    }
    out
}

#[multiversion(targets("x86_64+avx2"))]
fn tones(rgb: &[[f32; 3]], out: &mut [f32], [low, high]: [f32; 2], per: [f32; 2]) {
    for (pixel, o) in rgb.iter().zip(out) {
        *o = inside(zone(*pixel), low, high, per);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tones_are_found_with_a_feather_for_each_side() {
        let source = Source::from_linear_srgb(11, 1, |x, _| [0.18 * 2f64.powi(x as i32 - 5); 3]);
        let range = Range { low: 4.0, high: 6.0, feather: [0.0, 2.0] };
        let found = tone(&range, &source, source.region());
        assert!(found[3] == 0.0 && found[5] == 1.0 && found[8] < 0.02, "{found:?}");
        assert!((found[7] - 0.5).abs() < 0.02 && found[4] > 0.9, "{found:?}");
        assert!((read(&source, Region::new(5, 0, 1, 1)).zone - 5.0).abs() < 0.01);
    }

    #[test]
    fn a_hue_is_found_at_every_lightness_and_grey_is_not() {
        let red = [0.5, 0.05, 0.04];
        let colours = [red, red.map(|v| 0.2 * v), [0.05, 0.3, 0.06], [0.2; 3]];
        let source = Source::from_linear_srgb(4, 1, |x, _| colours[x as usize]);
        let at = read(&source, Region::new(0, 0, 1, 1));
        let range = Range { low: at.hue_degrees - 10.0, high: at.hue_degrees + 10.0, feather: [15.0, 15.0] };
        let found = hue(&range, &source, source.region());
        assert!(found[0] > 0.99 && found[1] > 0.99 && found[2] == 0.0 && found[3] == 0.0, "{found:?}");
        // across the end of the circle
        let round = Range { low: range.low + 360.0, high: range.high + 360.0, ..range };
        assert!(hue(&round, &source, source.region())[0] > 0.99);
    }
}
