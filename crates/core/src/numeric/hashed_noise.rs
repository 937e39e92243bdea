//! Hashed Gaussian noise, addressed by seed, layer and pixel.
//!
//! One 64-bit key per row (splitmix64, Steele, Lea and Flood 2014), one 32-bit hash per pixel. The second half of the
//! key enters mid-hash: with one 32-bit key some fifty row pairs of a large frame would be shifted copies.

use super::NoiseLayer;

/// The two words with which a row's pixels are hashed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct RowKey {
    /// First half of the seed.
    pub first: u32,
    /// Second half of the seed.
    pub second: u32,
}

fn splitmix(z: u64) -> u64 {
    let mut z = z.wrapping_add(0x9E37_79B9_7F4A_7C15);
    z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    z ^ (z >> 31)
}

impl RowKey {
    /// Of one row of one layer.
    pub fn new(seed: u64, layer: NoiseLayer, y: i32) -> Self {
        let layered = splitmix(seed ^ layer.number().wrapping_mul(0xD6E8_FEB8_6659_FD93));
        let key = splitmix(layered ^ u64::from(y as u32));
        Self { first: key as u32, second: (key >> 32) as u32 }
    }

    /// 32 bits for a column.
    #[inline(always)]
    pub fn hash(self, x: i32) -> u32 {
        let mut a = (x as u32).wrapping_mul(0x9E37_79B1).wrapping_add(self.first);
        a ^= a >> 16;
        a = a.wrapping_mul(0x21F0_AAAD);
        a ^= self.second;
        a ^= a >> 15;
        a = a.wrapping_mul(0x735A_2D97);
        a ^ (a >> 15)
    }

    /// Noise of mean 0, variance 1 and the kurtosis of a Gaussian, |n| <= 4.04.
    #[inline(always)]
    pub fn gaussian(self, x: i32) -> f32 {
        let h = self.hash(x);
        let bytes = (h & 255) + (h >> 8 & 255) + (h >> 16 & 255) + (h >> 24);
        let u = (bytes as i32 - 510) as f32 * 0.006_765_875;
        u * (0.949_033_3 + 0.018_642_38 * u * u)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Numbers of the grain model's prototype.
    #[test]
    fn published_vectors() {
        let cases = [
            (1, 0, 0, [0x7439_611e, 0x5e41_ab08], [0x56c1_3272u32, 0x8807_efcf, 0x314e_41b0, 0x830d_d8fb]),
            (1, 2, -1, [0xc374_da36, 0xe6ef_eef5], [0x05ad_7a0c, 0xe37e_638c, 0x8cd0_592c, 0xed8e_e214]),
            (
                0x1234_5678_9abc_def0,
                1,
                5999,
                [0x82e5_1d90, 0xafee_8314],
                [0xbc2e_f4a5, 0x714b_067f, 0x0f55_900c, 0xf940_6c1f],
            ),
        ];
        for (seed, layer, y, [first, second], hashes) in cases {
            let key = RowKey::new(seed, NoiseLayer::Grain(layer), y);
            assert_eq!(key, RowKey { first, second });
            assert_eq!([-1, 0, 1, 5999].map(|x| key.hash(x)), hashes);
        }
        let key = RowKey::new(1, NoiseLayer::Grain(0), 0);
        for (x, n) in [(-1, -0.43195), (0, 0.51011), (1, -0.92832), (5999, 0.65447)] {
            assert!((key.gaussian(x) - n).abs() < 1e-5);
        }
    }

    #[test]
    fn moments() {
        let (mut second, mut fourth) = (0.0f64, 0.0f64);
        let count = 400 * 2000;
        for y in 0..400 {
            let key = RowKey::new(9, NoiseLayer::Grain(1), y);
            for x in 0..2000 {
                let n = key.gaussian(x) as f64;
                second += n * n;
                fourth += n.powi(4);
            }
        }
        let variance = second / count as f64;
        assert!((variance - 1.0).abs() < 0.01, "{variance}");
        assert!((fourth / count as f64 / variance.powi(2) - 3.0).abs() < 0.03);
    }
}
