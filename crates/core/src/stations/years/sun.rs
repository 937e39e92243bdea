//! Sun damage: where light fell for years, the picture faded more.
//!
//! The light comes from one side and dies away over the frame, not quite evenly. A mask says what was covered, by a mat
//! for instance. A model choice.

use multiversion::multiversion;

use super::settings::SunSettings;
use crate::numeric::NoiseLayer;
use crate::numeric::smooth_share;
use crate::numeric::value_noise::ValueNoise;
use crate::picture::Region;

/// Lattice of the unevenness in diagonals, and its weight.
const UNEVEN: (f64, f32) = (0.35, 0.16);

/// Prepared.
#[derive(Debug, Clone)]
pub struct Sun {
    settings: SunSettings,
    seed: u64,
}

impl Sun {
    /// `None` where no sun fell.
    pub fn new(settings: &SunSettings, frame_seed: u32) -> Option<Self> {
        let seed = u64::from(frame_seed) ^ (u64::from(settings.seed) << 32);
        (settings.strength > 0.0).then_some(Self { settings: *settings, seed })
    }

    /// How much of the light every pixel of a region got, 0..1.
    pub fn over(&self, [width, height]: [u32; 2], region: Region) -> Vec<f32> {
        let per = 1.0 / f64::from(width).hypot(f64::from(height));
        let (sine, cosine) = self.settings.direction_degrees.to_radians().sin_cos();
        let noise = ValueNoise::new(self.seed, NoiseLayer::Sun, UNEVEN.0);
        let spread = self.settings.spread.max(0.02);
        let mut out = vec![0.0f32; region.pixels()];
        for (y, line) in (region.y..region.bottom()).zip(out.chunks_exact_mut(region.width as usize)) {
            let (x0, at_y) = ((f64::from(region.x) + 0.5) * per, (f64::from(y) + 0.5) * per);
            noise.add_row(UNEVEN.1, x0, at_y, per, line);
            let v = 2.0 * (f64::from(y) + 0.5) / f64::from(height) - 1.0;
            let across = |k: usize| 2.0 * (f64::from(region.x) + f64::from(k as i32) + 0.5) / f64::from(width) - 1.0;
            // -1 away from the light, 1 towards it; up is 90 degrees
            lit(line, self.settings.strength as f32, spread, |k| across(k) * cosine - v * sine);
        }
        out
    }
}

/// Where the light fell, over noise that is there already.
#[multiversion(targets("x86_64+avx2"))]
fn lit(line: &mut [f32], strength: f32, spread: f64, towards: impl Fn(usize) -> f64) {
    for (k, o) in line.iter_mut().enumerate() {
        let t = ((towards(k) + 1.0) / 2.0 - (1.0 - spread)) / spread;
        *o = smooth_share(t as f32 + *o * strength);
    }
}
