//! RGB spaces as matrices between linear light and CIE XYZ.
//!
//! The working space has the primaries of ITU-R BT.2020 and the white of D65: wide enough for Display P3 and the
//! usual wide profiles, and all its coordinates of real print colours are positive. The film models are stated in
//! linear sRGB, in which the spectral uplift is valid; both share D65, so a neutral is the same in both.

use crate::numeric::Matrix3;

/// CIE 1931 chromaticity of D65 (ITU-R BT.709-6, BT.2020-2).
pub const D65_XY: [f64; 2] = [0.3127, 0.3290];

/// Chromaticities of red, green, blue: sRGB (IEC 61966-2-1, as ITU-R BT.709-6).
pub const SRGB_PRIMARIES: [[f64; 2]; 3] = [[0.64, 0.33], [0.30, 0.60], [0.15, 0.06]];
/// Chromaticities of red, green, blue: ITU-R BT.2020-2.
pub const WIDE_PRIMARIES: [[f64; 2]; 3] = [[0.708, 0.292], [0.170, 0.797], [0.131, 0.046]];

/// Weights of red, green, blue in luminance Y, linear sRGB (ITU-R BT.709-6).
pub const SRGB_LUMINANCE: [f64; 3] = [0.2126, 0.7152, 0.0722];

/// Weights of red, green, blue in luminance Y, linear working space (ITU-R BT.2020-2), for pixel loops.
pub const WIDE_LUMINANCE: [f32; 3] = [0.2627, 0.6780, 0.0593];

/// XYZ of a chromaticity at Y = 1.
pub const fn xyz_of_chromaticity(xy: [f64; 2]) -> [f64; 3] {
    [xy[0] / xy[1], 1.0, (1.0 - xy[0] - xy[1]) / xy[1]]
}

/// Linear RGB to XYZ for primaries and white (SMPTE RP 177).
pub const fn rgb_to_xyz(primaries: [[f64; 2]; 3], white: [f64; 2]) -> Matrix3 {
    let [r, g, b] = primaries;
    let (r, g, b) = (xyz_of_chromaticity(r), xyz_of_chromaticity(g), xyz_of_chromaticity(b));
    let unscaled = Matrix3([[r[0], g[0], b[0]], [r[1], g[1], b[1]], [r[2], g[2], b[2]]]);
    let gain = unscaled.inverted().apply(xyz_of_chromaticity(white));
    unscaled.after(&Matrix3::diagonal(gain))
}

/// Light of mid grey, zone V.
pub const MID_GREY: f32 = 0.18;

/// Linear sRGB to XYZ (D65).
pub const SRGB_TO_XYZ: Matrix3 = rgb_to_xyz(SRGB_PRIMARIES, D65_XY);
/// XYZ (D65) to linear sRGB.
pub const XYZ_TO_SRGB: Matrix3 = SRGB_TO_XYZ.inverted();
/// Linear working RGB to XYZ (D65).
pub const WIDE_TO_XYZ: Matrix3 = rgb_to_xyz(WIDE_PRIMARIES, D65_XY);
/// XYZ (D65) to linear working RGB.
pub const XYZ_TO_WIDE: Matrix3 = WIDE_TO_XYZ.inverted();
/// Linear working RGB to linear sRGB, unbounded.
pub const WIDE_TO_SRGB: Matrix3 = XYZ_TO_SRGB.after(&WIDE_TO_XYZ);
/// Linear sRGB to linear working RGB.
pub const SRGB_TO_WIDE: Matrix3 = XYZ_TO_WIDE.after(&SRGB_TO_XYZ);

#[cfg(test)]
mod tests {
    use super::*;

    /// The matrix published in IEC 61966-2-1 (four decimals).
    #[test]
    fn srgb_matrix_as_published() {
        let published = [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]];
        for (row, expected) in SRGB_TO_XYZ.0.iter().zip(published) {
            for (a, b) in row.iter().zip(expected) {
                assert!((a - b).abs() < 1e-4, "{a} {b}");
            }
        }
    }

    /// ITU-R BT.2020-2, table 4: luminance weights.
    #[test]
    fn wide_luminance_as_published() {
        for (a, b) in WIDE_TO_XYZ.0[1].iter().zip(WIDE_LUMINANCE.map(f64::from)) {
            assert!((a - b).abs() < 1e-4);
        }
    }

    #[test]
    fn neutrals_are_shared() {
        for v in WIDE_TO_SRGB.apply([0.37; 3]) {
            assert!((v - 0.37).abs() < 1e-12);
        }
    }
}
