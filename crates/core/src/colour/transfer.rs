//! The sRGB transfer function (IEC 61966-2-1), in double precision for set-up and in single precision for pixels.

use crate::numeric::{exp2, log2};

/// Encoded value in 0..1 to linear light in 0..1.
pub fn decode_srgb(encoded: f64) -> f64 {
    if encoded <= 0.04045 { encoded / 12.92 } else { ((encoded + 0.055) / 1.055).powf(2.4) }
}

/// Linear light in 0..1 to the encoded value in 0..1.
pub fn encode_srgb(linear: f64) -> f64 {
    if linear <= 0.003_130_8 { linear * 12.92 } else { 1.055 * linear.powf(1.0 / 2.4) - 0.055 }
}

/// [`decode_srgb`] for pixel loops: no branch, own logarithm and exponential.
#[inline(always)]
pub fn decode_srgb_f32(encoded: f32) -> f32 {
    let curved = exp2(2.4 * log2(((encoded + 0.055) * (1.0 / 1.055)).max(1e-6)));
    if encoded <= 0.04045 { encoded * (1.0 / 12.92) } else { curved }
}

/// [`encode_srgb`] for pixel loops.
#[inline(always)]
pub fn encode_srgb_f32(linear: f32) -> f32 {
    let curved = 1.055 * exp2((1.0 / 2.4) * log2(linear.max(1e-6))) - 0.055;
    if linear <= 0.003_130_8 { linear * 12.92 } else { curved }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// IEC 61966-2-1, values also published in the W3C's sRGB note.
    #[test]
    fn published_values() {
        assert!((decode_srgb(0.5) - 0.214_041).abs() < 1e-6);
        assert!((decode_srgb(0.04045) - 0.003_130_8).abs() < 1e-6);
        assert!((encode_srgb(0.003_130_8) - 0.04045).abs() < 1e-6);
    }

    #[test]
    fn round_trip_and_single_precision() {
        for i in 0..=4096 {
            let v = i as f64 / 4096.0;
            assert!((encode_srgb(decode_srgb(v)) - v).abs() < 1e-6);
            assert!((encode_srgb_f32(decode_srgb_f32(v as f32)) as f64 - v).abs() < 1e-6);
            assert!((decode_srgb_f32(v as f32) as f64 - decode_srgb(v)).abs() < 1e-6);
        }
    }

    #[test]
    fn agrees_with_an_independent_library() {
        for i in 0..=255 {
            let v = i as f32 / 255.0;
            let theirs = palette::Srgb::new(v, v, v).into_linear::<f32>().red;
            assert!((theirs - decode_srgb_f32(v)).abs() < 1e-6);
        }
    }
}
