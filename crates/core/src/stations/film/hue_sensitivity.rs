//! Sensitivity by hue: how light or dark each hue is recorded. For black and white this is the mix of the colours.
//!
//! Eight smooth bands in the hue of Oklab (a partition of unity); their weight grows with chroma, so greys are
//! untouched. All layers of a pixel are multiplied by 2^(sum of weight x stops): it acts as a filter of that hue would,
//! before the film. A model choice.

use multiversion::multiversion;

use crate::colour::hue_bands::{BANDS, bands_of, shares};
use crate::colour::oklab::WideToOklab;
use crate::colour::space::WIDE_LUMINANCE;
use crate::numeric::exp2;
use crate::picture::Picture;
use crate::picture::buffer::SceneLight;

/// Chroma at which a colour counts half.
const HALF_CHROMA: f32 = 0.04;

/// Hue in degrees and chroma of working-space light, judged at the brightness of mid grey so that exposure does not
/// count.
#[inline(always)]
fn hue_and_chroma(oklab: &WideToOklab, rgb: [f32; 3]) -> (f32, f32) {
    let w = WIDE_LUMINANCE;
    let y = (w[0] * rgb[0] + w[1] * rgb[1] + w[2] * rgb[2]).max(1e-6);
    let [_, a, b] = oklab.lab(rgb.map(|v| v * (0.18 / y)));
    (libm::atan2f(b, a).to_degrees().rem_euclid(360.0), (a * a + b * b).sqrt())
}

/// Weight of every band for working-space light.
pub fn weights_of(oklab: &WideToOklab, rgb: [f32; 3]) -> [f32; BANDS] {
    let (hue, chroma) = hue_and_chroma(oklab, rgb);
    shares(hue).map(|share| share * chroma / (chroma + HALF_CHROMA))
}

/// The bands' sensitivities in stops, prepared for pixel loops; `None` when all are 0.
#[derive(Debug, Clone)]
pub struct HueSensitivity {
    stops: [f32; BANDS],
    oklab: WideToOklab,
}

impl HueSensitivity {
    /// `None` where no hue is moved.
    pub fn new(stops: [f64; BANDS]) -> Option<Self> {
        let any = stops.iter().any(|s| *s != 0.0);
        any.then(|| Self { stops: stops.map(|s| s as f32), oklab: WideToOklab::new() })
    }

    /// Multiplies the light of every pixel.
    pub fn apply(&self, light: &mut Picture<SceneLight>) {
        if let Some(planes) = light.three_mut() {
            multiply(self, planes);
        }
    }

    /// The same, in stops weighed by a mask.
    pub fn apply_where(&self, mask: &[f32], light: &mut Picture<SceneLight>) {
        if let Some([red, green, blue]) = light.three_mut() {
            for (((r, g), b), m) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()).zip(mask) {
                let gain = exp2(m * self.stops_of([*r, *g, *b]));
                *r *= gain;
                *g *= gain;
                *b *= gain;
            }
        }
    }

    #[inline(always)]
    fn gain(&self, rgb: [f32; 3]) -> f32 {
        exp2(self.stops_of(rgb))
    }

    #[inline(always)]
    fn stops_of(&self, rgb: [f32; 3]) -> f32 {
        let (hue, chroma) = hue_and_chroma(&self.oklab, rgb);
        let (first, second, t) = bands_of(hue);
        let stops = self.stops[first] + (self.stops[second] - self.stops[first]) * t;
        stops * chroma / (chroma + HALF_CHROMA)
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn multiply(bands: &HueSensitivity, planes: [&mut [f32]; 3]) {
    let [red, green, blue] = planes;
    for ((r, g), b) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()) {
        let gain = bands.gain([*r, *g, *b]);
        *r *= gain;
        *g *= gain;
        *b *= gain;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    #[test]
    fn greys_are_kept_and_the_hue_is_moved() {
        let mut stops = [0.0; BANDS];
        stops[3] = 1.0;
        let bands = HueSensitivity::new(stops).unwrap();
        let light = |rgb: [f32; 3]| Picture::from_planes(Region::whole(1, 1), rgb.map(|v| vec![v]).to_vec());
        let mut grey = light([0.3; 3]);
        bands.apply(&mut grey);
        assert!((grey.plane(1)[0] - 0.3).abs() < 1e-3);
        let (mut leaf, mut brick) = (light([0.10, 0.25, 0.06]), light([0.3, 0.08, 0.05]));
        bands.apply(&mut leaf);
        bands.apply(&mut brick);
        assert!(leaf.plane(1)[0] > 0.35 && (brick.plane(0)[0] - 0.3).abs() < 0.01);
        assert!(HueSensitivity::new([0.0; BANDS]).is_none());
    }
}
