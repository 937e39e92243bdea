//! Decoded, balanced, exposed light of a rectangle of the source.

use multiversion::multiversion;

use super::decoding::Decoding;
use super::settings::SceneSettings;
use super::white_balance::balance;
use crate::colour::space::{SRGB_LUMINANCE, SRGB_TO_WIDE};
use crate::numeric::matrix::dot;
use crate::picture::buffer::SceneLight;
use crate::picture::source::{CODES, is_below_black, linear_of_code};
use crate::picture::{Picture, Region, Source};

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
    /// Channels are looked up; only the expansion of the highlights is computed, for all three at once.
    pub fn light(&self, source: &Source, region: Region) -> Picture<SceneLight> {
        let mut picture = Picture::new(region, 3);
        let width = region.width as usize;
        let linear = linear_of_code();
        let [wr, wg, wb] = SRGB_LUMINANCE.map(|v| v as f32);
        let mut luminance = vec![0.0f32; width];
        let mut outside: Vec<usize> = Vec::new();
        let Some([red, green, blue]) = picture.three_mut() else { return picture };
        for y in 0..region.height {
            let start = y as usize * width;
            let row = source.row(region.y + y, region.x, region.width);
            let [r, g, b] =
                [&mut red[start..start + width], &mut green[start..start + width], &mut blue[start..start + width]];
            outside.clear();
            for (i, codes) in row.chunks_exact(3).enumerate() {
                let [cr, cg, cb] = [codes[0] as usize, codes[1] as usize, codes[2] as usize];
                luminance[i] = wr * linear[cr] + wg * linear[cg] + wb * linear[cb];
                r[i] = self.powers[cr];
                g[i] = self.powers[cg];
                b[i] = self.powers[cb];
                if is_below_black(codes[0].min(codes[1]).min(codes[2])) {
                    outside.push(i);
                }
            }
            expand(&self.decoding, &luminance, [r, g, b]);
            for i in &outside {
                let codes = &row[3 * i..3 * i + 3];
                [r[*i], g[*i], b[*i]] = self.decoding.apply([0, 1, 2].map(|k| linear[codes[k] as usize]));
            }
            to_working_space(&self.to_scene, [r, g, b]);
        }
        picture
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
