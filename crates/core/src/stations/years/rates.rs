//! The rate model: how much of a picture is lost after years in a place.
//!
//! A loss is first order, amount = e^(-k a t). In the dark a follows Arrhenius, ln a linear in 1/T, as the standard
//! method of predicting dark storage assumes (ISO 18924, from memory), times a power of the humidity. On a wall light
//! decides and a = 1. In the dark cyan goes first, on the wall magenta and yellow (common practice, no source); all
//! rates are model choices.

use crate::colour::Spectrum;
use crate::controls::choices;

/// Loss of cyan, magenta, yellow per year.
const DARK_PER_YEAR: [f64; 3] = [0.0165, 0.0026, 0.0080];
const LIGHT_PER_YEAR: [f64; 3] = [0.0058, 0.0130, 0.0142];
/// Activation energies of the three losses, of silver's and of the base's yellowing, in J/mol.
const DYE_ACTIVATION: [f64; 3] = [88_000.0, 105_000.0, 92_000.0];
const SLOW_ACTIVATION: f64 = 90_000.0;
/// Gas constant, J/(mol K) (CODATA 2018).
const GAS_CONSTANT: f64 = 8.314_462_618;
/// The drawer: 24 degrees and half humidity.
const REFERENCE: (f64, f64) = (297.15, 0.5);
/// Power of relative humidity in the dark rates.
const HUMIDITY_POWER: f64 = 1.5;
/// Density of the stain in the end, and how fast it comes.
const STAIN_IN_THE_END: (f64, f64) = (0.20, 0.10);
const STAIN_PER_YEAR: f64 = 0.022;
/// Share of silver that turns to sulphide in a year, and that is lost, in the dark and in light.
const SULPHIDE_PER_YEAR: (f64, f64) = (0.006, 0.010);
const SILVER_PER_YEAR: (f64, f64) = (0.0008, 0.0014);

choices! {
    /// Where a print was kept.
    pub enum Storage {
        Drawer = "drawer", "Drawer";
        Wall = "wall", "Wall";
        /// 35 degrees and 70 % humidity in summer and winter.
        Attic = "attic", "Attic";
    }
}

/// How much faster than in the drawer something of an activation energy goes in the dark.
pub fn dark_acceleration(activation: f64, kelvin: f64, humidity: f64) -> f64 {
    let arrhenius = (activation / GAS_CONSTANT * (1.0 / REFERENCE.0 - 1.0 / kelvin)).exp();
    arrhenius * (humidity / REFERENCE.1).powf(HUMIDITY_POWER)
}

impl Storage {
    fn is_light(self) -> bool {
        self == Self::Wall
    }

    fn acceleration(self, activation: f64) -> f64 {
        match self {
            Self::Drawer | Self::Wall => 1.0,
            Self::Attic => dark_acceleration(activation, 308.15, 0.7),
        }
    }

    fn of(self, (dark, light): (f64, f64)) -> f64 {
        if self.is_light() { light } else { dark }
    }
}

/// What years have taken from a picture and given to its base.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Losses {
    /// What is left of cyan, magenta, yellow.
    pub dyes: [f64; 3],
    /// Share of silver that is sulphide.
    pub sulphide: f64,
    /// What is left of silver.
    pub silver: f64,
    /// What is left of a process's own image.
    pub image: f64,
    /// Spectral density that the base has gained, at its greatest wavelength.
    pub stain: f64,
}

impl Losses {
    /// Nothing lost.
    pub const NONE: Self = Self { dyes: [1.0; 3], sulphide: 0.0, silver: 1.0, image: 1.0, stain: 0.0 };

    /// After years in a place; `image_per_year` is what a process loses in the dark and in light.
    pub fn after(years: f64, storage: Storage, image_per_year: [f64; 2]) -> Self {
        let rates = if storage.is_light() { LIGHT_PER_YEAR } else { DARK_PER_YEAR };
        let slow = storage.acceleration(SLOW_ACTIVATION);
        let left = |rate: f64, a: f64| (-rate * a * years).exp();
        Self {
            dyes: std::array::from_fn(|i| left(rates[i], storage.acceleration(DYE_ACTIVATION[i]))),
            sulphide: 1.0 - left(storage.of(SULPHIDE_PER_YEAR), slow),
            silver: left(storage.of(SILVER_PER_YEAR), slow),
            image: left(storage.of((image_per_year[0], image_per_year[1])), slow),
            stain: storage.of(STAIN_IN_THE_END) * (1.0 - left(STAIN_PER_YEAR, slow)),
        }
    }

    /// With more years of light, which yellow nothing but fade.
    pub fn lit(self, years: f64, image_per_year: [f64; 2]) -> Self {
        let more = Self::after(years, Storage::Wall, image_per_year);
        Self {
            dyes: std::array::from_fn(|i| self.dyes[i] * more.dyes[i]),
            sulphide: 1.0 - (1.0 - self.sulphide) * (1.0 - more.sulphide),
            silver: self.silver * more.silver,
            image: self.image * more.image,
            stain: self.stain,
        }
    }

    /// Whether nothing is lost.
    pub fn is_none(&self) -> bool {
        *self == Self::NONE
    }

    /// Spectral density that the base has gained.
    pub fn stain_density(&self) -> Spectrum {
        Spectrum::gaussian(400.0, 55.0) * self.stain
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn dyes(years: f64, storage: Storage) -> [f64; 3] {
        Losses::after(years, storage, [0.0; 2]).dyes
    }

    /// Common practice, no source.
    #[test]
    fn cyan_goes_first_in_the_dark_and_last_on_the_wall() {
        let [c, m, y] = dyes(30.0, Storage::Drawer);
        assert!(c < y && y < m);
        let [c, m, y] = dyes(30.0, Storage::Wall);
        assert!(c > m && m > y);
    }

    /// ISO 18924 (from memory): the logarithm of a rate is a straight line over 1/T.
    #[test]
    fn the_logarithm_of_the_rate_is_linear_in_1_over_t() {
        for activation in DYE_ACTIVATION {
            let at = |inverse: f64| dark_acceleration(activation, 1.0 / inverse, 0.5).ln();
            let (a, b) = (1.0 / 320.0, 1.0 / 290.0);
            let slope = (at(b) - at(a)) / (b - a);
            for share in [0.25, 0.5, 0.75] {
                let inverse = a + share * (b - a);
                assert!((at(inverse) - (at(a) + slope * (inverse - a))).abs() < 1e-9);
            }
            assert!((slope + activation / GAS_CONSTANT).abs() < 1e-6 * activation);
        }
        assert_eq!(dark_acceleration(88_000.0, REFERENCE.0, REFERENCE.1), 1.0);
    }

    #[test]
    fn no_years_are_no_loss_and_the_attic_is_worse_than_the_drawer() {
        for storage in [Storage::Drawer, Storage::Wall, Storage::Attic] {
            assert!(Losses::after(0.0, storage, [0.01; 2]).is_none());
        }
        let (drawer, attic) = (dyes(10.0, Storage::Drawer), dyes(10.0, Storage::Attic));
        assert!((0..3).all(|i| attic[i] < drawer[i]));
        assert!(Losses::NONE.lit(0.0, [0.01; 2]).is_none());
        assert!(Losses::after(20.0, Storage::Wall, [0.0, 0.012]).image < 0.8, "iron blue pales in light");
        assert_eq!(Losses::after(20.0, Storage::Drawer, [0.0, 0.012]).image, 1.0);
    }
}
