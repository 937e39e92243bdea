//! The noise that a print has before any grain: the camera's own.
//!
//! It is what was measured on the full picture, tone by tone (`amber_core::measure::noise`), carried through film and
//! print by the slope of the print over the picture's tones. Where a picture is full of texture every measure of its
//! noise reads too much, so no tone counts as much noisier than the quietest.

use amber_core::colour::transfer::{decode_srgb, encode_srgb};
use amber_core::measure::noise::{NoiseLevels, TONES};
use amber_core::{CoreError, Development, Source, Stock};

use super::{GrainMeasure, LAGS, ToneNoise};
use crate::colour::PointPrint;

/// Greys through which it is carried.
const GREYS: usize = 25;
/// How much noisier a tone may be than the quietest; sensors differ less over the encoded tones.
const NOISIER: f32 = 1.5;
/// What a picture without noise is measured to have, and a little.
const NONE: f32 = 0.6 / 255.0;
/// Weights of the channels in luminance (BT.709).
const LUMA: [f64; 3] = [0.2126, 0.7152, 0.0722];

/// The noise of the print of a picture without grain; `None` where the picture has none. `scale` is the size of the
/// print over the full picture's: a reduction averages.
pub fn own_noise(
    levels: &NoiseLevels,
    scale: f64,
    stock: &Stock,
    development: &Development,
) -> Result<Option<GrainMeasure>, CoreError> {
    let quietest = |of: &[f32; TONES]| of.iter().copied().fold(f32::INFINITY, f32::min);
    let least = [quietest(&levels.luminance), quietest(&levels.colour)];
    if least[0] <= NONE && least[1] <= NONE {
        return Ok(None);
    }
    let level = |of: &[f32; TONES], least: f32, tone: f64| {
        let at = ((tone * TONES as f64) as usize).min(TONES - 1);
        f64::from(of[at].min(NOISIER * least)) * scale
    };
    let last = (GREYS - 1) as f64;
    let greys = Source::from_linear_srgb(GREYS as u32, 1, |x, _| [decode_srgb(f64::from(x) / last); 3]);
    let shown: Vec<[f64; 3]> = PointPrint::new(stock, development)?
        .linear_srgb(&greys)
        .into_iter()
        .map(|rgb| rgb.map(|v| encode_srgb(v.clamp(0.0, 1.0))))
        .collect();
    let mut tones: Vec<ToneNoise> = (1..GREYS - 1)
        .map(|i| {
            let tone = i as f64 / last;
            let slope: [f64; 3] = std::array::from_fn(|k| 0.5 * last * (shown[i + 1][k] - shown[i - 1][k]));
            let luminance = level(&levels.luminance, least[0], tone).powi(2);
            let colour = level(&levels.colour, least[1], tone).powi(2);
            // orthonormal axes: what all channels share, and what they do not
            let before = |a: usize, b: usize| luminance / 3.0 + colour * (if a == b { 2.0 } else { -1.0 }) / 3.0;
            let channels: [[f64; 3]; 3] =
                std::array::from_fn(|a| std::array::from_fn(|b| slope[a] * slope[b] * before(a, b)));
            let pairs = || (0..3).flat_map(|a| (0..3).map(move |b| (a, b)));
            let mut luma = vec![0.0; LAGS];
            luma[0] = pairs().map(|(a, b)| LUMA[a] * LUMA[b] * channels[a][b]).sum();
            let tone = (0..3).map(|k| LUMA[k] * shown[i][k]).sum();
            ToneNoise { tone, luma, channels, blocks: 1 }
        })
        .collect();
    tones.sort_by(|a, b| a.tone.total_cmp(&b.tone));
    Ok(Some(GrainMeasure { tones }))
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_core::Catalogue;

    #[test]
    fn a_noisy_picture_has_some_and_a_clean_one_none() {
        let stock = Catalogue::first();
        let development = Development::new(&stock);
        let levels = |v: f32| NoiseLevels { luminance: [v; TONES], colour: [v; TONES] };
        assert!(own_noise(&levels(0.5 / 255.0), 1.0, &stock, &development).unwrap().is_none());
        let own = |scale: f64| own_noise(&levels(0.03), scale, &stock, &development).unwrap().unwrap().at(0.5).unwrap();
        // independent channels of 3 %: luminance has the root of the squares of its weights of it, times the slope
        let share = own(1.0).sigma() / own(1.0).sigmas()[1];
        let weights = LUMA.iter().map(|w| w * w).sum::<f64>().sqrt();
        assert!((share / weights - 1.0).abs() < 0.1, "{share} {weights}");
        assert!((own(0.5).sigma() / own(1.0).sigma() - 0.5).abs() < 1e-6);
    }

    /// Texture in some tones is no noise of the others.
    #[test]
    fn texture_counts_little() {
        let stock = Catalogue::first();
        let mut luminance = [0.01; TONES];
        luminance[4] = 0.2;
        let levels = NoiseLevels { luminance, colour: [0.01; TONES] };
        let own = own_noise(&levels, 1.0, &stock, &Development::new(&stock)).unwrap().unwrap();
        assert!(own.tones.iter().all(|t| t.sigma() < 0.04), "{:?}", own.sigma());
    }
}
