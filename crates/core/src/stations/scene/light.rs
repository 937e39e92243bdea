//! Decoded, balanced, exposed light of a rectangle of the source.

use multiversion::multiversion;

use super::decoding::{Decoding, EXPANSION_FROM};
use super::settings::SceneSettings;
use super::white_balance::balance;
use crate::colour::space::{SRGB_LUMINANCE, SRGB_TO_WIDE};
use crate::numeric::matrix::dot;
use crate::numeric::runs::RUN;
use crate::picture::buffer::SceneLight;
use crate::picture::source::{
    CODES, Held, code_of_8_bit, code_range, highest_of, is_below_black, linear_of_8_bit, linear_of_code,
};
use crate::picture::{Picture, Region, Source};

/// Highest channel of pixels that are surely not expanded: a little below the luminance from which they are.
const MAY_EXPAND: f32 = EXPANSION_FROM as f32 - 0.01;

/// Decoding, balance and exposure, prepared once from their settings.
#[derive(Debug, Clone)]
pub struct PlainLight {
    decoding: Decoding,
    /// Decoded light by source code, before the expansion of the highlights.
    powers: Box<[f32; CODES]>,
    /// The same by 8-bit value.
    powers_of_8_bit: [f32; 256],
    /// From decoded linear sRGB to balanced, exposed working-space light.
    to_scene: [[f32; 3]; 3],
}

impl PlainLight {
    /// With the camera's rendering taken back, balanced and exposed.
    pub fn new(settings: &SceneSettings) -> Self {
        let balanced = balance(settings.temperature_kelvin, settings.tint_cc);
        let exposed = balanced.scaled(2f64.powf(settings.exposure_stops));
        let decoding = Decoding::new(settings.headroom_stops, settings.rendering_exponent);
        let powers = decoding.powers();
        let powers_of_8_bit = std::array::from_fn(|value| powers[usize::from(code_of_8_bit(value as u8))]);
        Self { powers, powers_of_8_bit, decoding, to_scene: exposed.after(&SRGB_TO_WIDE).to_f32() }
    }

    /// How the camera's rendering is taken back.
    pub fn decoding(&self) -> Decoding {
        self.decoding
    }

    /// Scene light of a rectangle of the source, which must lie inside.
    ///
    /// Channels are looked up; only the expansion of the highlights is computed, for all three at once and where there
    /// are any.
    pub fn light(&self, source: &Source, region: Region) -> Picture<SceneLight> {
        let mut picture = Picture::new(region, 3);
        let width = region.width as usize;
        let Some([red, green, blue]) = picture.three_mut() else { return picture };
        let rows = red.chunks_exact_mut(width).zip(green.chunks_exact_mut(width)).zip(blue.chunks_exact_mut(width));
        for (y, ((r, g), b)) in (region.y..region.bottom()).zip(rows) {
            let runs = r.chunks_mut(RUN).zip(g.chunks_mut(RUN)).zip(b.chunks_mut(RUN));
            match source.row_held(y, region.x, region.width) {
                Held::Codes(codes) => {
                    for (codes, ((r, g), b)) in codes.chunks(3 * RUN).zip(runs) {
                        self.of_codes(codes, [r, g, b]);
                    }
                }
                Held::Srgb8(values) => {
                    let tables = [&self.powers_of_8_bit, linear_of_8_bit()];
                    for (values, ((r, g), b)) in values.chunks(3 * RUN).zip(runs) {
                        self.look_up(values, highest_of(values), tables, [r, g, b]);
                    }
                }
            }
            to_working_space(&self.to_scene, [r, g, b]);
        }
        picture
    }

    /// Decoded light of a few pixels, held as codes.
    fn of_codes(&self, codes: &[u16], [r, g, b]: [&mut [f32]; 3]) {
        let [lowest, highest] = code_range(codes);
        let linear = linear_of_code();
        self.look_up(codes, highest, [&self.powers, linear], [&mut *r, &mut *g, &mut *b]);
        if is_below_black(lowest) {
            for (i, pixel) in codes.chunks_exact(3).enumerate() {
                if is_below_black(pixel[0].min(pixel[1]).min(pixel[2])) {
                    let rgb = [0, 1, 2].map(|k| linear[pixel[k] as usize]);
                    [r[i], g[i], b[i]] = self.decoding.apply(rgb);
                }
            }
        }
    }

