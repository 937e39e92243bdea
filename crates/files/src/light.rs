//! 32-bit floating point: samples that are scene light itself.
//!
//! Light has no white; the codes in which a picture is held end 0.87 stops above it. What is brighter is divided by a
//! power of two, and whoever opens the file gives the picture as many stops of exposure.

use amber_core::Source;
use amber_core::picture::source::code_of_linear;

use crate::error::FileError;

/// Brightest linear value that has a code.
const BRIGHTEST: f32 = 1.8;
/// Most stops that are taken; above them light is clipped.
const MOST_STOPS: u32 = 6;

/// The picture of linear light of the sRGB primaries, and the stops that were taken from it.
pub fn source_of(width: u32, height: u32, light: &[f32]) -> Result<(Source, u32), FileError> {
    if light.iter().any(|v| !v.is_finite()) {
        return Err(FileError::UnreadableColours { what: "numbers of which some are no numbers" });
    }
    let brightest = light.iter().fold(0.0f32, |most, v| most.max(*v));
    let stops = (brightest / BRIGHTEST).max(1.0).log2().ceil() as u32;
    let stops = stops.min(MOST_STOPS);
    let share = 0.5f64.powi(stops as i32);
    let codes = light.iter().map(|v| code_of_linear(f64::from(*v) * share)).collect();
    Ok((Source::new(width, height, codes).ok_or(FileError::NotAPicture)?, stops))
}

#[cfg(test)]
mod tests {
    use amber_core::picture::source::linear_of_code;

    use super::*;

    #[test]
    fn light_above_white_keeps_its_ratios() {
        let of = |values: [f32; 3]| source_of(1, 1, &values).unwrap();
        assert_eq!(of([0.18, 0.5, 1.0]).1, 0);
        let (source, stops) = of([0.18, 3.0, 12.0]);
        assert_eq!(stops, 3);
        let light = source.pixel(0).map(|code| linear_of_code()[usize::from(code)]);
        for (v, wanted) in light.into_iter().zip([0.18 / 8.0, 3.0 / 8.0, 12.0 / 8.0]) {
            assert!((v - wanted).abs() < 2e-4, "{v} {wanted}");
        }
        assert!(source_of(1, 1, &[f32::NAN; 3]).is_err());
    }
}
