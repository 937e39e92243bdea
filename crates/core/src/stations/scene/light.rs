//! Decoded, balanced, exposed light of a rectangle of the source.

use multiversion::multiversion;

use super::decoding::{Decoding, EXPANSION_FROM};
use super::settings::SceneSettings;
use super::white_balance::balance;
use crate::colour::space::{SRGB_LUMINANCE, SRGB_TO_WIDE};
use crate::numeric::matrix::dot;
use crate::numeric::runs::RUN;
use crate::picture::buffer::SceneLight;
use crate::picture::source::{CODES, code_range, is_below_black, linear_of_code};
use crate::picture::{Picture, Region, Source};

/// Highest channel of pixels that are surely not expanded: a little below the luminance from which they are.
const MAY_EXPAND: f32 = EXPANSION_FROM as f32 - 0.01;

/// Decoding, balance and exposure, prepared once from their settings.
#[derive(Debug, Clone)]
pub struct PlainLight {
    decoding: Decoding,
    /// Decoded light by source code, before the expansion of the highlights.
    powers: Box<[f32; CODES]>,
    /// From decoded linear sRGB to balanced, exposed working-space light.
    to_scene: [[f32; 3]; 3],
}

impl PlainLight {
    /// With the camera's rendering taken back, balanced and exposed.
    pub fn new(settings: &SceneSettings) -> Self {
        let balanced = balance(settings.temperature_kelvin, settings.tint_cc);
        let exposed = balanced.scaled(2f64.powf(settings.exposure_stops));
        let decoding = Decoding::new(settings.headroom_stops, settings.rendering_exponent);
        Self { powers: decoding.powers(), decoding, to_scene: exposed.after(&SRGB_TO_WIDE).to_f32() }
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
            let row = source.row(y, region.x, region.width);
            let runs = r.chunks_mut(RUN).zip(g.chunks_mut(RUN)).zip(b.chunks_mut(RUN));
            for (codes, ((r, g), b)) in row.chunks(3 * RUN).zip(runs) {
                self.run(codes, [r, g, b]);
            }
            to_working_space(&self.to_scene, [r, g, b]);
        }
        picture
    }

    /// Decoded light of a few pixels.
    fn run(&self, codes: &[u16], [r, g, b]: [&mut [f32]; 3]) {
        let [lowest, highest] = code_range(codes);
        for (((r, g), b), pixel) in r.iter_mut().zip(&mut *g).zip(&mut *b).zip(codes.chunks_exact(3)) {
            *r = self.powers[pixel[0] as usize];
            *g = self.powers[pixel[1] as usize];
            *b = self.powers[pixel[2] as usize];
        }
        let linear = linear_of_code();
        // a luminance is no higher than the highest channel; below, the expansion is a factor of 1
        if linear[highest as usize] > MAY_EXPAND {
            let [wr, wg, wb] = SRGB_LUMINANCE.map(|v| v as f32);
            let mut luminance = [0.0f32; RUN];
            for (y, pixel) in luminance.iter_mut().zip(codes.chunks_exact(3)) {
                let [red, green, blue] = [0, 1, 2].map(|k| linear[pixel[k] as usize]);
                *y = wr * red + wg * green + wb * blue;
            }
            expand(&self.decoding, &luminance[..r.len()], [&mut *r, &mut *g, &mut *b]);
        }
        if is_below_black(lowest) {
            for (i, pixel) in codes.chunks_exact(3).enumerate() {
                if is_below_black(pixel[0].min(pixel[1]).min(pixel[2])) {
                    let rgb = [0, 1, 2].map(|k| linear[pixel[k] as usize]);
                    [r[i], g[i], b[i]] = self.decoding.apply(rgb);
                }
            }
        }
    }
}

#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
fn expand(decoding: &Decoding, luminance: &[f32], planes: [&mut [f32]; 3]) {
    let [red, green, blue] = planes;
    for (((r, g), b), y) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()).zip(luminance) {
        let gain = decoding.power_of_gain(*y);
        *r *= gain;
        *g *= gain;
        *b *= gain;
    }
}

#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
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
