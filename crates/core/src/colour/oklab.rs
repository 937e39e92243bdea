//! Oklab, a perceptual space (Ottosson 2020).

use crate::numeric::Matrix3;

const XYZ_TO_CONES: Matrix3 = Matrix3([
    [0.818_933_010_1, 0.361_866_742_4, -0.128_859_713_7],
    [0.032_984_543_6, 0.929_311_871_5, 0.036_145_638_7],
    [0.048_200_301_8, 0.264_366_269_1, 0.633_851_707_0],
]);

const CONES_TO_LAB: Matrix3 = Matrix3([
    [0.210_454_255_3, 0.793_617_785_0, -0.004_072_046_8],
    [1.977_998_495_1, -2.428_592_205_0, 0.450_593_709_9],
    [0.025_904_037_1, 0.782_771_766_2, -0.808_675_766_0],
]);

/// Oklab L, a, b of XYZ under D65.
pub fn from_xyz(xyz: [f64; 3]) -> [f64; 3] {
    CONES_TO_LAB.apply(XYZ_TO_CONES.apply(xyz).map(f64::cbrt))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Ottosson 2020, "A perceptual color space for image processing": the table of test values.
    #[test]
    fn published_values() {
        let table = [
            ([0.950, 1.000, 1.089], [1.000, 0.000, 0.000]),
            ([1.000, 0.000, 0.000], [0.450, 1.236, -0.019]),
            ([0.000, 1.000, 0.000], [0.922, -0.671, 0.263]),
            ([0.000, 0.000, 1.000], [0.153, -1.415, -0.449]),
        ];
        for (xyz, expected) in table {
            for (a, b) in from_xyz(xyz).iter().zip(expected) {
                assert!((a - b).abs() < 1e-3, "{xyz:?}: {a} {b}");
            }
        }
    }
}
