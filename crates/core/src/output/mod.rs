//! From reflectance to display: gamut mapping and encoding, once, at the end.

pub(crate) mod fit;
mod sharpen;
mod space;

pub use fit::Fit;
use fit::{Turn, turn};
pub use sharpen::{Sharpen, Sharpening};
pub use space::{Colours, OutputSpace};

use multiversion::multiversion;

use crate::colour::gamut::Compressor;
use crate::colour::rooted;
use crate::colour::space::WIDE_TO_SRGB;
use crate::colour::transfer::encode_srgb_f32;
use crate::numeric::log_exp::whole_part;
use crate::numeric::runs::{RUN, each_pixel, in_runs};
use crate::picture::Picture;
use crate::picture::buffer::{Display, Reflectance};

/// From linear working-space RGB to encoded sRGB, prepared for pixel loops.
#[derive(Debug, Clone, Copy)]
pub struct Encoder {
    to_srgb: [[f32; 3]; 3],
    gamut: Compressor,
}

impl Default for Encoder {
    fn default() -> Self {
        Self { to_srgb: WIDE_TO_SRGB.to_f32(), gamut: Compressor::default() }
    }
}

impl Encoder {
    /// Encoded sRGB of a colour; what is brighter than white stays brighter: still to be brought into range.
    #[inline(always)]
    pub fn unbounded(&self, [r, g, b]: [f32; 3]) -> [f32; 3] {
        let [x, y, z] = turn(&self.to_srgb, [r, g, b]);
        let [x, y, z] = self.gamut.unbounded(x, y, z);
        [encode_srgb_f32(x.max(0.0)), encode_srgb_f32(y.max(0.0)), encode_srgb_f32(z.max(0.0))]
    }
}

/// The offset of sRGB's encoding: (encoded + offset) is a power of the light, so a factor on light is one on it.
const OFFSET: f32 = 0.055;

/// An encoded colour with its largest channel brought down to 1, all channels by the same factor of light.
#[inline(always)]
fn white_in_range([r, g, b]: [f32; 3]) -> [f32; 3] {
    let largest = r.max(g).max(b);
    let factor = if largest > 1.0 { (1.0 + OFFSET) / (largest + OFFSET) } else { 1.0 };
    let down = |v: f32| if largest > 1.0 { ((v + OFFSET) * factor - OFFSET).max(0.0) } else { v };
    [down(r), down(g), down(b)]
}

/// Whites brighter than the display's brought down to its white.
pub fn whites_in_range(mut picture: Picture<Display>) -> Picture<Display> {
    if let Some(planes) = picture.three_mut() {
        bring_in_range(planes);
    }
    picture
}

#[multiversion(targets("x86_64+avx2"))]
fn bring_in_range(planes: [&mut [f32]; 3]) {
    let [red, green, blue] = planes;
    for ((r, g), b) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()) {
        [*r, *g, *b] = white_in_range([*r, *g, *b]);
    }
}

/// Reflectance whose print already lies in the gamut: clipped and encoded, nothing more.
pub fn encode_fitted(mut picture: Picture<Reflectance>) -> Picture<Display> {
    if let Some(planes) = picture.three_mut() {
        to_display_fitted(planes, &WIDE_TO_SRGB.to_f32());
    }
    picture.into_quantity()
}

#[multiversion(targets("x86_64+avx2"))]
fn to_display_fitted(planes: [&mut [f32]; 3], to_srgb: &Turn) {
    in_runs(planes, |_, run| {
        each_pixel(run, |rgb| turn(to_srgb, rgb));
        run.iter_mut().for_each(|lane| rooted::encode_all(lane, 1.0));
    });
}

/// Reflectance in the working space to encoded sRGB, 0..1.
pub fn encode(mut picture: Picture<Reflectance>) -> Picture<Display> {
    if let Some(planes) = picture.three_mut() {
        to_display(planes, &Encoder::default());
    }
    picture.into_quantity()
}

