//! CIE 1976 L*a*b* (CIE 15).

use super::space::{D65_XY, SRGB_TO_XYZ, xyz_of_chromaticity};

/// L*, a*, b*.
pub type Lab = [f64; 3];

/// L*a*b* of XYZ relative to a white.
pub fn from_xyz(xyz: [f64; 3], white: [f64; 3]) -> Lab {
    let f = |t: f64| {
        if t > (6.0f64 / 29.0).powi(3) { t.cbrt() } else { t * (29.0f64 / 6.0).powi(2) / 3.0 + 4.0 / 29.0 }
    };
    let [fx, fy, fz] = std::array::from_fn(|k| f(xyz[k] / white[k]));
    [116.0 * fy - 16.0, 500.0 * (fx - fy), 200.0 * (fy - fz)]
}

/// L*a*b* of linear sRGB relative to D65.
pub fn from_linear_srgb(rgb: [f64; 3]) -> Lab {
    from_xyz(SRGB_TO_XYZ.apply(rgb), xyz_of_chromaticity(D65_XY))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn grey_and_white() {
        let white = from_linear_srgb([1.0; 3]);
        assert!((white[0] - 100.0).abs() < 1e-9 && white[1].abs() < 1e-9 && white[2].abs() < 1e-9);
        // the 18 % grey lies at L* 49.5 (common practice, no source)
        assert!((from_linear_srgb([0.18; 3])[0] - 49.5).abs() < 0.1);
    }
}
