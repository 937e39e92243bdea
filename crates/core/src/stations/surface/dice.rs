//! Chance that is the same every time: numbers from a seed, one after the other.

/// A sequence of numbers (splitmix64, Steele, Lea and Flood 2014).
#[derive(Debug, Clone)]
pub struct Dice(u64);

impl Dice {
    /// Thrown from a seed; `what` tells the throws of one seed apart.
    pub fn new(seed: u32, what: u32) -> Self {
        Self(u64::from(seed) << 32 | u64::from(what))
    }

    /// For a cell of the plane: what lies in it does not depend on what is looked at.
    pub fn of_cell(seed: u32, what: u32, i: i32, j: i32) -> Self {
        let mut dice = Self::new(seed, what);
        let place = u64::from(i as u32) << 32 | u64::from(j as u32);
        dice.0 = dice.word() ^ place.wrapping_mul(0xD6E8_FEB8_6659_FD93);
        dice.word();
        dice
    }

    fn word(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^ (z >> 31)
    }

    /// A seed of its own for a part.
    pub fn seed(&mut self) -> u32 {
        (self.word() >> 32) as u32
    }

    /// Even, from 0 to below 1.
    pub fn share(&mut self) -> f32 {
        (self.word() >> 40) as f32 / (1u32 << 24) as f32
    }

    /// Even, between two numbers.
    pub fn between(&mut self, low: f32, high: f32) -> f32 {
        low + (high - low) * self.share()
    }

    /// Any direction.
    pub fn angle(&mut self) -> f32 {
        self.between(0.0, std::f32::consts::TAU)
    }

    /// Any direction of a line.
    pub fn half_turn(&mut self) -> f32 {
        self.between(0.0, std::f32::consts::PI)
    }

    /// About normal, of mean 0 and deviation 1.
    pub fn normal(&mut self) -> f32 {
        let sum: f32 = (0..4).map(|_| self.share()).sum();
        (sum - 2.0) * 1.732_050_8
    }

    /// -1 or 1.
    pub fn side(&mut self) -> f32 {
        if self.share() < 0.5 { -1.0 } else { 1.0 }
    }

    /// How many of something that comes `mean` times on average (Knuth's way for small means).
    pub fn count(&mut self, mean: f32) -> u32 {
        let limit = libm::expf(-mean.min(60.0));
        let (mut product, mut count) = (self.share(), 0);
        while product > limit && count < 500 {
            product *= self.share();
            count += 1;
        }
        count
    }

    /// From a power law: the number above `d` falls as d^-`falls`, between two sizes.
    pub fn power_law(&mut self, low: f32, high: f32, falls: f32) -> f32 {
        let least = libm::powf(high / low, -falls);
        low * libm::powf(self.between(least, 1.0), -1.0 / falls)
    }
}

/// The seed of a sheet on a frame.
pub fn mixed(frame: u32, sheet: u32, item: u32) -> u32 {
    let mut dice = Dice(u64::from(frame) << 32 | u64::from(sheet));
    dice.0 = dice.word() ^ u64::from(item);
    dice.seed()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn throws_are_even_and_named_by_their_seed() {
        let mut dice = Dice::new(3, 1);
        let throws: Vec<f32> = (0..20_000).map(|_| dice.share()).collect();
        let mean = throws.iter().sum::<f32>() / 20_000.0;
        assert!((mean - 0.5).abs() < 0.01 && throws.iter().all(|v| (0.0..1.0).contains(v)), "{mean}");
        let spread = (0..20_000).map(|_| dice.normal().powi(2)).sum::<f32>() / 20_000.0;
        assert!((spread - 1.0).abs() < 0.04, "{spread}");
        let counted = (0..4000).map(|_| dice.count(3.0)).sum::<u32>() as f32 / 4000.0;
        assert!((counted - 3.0).abs() < 0.1, "{counted}");
        assert_eq!(Dice::new(5, 2).seed(), Dice::new(5, 2).seed());
        assert_ne!(Dice::new(5, 2).seed(), Dice::new(5, 3).seed());
        assert_ne!(mixed(1, 2, 1), mixed(2, 1, 1));
        assert_ne!(mixed(1, 2, 1), mixed(1, 2, 2), "two sheets of one seed are not one");
    }

    #[test]
    fn sizes_fall_by_their_power() {
        let mut dice = Dice::new(8, 0);
        let sizes: Vec<f32> = (0..40_000).map(|_| dice.power_law(8.0, 180.0, 2.2)).collect();
        let above = |d: f32| sizes.iter().filter(|s| **s > d).count() as f32;
        let ratio = above(16.0) / above(32.0);
        assert!((ratio / 2f32.powf(2.2) - 1.0).abs() < 0.1, "{ratio}");
        assert!(sizes.iter().all(|s| (8.0..=180.1).contains(s)));
    }
}
