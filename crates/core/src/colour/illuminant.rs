//! Light sources: black body and daylight.

use super::spectrum::{Spectrum, TABLES};

/// Second radiation constant in nm K (CODATA 2018: 1.438776877e-2 m K).
const C2_NM_K: f64 = 1.438_776_877e7;

/// Relative spectral power of a black body (Planck), 1 at 560 nm.
pub fn black_body(kelvin: f64) -> Spectrum {
    let power = |nm: f64| nm.powi(-5) / ((C2_NM_K / (nm * kelvin)).exp() - 1.0);
    let at_560 = power(560.0);
    Spectrum::from_fn(|nm| power(nm) / at_560)
}

/// Relative spectral power on the CIE daylight locus (CIE 15, 4000 K to 25000 K).
pub fn daylight(kelvin: f64) -> Spectrum {
    let t = kelvin;
    let x = if t <= 7000.0 {
        -4.6070e9 / t.powi(3) + 2.9678e6 / t.powi(2) + 0.099_11e3 / t + 0.244_063
    } else {
        -2.0064e9 / t.powi(3) + 1.9018e6 / t.powi(2) + 0.247_48e3 / t + 0.237_040
    };
    let y = -3.0 * x * x + 2.870 * x - 0.275;
    let m = 0.0241 + 0.2562 * x - 0.7341 * y;
    let m1 = (-1.3515 - 1.7703 * x + 5.9114 * y) / m;
    let m2 = (0.0300 - 31.4424 * x + 30.0717 * y) / m;
    let [s0, s1, s2] = TABLES.daylight;
    s0 + s1 * m1 + s2 * m2
}

/// The light that a film is balanced for: daylight from 4000 K, black body below.
pub fn balance_light(kelvin: f64) -> Spectrum {
    if kelvin >= 4000.0 { daylight(kelvin) } else { black_body(kelvin) }
}

/// XYZ of a light, scaled to Y = 1.
pub fn white_point(light: &Spectrum) -> [f64; 3] {
    let y = light.dot(&TABLES.observer[1]);
    std::array::from_fn(|k| light.dot(&TABLES.observer[k]) / y)
}

/// Mired of a colour temperature: 10^6 / K.
pub fn mired(kelvin: f64) -> f64 {
    1e6 / kelvin
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn daylight_locus_as_tabulated() {
        for (a, b) in daylight(5500.0).0.iter().zip(TABLES.d5500.0) {
            assert!((a - b).abs() < 0.05, "{a} {b}");
        }
    }

    /// Handbook values of warming filters (common practice): 5500 K seen through +112 mired is 3400 K.
    #[test]
    fn mired_shift() {
        assert!((1e6 / (mired(5500.0) + 112.0) - 3400.0).abs() < 10.0);
    }

    /// CIE 15: chromaticity of D65 is 0.3127, 0.3290.
    #[test]
    fn white_of_d65() {
        let [x, y, z] = white_point(&TABLES.d65);
        assert!((x / (x + y + z) - 0.3127).abs() < 5e-4);
        assert!((y / (x + y + z) - 0.3290).abs() < 5e-4);
    }
}