    /// Decoded light of a few pixels by what is held of them and the highest of that: a table of it before the
    /// expansion of the highlights, and one of linear light.
    fn look_up<T: Copy + Into<usize>, const N: usize>(
        &self,
        held: &[T],
        highest: T,
        [powers, linear]: [&[f32; N]; 2],
        [r, g, b]: [&mut [f32]; 3],
    ) {
        for (((r, g), b), pixel) in r.iter_mut().zip(&mut *g).zip(&mut *b).zip(held.chunks_exact(3)) {
            *r = powers[pixel[0].into()];
            *g = powers[pixel[1].into()];
            *b = powers[pixel[2].into()];
        }
        // a luminance is no higher than the highest channel; below, the expansion is a factor of 1
        if linear[highest.into()] > MAY_EXPAND {
            let [wr, wg, wb] = SRGB_LUMINANCE.map(|v| v as f32);
            let mut luminance = [0.0f32; RUN];
            for (y, pixel) in luminance.iter_mut().zip(held.chunks_exact(3)) {
                let [red, green, blue] = [0, 1, 2].map(|k| linear[pixel[k].into()]);
                *y = wr * red + wg * green + wb * blue;
            }
            expand(&self.decoding, &luminance[..r.len()], [r, g, b]);
        }
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn expand(decoding: &Decoding, luminance: &[f32], planes: [&mut [f32]; 3]) {
    let [red, green, blue] = planes;
    for (((r, g), b), y) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()).zip(luminance) {
        let gain = decoding.power_of_gain(*y);
        *r *= gain;
        *g *= gain;
        *b *= gain;
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn to_working_space(to_scene: &[[f32; 3]; 3], planes: [&mut [f32]; 3]) {
    let [red, green, blue] = planes;
    for ((r, g), b) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()) {
        let (x, y, z) = (*r, *g, *b);
        *r = dot(&to_scene[0], x, y, z);
        *g = dot(&to_scene[1], x, y, z);
        *b = dot(&to_scene[2], x, y, z);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::Catalogue;

    /// What is held in 8 bits gives the bits of its codes, lights that are expanded among them.
    #[test]
    fn eight_bits_give_the_light_of_their_codes() {
        let (width, height) = (RUN as u32 + 7, 5);
        let values: Vec<u8> = (0..3 * width * height).map(|i| (i * 101 % 251) as u8 >> (i / 640)).collect();
        let codes = values.iter().map(|v| code_of_8_bit(*v)).collect();
        let held = [Source::of_8_bit(width, height, values), Source::new(width, height, codes)].map(Option::unwrap);
        let light = PlainLight::new(&SceneSettings::own(&Catalogue::first()));
        for region in [Region::whole(width, height), Region::new(3, 1, 66, 3)] {
            let [eight, wide] = held.each_ref().map(|source| light.light(source, region));
            for (a, b) in eight.planes().iter().zip(wide.planes()) {
                assert!(a.iter().zip(b).all(|(a, b)| a.to_bits() == b.to_bits()));
            }
        }
    }

    /// One stop is 0.301 log exposure for every tone, white included.
    #[test]
    fn a_stop_doubles_every_tone() {
        let source = Source::from_linear_srgb(64, 1, |x, _| [x as f64 / 63.0, 0.4, 1.0 - x as f64 / 63.0]);
        let own = SceneSettings::own(&Catalogue::first());
        let more = SceneSettings { exposure_stops: 1.0, ..own.clone() };
        let [a, b] = [own, more].map(|s| PlainLight::new(&s).light(&source, source.region()));
        for plane in 0..3 {
            for (x, y) in a.plane(plane).iter().zip(b.plane(plane)) {
                assert!((y - 2.0 * x).abs() <= 1e-6 * y.abs(), "{x} {y}");
            }
        }
    }
}
