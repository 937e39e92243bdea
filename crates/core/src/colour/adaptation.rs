//! Chromatic adaptation by the Bradford transform (Lam 1985; matrix as in ICC.1 Annex E).

use crate::numeric::Matrix3;

/// XYZ to the sharpened cone responses of the Bradford transform.
pub const BRADFORD: Matrix3 =
    Matrix3([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]]);

/// And back.
pub const BRADFORD_BACK: Matrix3 = BRADFORD.inverted();

/// The matrix that carries XYZ seen under `from` to XYZ seen under `to` (both white points as XYZ).
pub fn adapt(from: [f64; 3], to: [f64; 3]) -> Matrix3 {
    let (a, b) = (BRADFORD.apply(from), BRADFORD.apply(to));
    let gain = Matrix3::diagonal([b[0] / a[0], b[1] / a[1], b[2] / a[2]]);
    BRADFORD_BACK.after(&gain.after(&BRADFORD))
}

#[cfg(test)]
mod tests {
    use super::*;

    const D50: [f64; 3] = [0.96422, 1.0, 0.82521];
    const D65: [f64; 3] = [0.95047, 1.0, 1.08883];

    #[test]
    fn white_becomes_white() {
        for (a, b) in adapt(D50, D65).apply(D50).iter().zip(D65) {
            assert!((a - b).abs() < 1e-12);
        }
    }

    #[test]
    fn agrees_with_an_independent_library() {
        use palette::chromatic_adaptation::AdaptFromUnclamped;
        use palette::white_point::{D50 as P50, D65 as P65};
        let colour = [0.31, 0.22, 0.11];
        let theirs = palette::Xyz::<P65, f64>::adapt_from_unclamped(palette::Xyz::<P50, f64>::new(0.31, 0.22, 0.11));
        let ours = adapt(D50, D65).apply(colour);
        for (a, b) in ours.iter().zip([theirs.x, theirs.y, theirs.z]) {
            assert!((a - b).abs() < 1e-4, "{a} {b}");
        }
    }
}
