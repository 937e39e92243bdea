//! The plain Monte Carlo of the Boolean grain model, pixel by pixel (Newson, Delon, Galerne 2017): the reference
//! against which the fast grain is timed. Opaque discs of one radius; a pixel is the share of random points that no
//! disc covers.

/// Grains per square um and their radius.
pub struct BooleanModel {
    pub radius_um: f64,
    pub density: f64,
    pub pitch_um: f64,
    /// Points per pixel.
    pub samples: u32,
}

/// SplitMix64 (Steele, Lea, Flood 2014), one generator per lattice cell or pixel.
struct Random(u64);

impl Random {
    fn at(seed: u64, x: i64, y: i64) -> Self {
        Self(seed ^ (x as u64).wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ (y as u64).wrapping_mul(0xD1B5_4A32_D192_ED03))
    }

    fn unit(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        ((z ^ (z >> 31)) >> 11) as f64 / (1u64 << 53) as f64
    }

    fn poisson(&mut self, mean: f64) -> u32 {
        let (mut probability, mut sum, mut count) = ((-mean).exp(), (-mean).exp(), 0);
        let u = self.unit();
        while u > sum && count < 10_000 {
            count += 1;
            probability *= mean / f64::from(count);
            sum += probability;
        }
        count
    }
}

impl BooleanModel {
    /// Transmittance of a square of pixels.
    pub fn render(&self, side: u32) -> Vec<f64> {
        let cell = self.radius_um;
        let area = std::f64::consts::PI * self.radius_um * self.radius_um;
        let per_cell = self.density * std::f64::consts::LN_10 / area * cell * cell;
        let covered = |x: f64, y: f64| {
            let (i0, i1) = (((x - self.radius_um) / cell).floor() as i64, ((x + self.radius_um) / cell).floor() as i64);
            let (j0, j1) = (((y - self.radius_um) / cell).floor() as i64, ((y + self.radius_um) / cell).floor() as i64);
            (j0..=j1).any(|j| {
                (i0..=i1).any(|i| {
                    let mut random = Random::at(1, i, j);
                    (0..random.poisson(per_cell)).any(|_| {
                        let gx = (i as f64 + random.unit()) * cell;
                        let gy = (j as f64 + random.unit()) * cell;
                        (x - gx).powi(2) + (y - gy).powi(2) < self.radius_um * self.radius_um
                    })
                })
            })
        };
        let pixel = |index: u32| {
            let (px, py) = (index % side, index / side);
            let mut random = Random::at(2, i64::from(px), i64::from(py));
            let open = (0..self.samples)
                .filter(|_| {
                    let x = (f64::from(px) + random.unit()) * self.pitch_um;
                    let y = (f64::from(py) + random.unit()) * self.pitch_um;
                    !covered(x, y)
                })
                .count();
            open as f64 / f64::from(self.samples)
        };
        (0..side * side).map(pixel).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The model's mean: transmittance is 10^-D.
    #[test]
    fn the_mean_is_the_density() {
        let model = BooleanModel { radius_um: 1.15, density: 0.5, pitch_um: 6.0, samples: 100 };
        let tones = model.render(40);
        let mean = tones.iter().sum::<f64>() / tones.len() as f64;
        assert!((-mean.log10() - 0.5).abs() < 0.02, "{mean}");
    }
}
