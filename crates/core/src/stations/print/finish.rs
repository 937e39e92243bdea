//! What is done to the finished print point by point and gently: white, black, hue bands.
//!
//! All of it is part of the table of the print, so it costs nothing per pixel. White and black are densities of the
//! paper; the bands act on Oklab's hue. What bends more sharply than a table can follow is in `bend`.

use super::settings::FinishSettings;
use crate::colour::hue_bands::{BANDS, shares};
use crate::colour::oklab::WideToOklab;
use crate::colour::space::{SRGB_TO_WIDE, WIDE_TO_SRGB};
use crate::numeric::matrix::dot;

/// Lightness that the strongest setting of a band adds or takes, as a share.
const LIGHTNESS_SHARE: f32 = 0.4;

/// Chroma at which a colour of the print counts half.
const HALF_CHROMA: f32 = 0.05;

/// Prepared; `None` of its parts when neutral.
#[derive(Debug, Clone)]
pub struct Finish {
    white: f32,
    veil: f32,
    bands: Option<Bands>,
}

#[derive(Debug, Clone)]
struct Bands {
    settings: [[f32; 3]; BANDS],
    oklab: WideToOklab,
    to_wide: [[f32; 3]; 3],
    to_srgb: [[f32; 3]; 3],
}

impl Finish {
    /// `veiled`: black is lifted or deepened here, because the material's own curve cannot be made shallower or deeper.
    pub fn new(settings: &FinishSettings, veiled: bool) -> Self {
        let own = 10f64.powf(-settings.own_black_density);
        let veil = match settings.black_density {
            // the own black becomes the wanted one, white stays
            Some(black) if veiled => (10f64.powf(-black) - own) / (1.0 - own),
            _ => 0.0,
        };
        let any = settings.bands.iter().flatten().any(|v| *v != 0.0);
        Self {
            white: 10f64.powf(-settings.white_density) as f32,
            veil: veil as f32,
            bands: any.then(|| Bands {
                settings: settings.bands.map(|b| b.map(|v| v as f32)),
                oklab: WideToOklab::new(),
                to_wide: SRGB_TO_WIDE.to_f32(),
                to_srgb: WIDE_TO_SRGB.to_f32(),
            }),
        }
    }

    /// Linear sRGB, unbounded, of the finished print.
    #[inline(always)]
    pub fn apply(&self, rgb: [f32; 3]) -> [f32; 3] {
        let mut rgb = rgb.map(|v| self.white * (self.veil + (1.0 - self.veil) * v));
        if let Some(bands) = &self.bands {
            rgb = bands.apply(rgb);
        }
        rgb
    }
}

impl Bands {
    fn apply(&self, rgb: [f32; 3]) -> [f32; 3] {
        let turn = |m: &[[f32; 3]; 3], v: [f32; 3]| [0, 1, 2].map(|i| dot(&m[i], v[0], v[1], v[2]));
        let [l, a, b] = self.oklab.lab(turn(&self.to_wide, rgb));
        let chroma = (a * a + b * b).sqrt();
        if chroma < 1e-5 {
            return rgb;
        }
        let hue = libm::atan2f(b, a).to_degrees().rem_euclid(360.0);
        let mut sum = [0.0f32; 3];
        // greys with a slight cast count little: the weight grows with the square of chroma
        let colour = chroma * chroma / (chroma * chroma + HALF_CHROMA * HALF_CHROMA);
        for (weight, band) in shares(hue).iter().zip(&self.settings) {
            for (total, v) in sum.iter_mut().zip(band) {
                *total += colour * weight * v;
            }
        }
        let angle = (hue + sum[0]).to_radians();
        let chroma = chroma * (1.0 + sum[1]).max(0.0);
        let light = l * (1.0 + LIGHTNESS_SHARE * sum[2]);
        let lab = [light, chroma * libm::cosf(angle), chroma * libm::sinf(angle)];
        turn(&self.to_srgb, self.oklab.rgb(lab))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn neutral_changes_nothing() {
        let finish = Finish::new(&FinishSettings::default(), true);
        for rgb in [[0.3, 0.2, 0.9], [-0.02, 0.0, 1.1]] {
            assert_eq!(finish.apply(rgb), rgb);
        }
    }

    #[test]
    fn a_band_moves_its_hue_and_leaves_greys() {
        let mut settings = FinishSettings::default();
        settings.bands[0] = [0.0, -1.0, 0.0];
        let finish = Finish::new(&settings, true);
        let spread = |v: [f32; 3]| v[0].max(v[1]).max(v[2]) - v[0].min(v[1]).min(v[2]);
        assert!(spread(finish.apply([0.6, 0.08, 0.06])) < 0.4 * 0.54);
        assert!((spread(finish.apply([0.06, 0.2, 0.6])) - 0.54).abs() < 0.01);
        assert!(spread(finish.apply([0.4; 3])) < 1e-4);
    }

    #[test]
    fn white_and_black_are_densities() {
        let settings = FinishSettings {
            white_density: 0.1,
            black_density: Some(1.5),
            own_black_density: 2.5,
            ..FinishSettings::default()
        };
        let finish = Finish::new(&settings, true);
        assert!((finish.apply([1.0; 3])[0] - 10f32.powf(-0.1)).abs() < 1e-5);
        let black = -finish.apply([10f32.powf(-2.5); 3])[0].log10();
        assert!((black - 1.6).abs() < 1e-4, "{black}");
        let deeper = FinishSettings { black_density: Some(2.0), own_black_density: 1.58, ..FinishSettings::default() };
        let black = -Finish::new(&deeper, true).apply([10f32.powf(-1.58); 3])[0].log10();
        assert!((black - 2.0).abs() < 1e-3, "deeper than its own: {black}");
    }
}
