//! White balance: the colour of the light in the scene.

use crate::colour::adaptation::{BRADFORD, BRADFORD_BACK};
use crate::colour::illuminant::{black_body, white_point};
use crate::colour::space::{WIDE_TO_XYZ, XYZ_TO_WIDE};
use crate::numeric::Matrix3;

/// The light for which the picture's own balance stands.
pub const OWN_KELVIN: f64 = 5500.0;

/// The matrix in the working space that balances the picture.
///
/// `kelvin` is the light that the scene is taken to have had: a higher value makes the picture warmer, as in the
/// trade. Both lights are taken as black bodies, so the scale has no seam; the gains act on Bradford's responses.
/// `tint_cc` is a density in the green, positive towards magenta (1 CC = 0.01 density). A neutral keeps its luminance.
pub fn balance(kelvin: f64, tint_cc: f64) -> Matrix3 {
    let of = |k: f64| BRADFORD.apply(white_point(&black_body(k)));
    let (own, scene) = (of(OWN_KELVIN), of(kelvin));
    let gain = Matrix3::diagonal(std::array::from_fn(|i| own[i] / scene[i]));
    let in_xyz = BRADFORD_BACK.after(&gain.after(&BRADFORD));
    let temperature = XYZ_TO_WIDE.after(&in_xyz.after(&WIDE_TO_XYZ));
    let tint = Matrix3::diagonal([1.0, 10f64.powf(-0.01 * tint_cc), 1.0]);
    let both = tint.after(&temperature);
    let luminance: f64 = WIDE_TO_XYZ.0[1].iter().zip(both.apply([1.0; 3])).map(|(w, v)| w * v).sum();
    both.scaled(1.0 / luminance)
}

/// Temperature in kelvin and tint in CC that make a light of the working space, as it is without balance, neutral: as
/// near as the given limits allow. `None` for black.
pub fn neutralising(rgb: [f64; 3], kelvin: [f64; 2], tint_cc: [f64; 2]) -> Option<(f64, f64)> {
    if rgb.iter().any(|v| *v <= 1e-6 || !v.is_finite()) {
        return None;
    }
    // a higher temperature only makes red over blue larger: halve the interval, in mired, until they are equal
    let of = |mired: f64| balance(1e6 / mired, 0.0).apply(rgb);
    let (mut warm, mut cool) = (1e6 / kelvin[1], 1e6 / kelvin[0]);
    for _ in 0..40 {
        let middle = 0.5 * (warm + cool);
        let [r, _, b] = of(middle);
        if r > b { warm = middle } else { cool = middle }
    }
    let mired = 0.5 * (warm + cool);
    let [r, g, b] = of(mired);
    let tint = 100.0 * (g / (r * b).sqrt()).log10();
    Some((1e6 / mired, tint.clamp(tint_cc[0], tint_cc[1])))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn own_values_change_nothing() {
        let m = balance(OWN_KELVIN, 0.0);
        for i in 0..3 {
            for j in 0..3 {
                assert!((m.0[i][j] - f64::from(i == j)).abs() < 1e-9);
            }
        }
    }

    #[test]
    fn higher_is_warmer_and_positive_tint_is_magenta() {
        let [r, g, b] = balance(7500.0, 0.0).apply([0.18; 3]);
        assert!(r > g && g > b);
        let [r, g, b] = balance(3200.0, 0.0).apply([0.18; 3]);
        assert!(r < g && g < b);
        let [r, g, b] = balance(OWN_KELVIN, 20.0).apply([0.18; 3]);
        assert!(g < r && g < b);
        assert!((g / r - 10f64.powf(-0.2)).abs() < 1e-9);
    }

    #[test]
    fn a_picked_grey_becomes_neutral() {
        let limits = ([2500.0, 12_000.0], [-50.0, 50.0]);
        for rgb in [[0.3, 0.2, 0.1], [0.1, 0.12, 0.2], [0.2, 0.25, 0.2], [0.18; 3]] {
            let (kelvin, tint) = neutralising(rgb, limits.0, limits.1).unwrap();
            let [r, g, b] = balance(kelvin, tint).apply(rgb);
            assert!((r / g - 1.0).abs() < 1e-3 && (b / g - 1.0).abs() < 1e-3, "{rgb:?}: {kelvin} {tint}");
        }
        let (kelvin, tint) = neutralising([0.4; 3], limits.0, limits.1).unwrap();
        assert!((kelvin - OWN_KELVIN).abs() < 1.0 && tint.abs() < 1e-6);
        // beyond the limits: as near as they allow
        assert!((neutralising([1.0, 0.1, 0.001], limits.0, limits.1).unwrap().0 - 2500.0).abs() < 1.0);
        assert!(neutralising([0.0, 0.1, 0.1], limits.0, limits.1).is_none());
    }

    #[test]
    fn a_neutral_keeps_its_luminance() {
        for (kelvin, tint) in [(2500.0, -30.0), (10_000.0, 12.0)] {
            let rgb = balance(kelvin, tint).apply([0.5; 3]);
            let y: f64 = WIDE_TO_XYZ.0[1].iter().zip(rgb).map(|(w, v)| w * v).sum();
            assert!((y - 0.5).abs() < 1e-9);
        }
    }
}
