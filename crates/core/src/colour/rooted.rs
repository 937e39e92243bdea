//! The sRGB transfer function by square roots and polynomials, for all pixels of a picture.
//!
//! Less than half the arithmetic of a logarithm and an exponential, and as fixed: IEEE square roots, multiplications
//! and additions in a stated order. Between black and well above white it is within a tenth of a 16-bit step of the
//! exact function; what is brighter goes the long way. The coefficients are minimax fits by Lawson's algorithm (1961,
//! iteratively reweighted least squares), errors weighed as encoded values.

use super::transfer::{decode_srgb_f32, encode_srgb_f32};
use crate::numeric::runs::any_above;

/// Encoded values up to which [`decode`] has its polynomial, and light up to which [`encode`] has.
const HIGHEST_ENCODED: f32 = 1.5275;
const HIGHEST_LIGHT: f32 = 2.0;

/// x^1.4 in powers of the square root of x, for x from 0.09 to 1.5.
const POWER: [f32; 7] =
    [0.000_864_445_06, -0.013_636_481, 0.124_280_766, 1.029_985_3, -0.192_161_44, 0.060_239_43, -0.009_572_575];

/// The encoded value in powers of the fourth root of the light, for light from 0.0031 to 2.
const ENCODED: [f32; 8] =
    [-0.059_011_698, 0.131_769_02, 1.412_976_4, -1.003_347_8, 0.934_059_3, -0.612_856_15, 0.236_185_12, -0.039_774_947];

/// A polynomial by Horner's rule, the coefficient of the highest power last.
#[inline(always)]
fn polynomial<const N: usize>(coefficients: &[f32; N], x: f32) -> f32 {
    let mut sum = coefficients[N - 1];
    for c in coefficients[..N - 1].iter().rev() {
        sum = sum * x + c;
    }
    sum
}

#[inline(always)]
fn decode_usual(encoded: f32) -> f32 {
    let x = (encoded + 0.055).max(0.0) * (1.0 / 1.055);
    let curved = x * polynomial(&POWER, x.sqrt());
    if encoded <= 0.04045 { encoded * (1.0 / 12.92) } else { curved }
}

#[inline(always)]
fn encode_usual(linear: f32) -> f32 {
    let curved = polynomial(&ENCODED, linear.max(0.0).sqrt().sqrt());
    if linear <= 0.003_130_8 { linear * 12.92 } else { curved }
}

/// Encoded value to linear light: what [`decode_all`] makes of each.
#[inline(always)]
fn decode(encoded: f32) -> f32 {
    if encoded > HIGHEST_ENCODED { decode_srgb_f32(encoded) } else { decode_usual(encoded) }
}

/// Linear light to the encoded value: what [`encode_all`] makes of each.
#[inline(always)]
fn encode(linear: f32) -> f32 {
    if linear > HIGHEST_LIGHT { encode_srgb_f32(linear) } else { encode_usual(linear) }
}

/// [`decode`] of all values.
#[inline(always)]
pub fn decode_all(values: &mut [f32]) {
    match any_above(values, HIGHEST_ENCODED) {
        true => values.iter_mut().for_each(|v| *v = decode(*v)),
        false => values.iter_mut().for_each(|v| *v = decode_usual(*v)),
    }
}

/// [`encode`] of all values, brought between black and a highest light first.
#[inline(always)]
pub fn encode_all(values: &mut [f32], highest: f32) {
    values.iter_mut().for_each(|v| *v = v.max(0.0).min(highest));
    match any_above(values, HIGHEST_LIGHT) {
        true => values.iter_mut().for_each(|v| *v = encode(*v)),
        false => values.iter_mut().for_each(|v| *v = encode_usual(*v)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::colour::transfer::decode_srgb;

    /// A tenth of a step of 16 bits.
    const TENTH: f64 = 0.1 / 65535.0;

    /// In encoded values over the whole range, above white and across the ends of the polynomials.
    #[test]
    fn within_a_tenth_of_a_sixteen_bit_step() {
        let slope = |encoded: f64| {
            if encoded <= 0.04045 { 1.0 / 12.92 } else { 2.2749 * ((encoded + 0.055) / 1.055).powf(1.4) }
        };
        for i in 0..=400_000 {
            let v = 1.9 * f64::from(i) / 400_000.0;
            let decoded = f64::from(decode(v as f32));
            assert!((decoded - decode_srgb(v)).abs() < TENTH * slope(v), "{v}: {decoded}");
            let light = decode_srgb(v);
            let encoded = f64::from(encode(light as f32));
            assert!((encoded - v).abs() < TENTH, "{light}: {encoded}");
        }
        assert_eq!((decode(0.0), encode(0.0)), (0.0, 0.0));
        assert!((encode(decode(1.0)) - 1.0).abs() < TENTH as f32);
        assert!(encode(-0.2) < 0.0 && decode(-0.1) < 0.0 && encode(f32::NAN).is_finite());
    }

    /// Many give the bits of one, whether or not something too bright is among them.
    #[test]
    fn many_are_one_by_one() {
        for brightest in [1.0f32, 5.0] {
            let values: [f32; 64] =
                std::array::from_fn(|i| i as f32 / 60.0 * if i == 9 { 6.0 * brightest } else { 1.0 });
            let (mut light, mut shown) = (values, values);
            decode_all(&mut light);
            encode_all(&mut shown, f32::INFINITY);
            for i in 0..64 {
                assert_eq!(light[i].to_bits(), decode(values[i]).to_bits());
                assert_eq!(shown[i].to_bits(), encode(values[i]).to_bits());
            }
        }
    }
}
