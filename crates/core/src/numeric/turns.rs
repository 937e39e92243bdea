//! Whole parts and waves without the library's calls, for pixel loops that are to be vectors.

/// The whole part below a number; places of a picture are far within 31 bits.
#[inline(always)]
pub fn whole_below(v: f32) -> i32 {
    // SAFETY: what is larger, or no number, is brought within range first
    let v = v.max(-1e9).min(1e9);
    let cut = unsafe { v.to_int_unchecked::<i32>() };
    cut - i32::from((cut as f32) > v)
}

/// Cosine of an angle in whole turns; the series about 0 after whole turns are taken away, within 1e-5.
#[inline(always)]
pub fn cosine_of_turns(turns: f32) -> f32 {
    let within = turns - whole_below(turns + 0.5) as f32;
    let x = within * within;
    let far = 60.244_64 + x * (-26.426_256 + x * (7.903_536 - x * 1.714_391));
    1.0 + x * (-19.739_21 + x * (64.939_39 + x * (-85.456_82 + x * far)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn whole_parts_and_cosines_are_the_librarys() {
        for k in -4000..4000 {
            let v = k as f32 * 0.037;
            assert_eq!(whole_below(v), v.floor() as i32, "{v}");
            let wanted = (f64::from(v) * std::f64::consts::TAU).cos();
            assert!((f64::from(cosine_of_turns(v)) - wanted).abs() < 2e-5, "{v}");
        }
        assert_eq!((whole_below(-1.0), whole_below(f32::NAN)), (-1, -1_000_000_000));
    }
}