#[multiversion(targets("x86_64+avx2"))]
fn to_display(planes: [&mut [f32]; 3], encoder: &Encoder) {
    in_runs(planes, |_, run| {
        each_pixel(run, |rgb| turn(&encoder.to_srgb, rgb));
        encoder.gamut.unbounded_run(run);
        run.iter_mut().for_each(|lane| rooted::encode_all(lane, f32::INFINITY));
        each_pixel(run, white_in_range);
    });
}

/// 16-bit code of an encoded value in 0..1.
#[inline(always)]
fn code_16(v: f32) -> u16 {
    whole_part(v * 65535.0 + 0.5)
}

/// The 16-bit code rounded to 8 bits, so that a view equals the export: (code + 128) / 257 without the division, by
/// 2^24 + 1 = 257 x 65,281.
#[inline(always)]
fn code_8(v: f32) -> u8 {
    (((u32::from(code_16(v)) + 128) * 65_281) >> 24) as u8
}

/// Interleaved 8-bit RGB.
pub fn to_8_bit(picture: &Picture<Display>) -> Vec<u8> {
    let mut out = vec![0; 3 * picture.region.pixels()];
    weave_8([0, 1, 2].map(|k| picture.plane(k)), &mut out);
    out
}

/// Interleaved 16-bit RGB.
pub fn to_16_bit(picture: &Picture<Display>) -> Vec<u16> {
    let mut out = vec![0; 3 * picture.region.pixels()];
    weave_16([0, 1, 2].map(|k| picture.plane(k)), &mut out);
    out
}

#[multiversion(targets("x86_64+avx2"))]
fn weave_8(planes: [&[f32]; 3], out: &mut [u8]) {
    weave(planes, out, code_8);
}

#[multiversion(targets("x86_64+avx2"))]
fn weave_16(planes: [&[f32]; 3], out: &mut [u16]) {
    weave(planes, out, code_16);
}

#[inline(always)]
fn weave<T: Copy + Default>(planes: [&[f32]; 3], out: &mut [T], quantise: impl Fn(f32) -> T) {
    let mut codes = [[T::default(); RUN]; 3];
    for (run, pixels) in out.chunks_mut(3 * RUN).enumerate() {
        let count = pixels.len() / 3;
        for (codes, plane) in codes.iter_mut().zip(planes) {
            for (code, v) in codes[..count].iter_mut().zip(&plane[run * RUN..]) {
                *code = quantise(*v);
            }
        }
        let [red, green, blue] = &codes;
        for (i, pixel) in pixels.chunks_exact_mut(3).enumerate() {
            pixel.copy_from_slice(&[red[i], green[i], blue[i]]);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    #[test]
    fn eight_bits_are_sixteen_divided() {
        for code in 0..=u16::MAX {
            let v = f32::from(code) / 65535.0;
            assert_eq!(u32::from(code_8(v)), (u32::from(code_16(v)) + 128) / 257, "{code}");
        }
    }

    /// Lengths that are no whole run, and what is no colour.
    #[test]
    fn pixels_lie_side_by_side() {
        for count in [1u32, 63, 64, 65, 200] {
            let value = |k: u32, i: u32| match i {
                7 => f32::NAN,
                9 => 2.0,
                11 => -1.0,
                _ => (i * 3 + k) as f32 / 700.0,
            };
            let planes = (0..3).map(|k| (0..count).map(|i| value(k, i)).collect()).collect();
            let picture = Picture::from_planes(Region::whole(count, 1), planes);
            let expected: Vec<u16> =
                (0..count).flat_map(|i| [0, 1, 2].map(|k| (value(k, i) * 65535.0 + 0.5) as u16)).collect();
            assert_eq!(to_16_bit(&picture), expected);
            let eight: Vec<u8> = expected.iter().map(|v| ((u32::from(*v) + 128) / 257) as u8).collect();
            assert_eq!(to_8_bit(&picture), eight);
        }
    }
}
