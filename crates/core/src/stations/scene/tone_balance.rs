//! Balance of shadows, mid-tones and lights along cyan-red, magenta-green and yellow-blue.
//!
//! Each range of tones has a filter of its own, in CC (0.01 density); between the ranges the filters change smoothly. A
//! neutral keeps its luminance. A model choice.

use multiversion::multiversion;

use super::luminance::MID_GREY;
use super::settings::TONES;
use crate::colour::space::WIDE_LUMINANCE as LUMINANCE;
use crate::numeric::smooth::smoothstep;
use crate::numeric::{Sampled, log2};
use crate::picture::Picture;
use crate::picture::buffer::SceneLight;

/// Where shadows end and lights begin, in stops from mid grey.
const SHADOWS: [f64; 2] = [-3.5, -0.5];
const LIGHTS: [f64; 2] = [0.0, 3.3];
/// Range of tones that is told apart.
const RANGE: [f64; 2] = [-8.0, 6.0];

/// Shares of shadows, mid-tones and lights in a tone; they sum to one.
fn shares(stops: f64) -> [f64; TONES] {
    let shadow = 1.0 - smoothstep(stops, SHADOWS[0], SHADOWS[1]);
    let light = smoothstep(stops, LIGHTS[0], LIGHTS[1]);
    [shadow, 1.0 - shadow - light, light]
}

/// Factor of each channel by tone.
#[derive(Debug, Clone)]
pub struct ToneBalance {
    factors: [Sampled; 3],
}

impl ToneBalance {
    /// Density in CC towards red, green and blue by range of tones; `None` when all are 0.
    pub fn new(cc: &[[f64; 3]; TONES]) -> Option<Self> {
        if cc.iter().flatten().all(|v| *v == 0.0) {
            return None;
        }
        let factor = |stops: f64| {
            let shares = shares(stops);
            let density = |k: usize| (0..TONES).map(|t| shares[t] * cc[t][k]).sum::<f64>() * 0.01;
            let raw = [density(0), density(1), density(2)].map(|d| 10f64.powf(d));
            let luminance: f64 = raw.iter().zip(LUMINANCE).map(|(v, w)| v * f64::from(w)).sum();
            raw.map(|v| v / luminance)
        };
        let table = |k: usize| Sampled::new(RANGE[0], RANGE[1], 512, |stops| factor(stops)[k]);
        Some(Self { factors: [table(0), table(1), table(2)] })
    }

    /// Balances a tile of light.
    pub fn apply(&self, light: &mut Picture<SceneLight>) {
        let mut tone = vec![0.0f32; light.region.pixels()];
        judge(&mut tone, [light.plane(0), light.plane(1), light.plane(2)]);
        let mut factor = tone.clone();
        for (index, table) in self.factors.iter().enumerate() {
            factor.copy_from_slice(&tone);
            table.map(&mut factor);
            light.plane_mut(index).iter_mut().zip(&factor).for_each(|(v, f)| *v *= f);
        }
    }
}

/// Stops from mid grey.
#[multiversion(targets("x86_64+avx2"))]
fn judge(tone: &mut [f32], [red, green, blue]: [&[f32]; 3]) {
    for (((t, r), g), b) in tone.iter_mut().zip(red).zip(green).zip(blue) {
        let y = LUMINANCE[0] * r + LUMINANCE[1] * g + LUMINANCE[2] * b;
        *t = log2((y * (1.0 / MID_GREY)).max(1e-4));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    fn through(cc: [[f64; 3]; TONES], stops: f32) -> [f32; 3] {
        let light = MID_GREY * stops.exp2();
        let mut picture = Picture::from_planes(Region::whole(1, 1), vec![vec![light]; 3]);
        ToneBalance::new(&cc).unwrap().apply(&mut picture);
        [0, 1, 2].map(|k| picture.plane(k)[0] / light)
    }

    #[test]
    fn each_range_has_its_own_filter_and_luminance_stays() {
        let cc = [[0.0, 0.0, 30.0], [0.0; 3], [30.0, 0.0, -20.0]];
        let [shadow, middle, high] = [-4.0, -0.1, 3.4].map(|s| through(cc, s));
        // CC is density: 30 CC are 0.30
        assert!((shadow[2] / shadow[0] - 10f32.powf(0.3)).abs() < 0.01, "{shadow:?}");
        assert!((high[0] / high[2] - 10f32.powf(0.5)).abs() < 0.02, "{high:?}");
        assert!(middle.iter().all(|v| (v - 1.0).abs() < 0.01), "{middle:?}");
        for f in [shadow, middle, high] {
            let y: f32 = f.iter().zip(LUMINANCE).map(|(v, w)| v * w).sum();
            assert!((y - 1.0).abs() < 1e-4);
        }
        assert!(ToneBalance::new(&[[0.0; 3]; TONES]).is_none());
    }

    #[test]
    fn shares_sum_to_one() {
        for i in -80..60 {
            let all = shares(f64::from(i) * 0.1);
            assert!((all.iter().sum::<f64>() - 1.0).abs() < 1e-12 && all.iter().all(|s| *s >= 0.0));
        }
    }
}
