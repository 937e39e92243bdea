//! `log2` and `exp2` in single precision with a fixed order of operations.
//!
//! The library functions of a platform may differ in their last bit from one machine or CPU feature to the next;
//! these do not: only IEEE additions, multiplications and divisions in a stated order, no fused multiply-add. They
//! are written without branches so that loops over them vectorise, and the vectorised loop gives the scalar's bits.

const SQRT_HALF_BITS: u32 = 0x3f35_04f3;
const TWO_OVER_LN_2: f32 = 2.885_39;
const LN_2: f32 = std::f32::consts::LN_2;

/// log10(2): multiplies a base-2 logarithm (stops) into a base-10 one (density, log exposure).
pub const LOG10_OF_2: f32 = std::f32::consts::LOG10_2;
/// log2(10): multiplies a density into stops.
pub const LOG2_OF_10: f32 = std::f32::consts::LOG2_10;

/// Base-2 logarithm of a positive normal number; relative error below 2e-7 (absolute near 1).
///
/// Zero, negative and subnormal input is outside the contract: callers keep a floor.
#[inline(always)]
pub fn log2(x: f32) -> f32 {
    let shifted = x.to_bits().wrapping_sub(SQRT_HALF_BITS);
    let exponent = (shifted as i32) >> 23;
    let mantissa = f32::from_bits(x.to_bits().wrapping_sub((exponent << 23) as u32));
    // log2(m) = 2/ln2 atanh((m-1)/(m+1)), m in [sqrt 1/2, sqrt 2)
    let t = (mantissa - 1.0) / (mantissa + 1.0);
    let t2 = t * t;
    let series = ((t2 * (1.0 / 9.0) + 1.0 / 7.0) * t2 + 1.0 / 5.0) * t2 + 1.0 / 3.0;
    exponent as f32 + TWO_OVER_LN_2 * (t + t * t2 * series)
}

/// 2 to the power of `x`, `x` clamped to [-126, 126]; relative error below 2e-7.
#[inline(always)]
pub fn exp2(x: f32) -> f32 {
    // 1.5 x 2^23: adding it rounds to the nearest integer, and leaves that in the last bits (no conversion is needed,
    // which compilers do not vectorise)
    const ROUND: f32 = 12_582_912.0;
    const BIAS: u32 = 127;
    let x = x.clamp(-126.0, 126.0);
    let rounded = x + ROUND;
    let whole = rounded - ROUND;
    let y = (x - whole) * LN_2;
    let series =
        ((((((y * (1.0 / 5040.0) + 1.0 / 720.0) * y + 1.0 / 120.0) * y + 1.0 / 24.0) * y + 1.0 / 6.0) * y + 0.5) * y
            + 1.0)
            * y
            + 1.0;
    f32::from_bits(rounded.to_bits().wrapping_sub(ROUND.to_bits().wrapping_sub(BIAS)) << 23) * series
}

/// Cube root of a positive normal number in double precision: a step of Halley's after an estimate in single precision.
#[inline(always)]
pub fn precise_cube_root(x: f32) -> f64 {
    let estimate = f64::from(exp2(log2(x) * (1.0 / 3.0)));
    let (cube, x) = (estimate * estimate * estimate, f64::from(x));
    estimate * (cube + 2.0 * x) / (2.0 * cube + x)
}

/// Cube root of a positive normal number, rounded as the exact one is.
#[inline(always)]
pub fn cube_root(x: f32) -> f32 {
    precise_cube_root(x) as f32
}

/// The whole part of a number, which is brought between 0 and 65535 first; what is not a number is 0.
#[inline(always)]
pub fn whole_part(v: f32) -> u16 {
    // max before min: what is not a number becomes 0
    let v = v.max(0.0).min(65535.0);
    // SAFETY: between 0 and 65535. (A checked conversion is not vectorised.)
    unsafe { v.to_int_unchecked::<i32>() as u16 }
}

/// 10 to the power of `-density`: transmittance or reflectance of a density.
#[inline(always)]
pub fn transmittance(density: f32) -> f32 {
    exp2(-density * LOG2_OF_10)
}

/// Base-10 logarithm, with the contract of [`log2`].
#[inline(always)]
pub fn log10(x: f32) -> f32 {
    log2(x) * LOG10_OF_2
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn logarithm_agrees_with_double_precision() {
        for i in 0..200_000 {
            let x = 1e-7_f64 * 1.000_2_f64.powi(i % 100_000) * (1.0 + i as f64 * 1e-9);
            let error = (log2(x as f32) as f64 - (x as f32 as f64).log2()).abs();
            let size = (x as f32 as f64).log2().abs().max(1.0);
            assert!(error / size < 2.5e-7, "log2({x}) off by {error}");
        }
        assert_eq!(log2(1.0), 0.0);
        assert_eq!(log2(8.0), 3.0);
    }

    #[test]
    fn exponential_agrees_with_double_precision() {
        for i in -12_000..12_000 {
            let x = i as f32 * 0.01;
            let expected = (x as f64).exp2();
            assert!((exp2(x) as f64 / expected - 1.0).abs() < 2.5e-7, "exp2({x})");
        }
        assert_eq!(exp2(0.0), 1.0);
        assert_eq!(exp2(-500.0), exp2(-126.0));
    }

    #[test]
    fn cube_roots_are_rounded_as_the_librarys() {
        let mut x = 1e-6f32;
        while x < 40.0 {
            assert_eq!(cube_root(x).to_bits(), libm::cbrtf(x).to_bits(), "{x}");
            x *= 1.000_013;
        }
    }

    #[test]
    fn whole_parts_are_those_of_the_checked_conversion() {
        let special = [f32::NAN, f32::INFINITY, f32::NEG_INFINITY, -0.0, -0.9, 65535.9, 65536.0, 3e9];
        for v in (0..400_000).map(|i| i as f32 * 0.25 - 100.0).chain(special) {
            assert_eq!(whole_part(v), v as u16, "{v}");
        }
    }

    #[test]
    fn one_stop_is_the_density_of_half_the_light() {
        assert!((transmittance(LOG10_OF_2) - 0.5).abs() < 1e-6);
    }
}
