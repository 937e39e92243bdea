//! Colour profiles (ICC).

use std::sync::Arc;

use amber_core::colour::space::WIDE_TO_SRGB;
use amber_core::colour::transfer::decode_srgb;
use amber_core::output::OutputSpace;
use amber_core::picture::source::{code_of_encoded, code_of_linear};
use moxcms::{ColorProfile, DataColorSpace, Layout, ToneReprCurve, TransformExecutor, TransformOptions};

use crate::error::FileError;

/// Levels of each channel at which a profile is compared with sRGB.
const PROBES: usize = 17;
/// A step of 8 bits and what rounding adds, in codes: the numbers of a profile are rounded themselves, and near black
/// that is as much.
const A_STEP: u16 = 128;

fn unusable(why: impl ToString) -> FileError {
    FileError::Profile { why: why.to_string() }
}

/// Where the header of a profile has the time at which it was made (ICC.1, 7.2): six numbers of two bytes.
const MADE_AT: std::ops::Range<usize> = 24..36;
/// The first of January 2000, midnight: the same export is the same file whenever it is made.
const MADE: [u16; 6] = [2000, 1, 1, 0, 0, 0];

/// The sRGB profile that exports carry.
pub fn srgb() -> Result<Vec<u8>, FileError> {
    of_space(OutputSpace::Srgb)
}

/// The profile of an output space.
pub fn of_space(space: OutputSpace) -> Result<Vec<u8>, FileError> {
    let profile = match space {
        OutputSpace::Srgb => ColorProfile::new_srgb(),
        OutputSpace::DisplayP3 => ColorProfile::new_display_p3(),
        OutputSpace::Rec2020 => working(),
    };
    let mut profile = profile.encode().map_err(unusable)?;
    if let Some(time) = profile.get_mut(MADE_AT) {
        time.chunks_exact_mut(2).zip(MADE).for_each(|(bytes, number)| bytes.copy_from_slice(&number.to_be_bytes()));
    }
    Ok(profile)
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

/// The way from a file's encoded samples (0..1, three per pixel, or one for a grey picture) to a source's codes: by the
/// file's profile, or as sRGB where it has none.
pub struct ToWorking {
    grey: bool,
    transform: Option<Arc<dyn TransformExecutor<f32> + Send + Sync>>,
}

impl ToWorking {
    pub fn new(grey: bool, icc: Option<&[u8]>) -> Result<Self, FileError> {
        let Some(icc) = icc else { return Ok(Self { grey, transform: None }) };
        let profile = ColorProfile::new_from_slice(icc).map_err(unusable)?;
        let (wanted, layout) =
            if grey { (DataColorSpace::Gray, Layout::Gray) } else { (DataColorSpace::Rgb, Layout::Rgb) };
        if profile.color_space != wanted {
            return Err(unusable(format!(
                "it describes {:?} colours, but the picture has {wanted:?}",
                profile.color_space
            )));
        }
        let options = TransformOptions::default();
        let transform = profile.create_transform_f32(layout, &working(), Layout::Rgb, options).map_err(unusable)?;
        let described = Self { grey, transform: Some(transform) };
        Ok(if described.says_srgb()? { Self { grey, transform: None } } else { described })
    }

    /// Whether samples are read as those of sRGB.
    pub fn is_srgb(&self) -> bool {
        self.transform.is_none()
    }

    /// Whether a profile says no more than that: its colours are sRGB's within a step of 8 bits.
    fn says_srgb(&self) -> Result<bool, FileError> {
        let channels = if self.grey { 1 } else { 3 };
        let colours = PROBES.pow(channels as u32);
        let level = |i: usize, k: usize| (i / PROBES.pow(k as u32) % PROBES) as f32 / (PROBES - 1) as f32;
        let probes: Vec<f32> = (0..colours).flat_map(|i| (0..channels).map(move |k| level(i, k))).collect();
        let (mut described, mut plain) = (vec![0; 3 * colours], vec![0; 3 * colours]);
        self.codes(&probes, &mut described)?;
        Self { grey: self.grey, transform: None }.codes(&probes, &mut plain)?;
        Ok(described.iter().zip(&plain).all(|(a, b)| a.abs_diff(*b) <= A_STEP))
    }

    /// Converts a run of pixels.
    pub fn codes(&self, samples: &[f32], codes: &mut [u16]) -> Result<(), FileError> {
        let Some(transform) = &self.transform else {
            let copies = if self.grey { 3 } else { 1 };
            for (codes, v) in codes.chunks_exact_mut(copies).zip(samples) {
                codes.fill(code_of_encoded(f64::from(*v)));
            }
            return Ok(());
        };
        let mut converted = vec![0.0f32; codes.len()];
        transform.transform(samples, &mut converted).map_err(unusable)?;
        for (pixel, wide) in codes.chunks_exact_mut(3).zip(converted.chunks_exact(3)) {
            let light = WIDE_TO_SRGB.apply([0, 1, 2].map(|k| decode_srgb(wide[k].clamp(0.0, 1.0) as f64)));
            for (code, light) in pixel.iter_mut().zip(light) {
                *code = code_of_linear(light);
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn to_working(samples: &[f32], grey: bool, icc: Option<&[u8]>) -> Result<Vec<u16>, FileError> {
        let mut codes = vec![0; if grey { 3 * samples.len() } else { samples.len() }];
        ToWorking::new(grey, icc)?.codes(samples, &mut codes)?;
        Ok(codes)
    }

    #[test]
    fn a_profile_does_not_say_when_it_was_written() {
        let profile = srgb().unwrap();
        assert_eq!(profile[MADE_AT], [7, 208, 0, 1, 0, 1, 0, 0, 0, 0, 0, 0]);
        assert!(ColorProfile::new_from_slice(&profile).is_ok());
    }

    /// Within half a step of 8 bits where it is not dark: the profile passes through rounded numbers.
    #[test]
    fn an_srgb_profile_and_none_agree() {
        assert!(ToWorking::new(false, Some(&srgb().unwrap())).unwrap().is_srgb());
        assert!(!ToWorking::new(false, Some(&of_space(OutputSpace::DisplayP3).unwrap())).unwrap().is_srgb());
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
