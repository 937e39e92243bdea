//! Oklab, a perceptual space (Ottosson 2020).

use crate::colour::space::WIDE_TO_XYZ;
use crate::numeric::matrix::dot;
use crate::numeric::runs::{Lane, each, each_pixel};
use crate::numeric::{Matrix3, exp2, log2};

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

/// Linear working-space RGB to Oklab and back in single precision, for pixel loops.
#[derive(Debug, Clone)]
pub struct WideToOklab {
    to_cones: [[f32; 3]; 3],
    to_lab: [[f32; 3]; 3],
    from_lab: [[f32; 3]; 3],
    from_cones: [[f32; 3]; 3],
}

impl Default for WideToOklab {
    fn default() -> Self {
        Self::new()
    }
}

/// Cube root by our own logarithm and exponential: the same bits on every machine.
#[inline(always)]
fn cube_root(v: f32) -> f32 {
    if v > 1e-9 { exp2(log2(v) * (1.0 / 3.0)) } else { 0.0 }
}

#[inline(always)]
fn multiply(m: &[[f32; 3]; 3], v: [f32; 3]) -> [f32; 3] {
    [dot(&m[0], v[0], v[1], v[2]), dot(&m[1], v[0], v[1], v[2]), dot(&m[2], v[0], v[1], v[2])]
}

impl WideToOklab {
    /// The matrices of the working space.
    pub fn new() -> Self {
        let cones = XYZ_TO_CONES.after(&WIDE_TO_XYZ);
        // each row sums to one, so that a neutral has equal cones and no chroma at all
        let normal = Matrix3(cones.0.map(|row| row.map(|v| v / row.iter().sum::<f64>())));
        // likewise the rows of a and b sum to zero
        let lab = Matrix3(std::array::from_fn(|i| {
            let row = CONES_TO_LAB.0[i];
            let off = (row.iter().sum::<f64>() - f64::from(i == 0)) / 3.0;
            row.map(|v| v - off)
        }));
        let inverse = |m: &Matrix3| m.inverted().to_f32();
        Self { from_lab: inverse(&lab), from_cones: inverse(&normal), to_cones: normal.to_f32(), to_lab: lab.to_f32() }
    }

    /// Oklab of linear working-space RGB; negative cones count as 0.
    #[inline(always)]
    pub fn lab(&self, rgb: [f32; 3]) -> [f32; 3] {
        // written out: a mapped array keeps the loop around it from becoming a vector loop
        let [l, m, s] = multiply(&self.to_cones, rgb);
        multiply(&self.to_lab, [cube_root(l), cube_root(m), cube_root(s)])
    }

    /// [`WideToOklab::lab`] of a run of pixels.
    #[inline(always)]
    pub fn lab_run(&self, run: &mut [Lane; 3]) {
        each_pixel(run, |rgb| multiply(&self.to_cones, rgb));
        run.iter_mut().for_each(|lane| each(lane, cube_root));
        each_pixel(run, |cones| multiply(&self.to_lab, cones));
    }

    /// Linear working-space RGB of Oklab.
    #[inline(always)]
    pub fn rgb(&self, lab: [f32; 3]) -> [f32; 3] {
        let [l, m, s] = multiply(&self.from_lab, lab);
        multiply(&self.from_cones, [l * l * l, m * m * m, s * s * s])
    }
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

    #[test]
    fn pixels_come_back_and_greys_have_no_chroma() {
        let space = WideToOklab::new();
        for rgb in [[0.2, 0.5, 0.1], [0.9, 0.05, 0.02], [0.01, 0.02, 0.4]] {
            for (a, b) in space.rgb(space.lab(rgb)).iter().zip(rgb) {
                assert!((a - b).abs() < 2e-6, "{rgb:?}");
            }
            let exact = from_xyz(WIDE_TO_XYZ.apply(rgb.map(f64::from)));
            for (a, b) in space.lab(rgb).iter().zip(exact) {
                assert!((*a as f64 - b).abs() < 2e-4, "{rgb:?}: {a} {b}");
            }
        }
        let [_, a, b] = space.lab([0.18; 3]);
        assert!(a.abs() < 1e-6 && b.abs() < 1e-6);
    }

    #[test]
    fn runs_are_their_pixels() {
        let space = WideToOklab::new();
        let rgb: [Lane; 3] = std::array::from_fn(|k| std::array::from_fn(|i| (i * (k + 2)) as f32 / 90.0 - 0.1));
        let mut run = rgb;
        space.lab_run(&mut run);
        for i in 0..run[0].len() {
            assert_eq!(space.lab([0, 1, 2].map(|k| rgb[k][i])), [0, 1, 2].map(|k| run[k][i]), "{i}");
        }
    }
}
