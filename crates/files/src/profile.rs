//! Colour profiles (ICC).

use amber_core::colour::space::WIDE_TO_SRGB;
use amber_core::colour::transfer::decode_srgb;
use amber_core::picture::source::{code_of_encoded, code_of_linear};
use moxcms::{ColorProfile, DataColorSpace, Layout, ToneReprCurve, TransformOptions};
use rayon::prelude::*;

use crate::error::FileError;

/// Pixels converted at a time.
const CHUNK: usize = 1 << 16;

fn unusable(why: impl ToString) -> FileError {
    FileError::Profile { why: why.to_string() }
}

/// The sRGB profile that exports carry.
pub fn srgb() -> Result<Vec<u8>, FileError> {
    ColorProfile::new_srgb().encode().map_err(unusable)
}

/// The working space as a profile: BT.2020 primaries with the sRGB curve.
fn working() -> ColorProfile {
    let mut profile = ColorProfile::new_bt2020();
    let curve = ToneReprCurve::Parametric(vec![2.4, 1. / 1.055, 0.055 / 1.055, 1. / 12.92, 0.04045]);
    profile.red_trc = Some(curve.clone());
    profile.green_trc = Some(curve.clone());
    profile.blue_trc = Some(curve);
    profile.cicp = None;
    profile
}

/// Encoded samples (0..1, three per pixel, or one for a grey picture) in the file's own space to a source's codes,
/// by the file's profile, or as sRGB where it has none.
pub fn to_working(samples: &[f32], grey: bool, icc: Option<&[u8]>) -> Result<Vec<u16>, FileError> {
    let channels = if grey { 1 } else { 3 };
    let Some(icc) = icc else { return Ok(from_srgb(samples, grey)) };
    let profile = ColorProfile::new_from_slice(icc).map_err(unusable)?;
    let (wanted, layout) = if grey { (DataColorSpace::Gray, Layout::Gray) } else { (DataColorSpace::Rgb, Layout::Rgb) };
    if profile.color_space != wanted {
        return Err(unusable(format!(
            "it describes {:?} colours, but the picture has {wanted:?}",
            profile.color_space
        )));
    }
    let target = working();
    let transform =
        profile.create_transform_f32(layout, &target, Layout::Rgb, TransformOptions::default()).map_err(unusable)?;
    let mut codes = vec![0u16; samples.len() / channels * 3];
    codes.par_chunks_mut(3 * CHUNK).zip(samples.par_chunks(channels * CHUNK)).try_for_each(|(out, given)| {
        let mut converted = vec![0.0f32; out.len()];
        transform.transform(given, &mut converted).map_err(unusable)?;
        for (pixel, wide) in out.chunks_exact_mut(3).zip(converted.chunks_exact(3)) {
            let light = WIDE_TO_SRGB.apply([0, 1, 2].map(|k| decode_srgb(wide[k].clamp(0.0, 1.0) as f64)));
            for (code, light) in pixel.iter_mut().zip(light) {
                *code = code_of_linear(light);
            }
        }
        Ok::<_, FileError>(())
    })?;
    Ok(codes)
}

/// sRGB as it stands: the codes are sRGB's own.
fn from_srgb(samples: &[f32], grey: bool) -> Vec<u16> {
    let copies = if grey { 3 } else { 1 };
    samples.iter().flat_map(|v| std::iter::repeat_n(code_of_encoded(*v as f64), copies)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Within half a step of 8 bits: the profile passes through the rounded numbers of its own format.
    #[test]
    fn an_srgb_profile_and_none_agree() {
        let samples: Vec<f32> = (0..300).map(|i| (i * 37 % 256) as f32 / 255.0).collect();
        let plain = to_working(&samples, false, None).unwrap();
        let tagged = to_working(&samples, false, Some(&srgb().unwrap())).unwrap();
        for (a, b) in plain.iter().zip(&tagged) {
            assert!(a.abs_diff(*b) <= 61, "{a} {b}");
        }
    }

    /// Display P3's red lies outside sRGB (SMPTE RP 431-2 primaries, from memory).
    #[test]
    fn a_wide_profile_is_honoured() {
        let p3 = ColorProfile::new_display_p3().encode().unwrap();
        let red = to_working(&[1.0, 0.0, 0.0], false, Some(&p3)).unwrap();
        let light = |c: u16| amber_core::picture::source::linear_of_code()[c as usize];
        // P3 red in linear sRGB: 1.2249, -0.0420, -0.0197 (from the published primaries)
        for (code, wanted) in red.iter().zip([1.2249, -0.0420, -0.0197]) {
            assert!((light(*code) - wanted).abs() < 0.004, "{}", light(*code));
        }
    }

    #[test]
    fn nonsense_is_refused_with_a_sentence() {
        let error = to_working(&[0.0; 3], false, Some(b"not a profile")).unwrap_err().to_string();
        assert!(error.contains("colour profile"), "{error}");
    }
}
