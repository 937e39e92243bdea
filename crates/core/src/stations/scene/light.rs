//! The Scene station applied to a rectangle of the source.

use multiversion::multiversion;

use super::decoding::Decoding;
use super::settings::SceneSettings;
use super::white_balance::balance;
use crate::colour::space::SRGB_TO_WIDE;
use crate::numeric::matrix::dot;
use crate::picture::buffer::SceneLight;
use crate::picture::source::linear_of_code;
use crate::picture::{Picture, Region, Source};

/// Scene, prepared once from its settings.
#[derive(Debug, Clone)]
pub struct SceneStage {
    decoding: Decoding,
    /// From decoded linear sRGB to balanced, exposed working-space light.
    to_scene: [[f32; 3]; 3],
}

impl SceneStage {
    pub fn new(settings: &SceneSettings) -> Self {
        let balanced = balance(settings.temperature_kelvin, settings.tint_cc);
        let exposed = balanced.scaled(2f64.powf(settings.exposure_stops));
        Self {
            decoding: Decoding::new(settings.headroom_stops, settings.rendering_exponent),
            to_scene: exposed.after(&SRGB_TO_WIDE).to_f32(),
        }
    }

    /// How the camera's rendering is taken back.
    pub fn decoding(&self) -> Decoding {
        self.decoding
    }

    /// Scene light of a rectangle of the source, which must lie inside.
    pub fn light(&self, source: &Source, region: Region) -> Picture<SceneLight> {
        let mut picture = Picture::new(region, 3);
        let width = region.width as usize;
        let linear = linear_of_code();
        if let Some([red, green, blue]) = picture.three_mut() {
            for row in 0..region.height {
                let start = row as usize * width;
                let planes =
                    [&mut red[start..start + width], &mut green[start..start + width], &mut blue[start..start + width]];
                let [r, g, b] = planes;
                for (i, codes) in source.row(region.y + row, region.x, region.width).chunks_exact(3).enumerate() {
                    r[i] = linear[codes[0] as usize];
                    g[i] = linear[codes[1] as usize];
                    b[i] = linear[codes[2] as usize];
                }
            }
            to_scene_light([red, green, blue], self);
        }
        picture
    }
}

#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
fn to_scene_light(planes: [&mut [f32]; 3], stage: &SceneStage) {
    let [red, green, blue] = planes;
    let (to_scene, decoding) = (&stage.to_scene, stage.decoding);
    for ((r, g), b) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()) {
        let [x, y, z] = decoding.apply([*r, *g, *b]);
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
        let [a, b] = [own, more].map(|s| SceneStage::new(&s).light(&source, source.region()));
        for plane in 0..3 {
            for (x, y) in a.plane(plane).iter().zip(b.plane(plane)) {
                assert!((y - 2.0 * x).abs() <= 1e-6 * y.abs(), "{x} {y}");
            }
        }
    }
}
