//! Eight bands of hue, as a darkroom worker names colours: a partition of the circle of Oklab's hue, smooth between
//! neighbours. The centres are a model choice.

/// Number of hue bands.
pub const BANDS: usize = 8;
/// Centre of each band: degrees of Oklab hue.
pub const CENTRES: [f32; BANDS] = [27.0, 62.0, 105.0, 143.0, 195.0, 258.0, 300.0, 345.0];
/// The bands in the order of the hues.
pub const NAMES: [&str; BANDS] = ["Red", "Orange", "Yellow", "Green", "Cyan", "Blue", "Violet", "Magenta"];

/// The two neighbouring bands of a hue in degrees [0, 360), and the weight of the second.
#[inline(always)]
pub fn bands_of(hue: f32) -> (usize, usize, f32) {
    let mut first = BANDS - 1;
    for (i, centre) in CENTRES.iter().enumerate() {
        if hue >= *centre {
            first = i;
        }
    }
    let second = (first + 1) % BANDS;
    let hue = if hue < CENTRES[0] { hue + 360.0 } else { hue };
    let span = CENTRES[second] + if second == 0 { 360.0 } else { 0.0 } - CENTRES[first];
    let t = ((hue - CENTRES[first]) / span).clamp(0.0, 1.0);
    (first, second, t * t * (3.0 - 2.0 * t))
}

/// Share of every band in a hue; they sum to one.
pub fn shares(hue: f32) -> [f32; BANDS] {
    let mut out = [0.0; BANDS];
    let (first, second, t) = bands_of(hue);
    out[first] = 1.0 - t;
    out[second] = t;
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shares_sum_to_one_and_turn_the_whole_circle() {
        for degree in 0..720 {
            let (first, second, t) = bands_of(degree as f32 * 0.5);
            assert!(first != second && (0.0..=1.0).contains(&t));
        }
        for (i, centre) in CENTRES.iter().enumerate() {
            assert!(shares(*centre)[i] > 0.99);
        }
    }
}
