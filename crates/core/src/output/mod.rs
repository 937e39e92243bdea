//! From reflectance to display: gamut mapping and encoding, once, at the end.

pub(crate) mod fit;

pub use fit::Fit;

use multiversion::multiversion;

use crate::colour::gamut::Compressor;
use crate::colour::space::WIDE_TO_SRGB;
use crate::colour::transfer::encode_srgb_f32;
use crate::numeric::matrix::dot;
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
    /// Encoded sRGB of a colour, 0 to 1.
    #[inline(always)]
    pub fn apply(&self, rgb: [f32; 3]) -> [f32; 3] {
        white_in_range(self.unbounded(rgb))
    }

    /// The same where what is brighter than white stays brighter: still to be brought into range.
    #[inline(always)]
    pub fn unbounded(&self, [r, g, b]: [f32; 3]) -> [f32; 3] {
        let m = &self.to_srgb;
        let [x, y, z] = self.gamut.unbounded(dot(&m[0], r, g, b), dot(&m[1], r, g, b), dot(&m[2], r, g, b));
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

#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
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

#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
fn to_display_fitted(planes: [&mut [f32]; 3], m: &[[f32; 3]; 3]) {
    let [red, green, blue] = planes;
    for ((r, g), b) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()) {
        let (x, y, z) = (*r, *g, *b);
        *r = encode_srgb_f32(dot(&m[0], x, y, z).max(0.0).min(1.0));
        *g = encode_srgb_f32(dot(&m[1], x, y, z).max(0.0).min(1.0));
        *b = encode_srgb_f32(dot(&m[2], x, y, z).max(0.0).min(1.0));
    }
}

/// Reflectance in the working space to encoded sRGB, 0..1.
pub fn encode(mut picture: Picture<Reflectance>) -> Picture<Display> {
    if let Some(planes) = picture.three_mut() {
        to_display(planes, &Encoder::default());
    }
    picture.into_quantity()
}

#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
fn to_display(planes: [&mut [f32]; 3], encoder: &Encoder) {
    let [red, green, blue] = planes;
    for ((r, g), b) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()) {
        [*r, *g, *b] = encoder.apply([*r, *g, *b]);
    }
}

/// 16-bit code of an encoded value in 0..1.
#[inline(always)]
fn code_16(v: f32) -> u16 {
    (v * 65535.0 + 0.5) as u16
}

/// Interleaved 8-bit RGB: the 16-bit values, rounded, so that a view equals the export.
pub fn to_8_bit(picture: &Picture<Display>) -> Vec<u8> {
    interleave(picture, |v| ((code_16(v) as u32 + 128) / 257) as u8)
}

/// Interleaved 16-bit RGB.
pub fn to_16_bit(picture: &Picture<Display>) -> Vec<u16> {
    interleave(picture, code_16)
}

fn interleave<T: Copy + Default>(picture: &Picture<Display>, quantise: impl Fn(f32) -> T) -> Vec<T> {
    let mut out = vec![T::default(); 3 * picture.region.pixels()];
    let planes = picture.plane(0).iter().zip(picture.plane(1)).zip(picture.plane(2));
    for (pixel, ((r, g), b)) in out.chunks_exact_mut(3).zip(planes) {
        pixel[0] = quantise(*r);
        pixel[1] = quantise(*g);
        pixel[2] = quantise(*b);
    }
    out
}
