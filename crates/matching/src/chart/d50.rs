//! Colours as charts state them, CIE Lab under D50, and as pictures hold them, linear sRGB under D65.

use amber_core::colour::adaptation::adapt;
use amber_core::colour::lab::{Lab, from_xyz};
use amber_core::colour::space::{D65_XY, SRGB_TO_XYZ, XYZ_TO_SRGB, xyz_of_chromaticity};

/// Chromaticity of D50 (CIE 15).
const D50_XY: [f64; 2] = [0.345_67, 0.358_50];

/// Linear sRGB, unbounded, of a colour under D50.
pub fn linear_srgb_of(lab: Lab) -> [f64; 3] {
    let white = xyz_of_chromaticity(D50_XY);
    let fy = (lab[0] + 16.0) / 116.0;
    let back = |f: f64| if f > 6.0 / 29.0 { f.powi(3) } else { (f - 4.0 / 29.0) * 3.0 * (6.0f64 / 29.0).powi(2) };
    let f = [fy + lab[1] / 500.0, fy, fy - lab[2] / 200.0];
    let xyz = std::array::from_fn(|k| white[k] * back(f[k]));
    XYZ_TO_SRGB.apply(adapt(white, xyz_of_chromaticity(D65_XY)).apply(xyz))
}

/// The colour under D50 of linear sRGB.
pub fn lab_of(linear: [f64; 3]) -> Lab {
    let white = xyz_of_chromaticity(D50_XY);
    from_xyz(adapt(xyz_of_chromaticity(D65_XY), white).apply(SRGB_TO_XYZ.apply(linear)), white)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn colours_come_back_and_white_is_white() {
        for lab in [[50.0, 0.0, 0.0], [62.0, 19.0, 13.0], [29.2, -5.2, -49.4], [96.0, 0.1, 1.0]] {
            let back = lab_of(linear_srgb_of(lab));
            assert!(back.iter().zip(lab).all(|(a, b)| (a - b).abs() < 1e-6), "{lab:?} {back:?}");
        }
        // sRGB's red under D50 is L* 54.29, a* 80.81, b* 69.89 (ICC's sRGB profile, from memory)
        let red = lab_of([1.0, 0.0, 0.0]);
        assert!(
            (red[0] - 54.29).abs() < 0.05 && (red[1] - 80.81).abs() < 0.15 && (red[2] - 69.89).abs() < 0.15,
            "{red:?}"
        );
        assert!(lab_of([1.0; 3])[1].abs() < 0.01);
    }
}
