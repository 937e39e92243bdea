//! Toner baths: silver converted into other substances, each with its own spectrum.
//!
//! Baths act in the order in which they stand. A bath moves a share of each substance it acts on: sepia and gold the
//! lights first, selenium the darks first, copper and iron everywhere alike. Shares depend on the density of the silver
//! there and on the time. Shapes and constants are model choices; their order is common practice.

use super::settings::{BathSettings, Toner};
use crate::colour::Spectrum;
use crate::stock::material::toned;

/// What silver can become.
const SUBSTANCES: [&str; 6] = ["sepia", "selenium", "goldblue", "goldred", "copper", "ironblue"];
/// Widths of the transition along density.
const SEPIA_WIDTH: f64 = 0.20;
const GOLD_WIDTH: f64 = 0.30;
const SELENIUM_WIDTH: f64 = 0.18;
/// Density from which selenium works at once, and how far down it reaches in full time.
const SELENIUM: (f64, f64) = (2.2, 1.5);

/// Baths, prepared.
#[derive(Debug, Clone)]
pub struct Toning {
    baths: Vec<BathSettings>,
    /// Share of the silver that age has turned to sulphide.
    sulphide: f64,
    /// Spectral density of what one unit of silver becomes.
    made: [Spectrum; SUBSTANCES.len()],
}

fn falling(density: f64, middle: f64, width: f64) -> f64 {
    1.0 / (1.0 + ((density - middle) / width).exp())
}

impl Toning {
    /// `None` where the silver is as it was.
    pub fn new(baths: &[BathSettings], sulphide: f64) -> Option<Self> {
        let baths: Vec<_> = baths.iter().filter(|b| b.time > 0.0 && b.strength > 0.0).copied().collect();
        if baths.is_empty() && sulphide <= 0.0 {
            return None;
        }
        let made = SUBSTANCES.map(|name| toned(name).map_or(Spectrum::ZERO, |t| t.of_one_silver()));
        Some(Self { baths, sulphide, made })
    }

    /// Spectral density of a picture of silver of a visual density, after the baths; `silver` is that of one unit.
    pub fn density(&self, silver_density: f64, silver: &Spectrum) -> Spectrum {
        let (left, made) = self.shares(silver_density);
        let all = made.iter().zip(&self.made).fold(*silver * left, |sum, (share, one)| sum + *one * *share);
        all * silver_density
    }

    /// Share of the silver that is left, and of each substance made of it.
    fn shares(&self, density: f64) -> (f64, [f64; SUBSTANCES.len()]) {
        let (mut silver, mut made) = (1.0, [0.0; SUBSTANCES.len()]);
        for bath in &self.baths {
            let share = bath.strength * share_of(bath, density);
            let take = |from: &mut f64| {
                let taken = *from * share;
                *from -= taken;
                taken
            };
            let taken = take(&mut silver);
            match bath.toner {
                Toner::None => silver += taken,
                Toner::Sepia => made[0] += taken,
                Toner::Selenium => made[1] += taken,
                Toner::Gold => {
                    made[2] += taken;
                    let taken = take(&mut made[0]);
                    made[3] += taken;
                }
                Toner::Copper => made[4] += taken,
                Toner::Iron => made[5] += taken,
            }
        }
        // what a bath has turned is safe; the rest goes as in a weak sepia bath, lights first
        let taken = silver * self.sulphide * falling(density, 2.9 * self.sulphide - 0.25, SEPIA_WIDTH);
        made[0] += taken;
        (silver - taken, made)
    }
}

/// Share that one bath converts at a density.
fn share_of(bath: &BathSettings, density: f64) -> f64 {
    match bath.toner {
        Toner::None => 0.0,
        Toner::Sepia => falling(density, 2.9 * bath.time - 0.25, SEPIA_WIDTH),
        Toner::Gold => falling(density, 2.9 * bath.time - 0.25, GOLD_WIDTH),
        Toner::Selenium => falling(SELENIUM.0 - SELENIUM.1 * bath.time, density, SELENIUM_WIDTH),
        Toner::Copper | Toner::Iron => bath.time,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::material::visual_density;

    fn bath(toner: Toner, time: f64) -> BathSettings {
        BathSettings { toner, time, strength: 1.0 }
    }

    /// The model's own table: visual densities after each bath.
    #[test]
    fn densities_as_in_the_model() {
        let cases: [(&[BathSettings], [f64; 4]); 6] = [
            (&[bath(Toner::Sepia, 1.0)], [0.18, 0.67, 1.22, 1.81]),
            (&[bath(Toner::Selenium, 1.0)], [0.20, 0.81, 1.59, 2.39]),
            (&[bath(Toner::Gold, 0.9)], [0.21, 0.77, 1.44, 2.14]),
            (&[bath(Toner::Sepia, 1.0), bath(Toner::Gold, 0.9)], [0.20, 0.70, 1.24, 1.82]),
            (&[bath(Toner::Copper, 0.85)], [0.20, 0.73, 1.33, 1.93]),
            (&[bath(Toner::Iron, 0.85)], [0.22, 0.80, 1.47, 2.16]),
        ];
        for (baths, wanted) in cases {
            let toning = Toning::new(baths, 0.0).unwrap();
            for (d, w) in [0.2, 0.75, 1.4, 2.1].into_iter().zip(wanted) {
                let found = visual_density(&toning.density(d, &Spectrum::ONE));
                assert!((found - w).abs() < 0.025, "{baths:?} at {d}: {found} instead of {w}");
            }
        }
    }

    #[test]
    fn toned_ramps_never_turn_round() {
        for (toner, time) in [Toner::Sepia, Toner::Selenium, Toner::Gold, Toner::Copper, Toner::Iron]
            .into_iter()
            .flat_map(|t| [0.1, 0.35, 0.6, 1.0].map(|time| (t, time)))
        {
            let toning = Toning::new(&[bath(toner, time), bath(Toner::Selenium, 0.7)], 0.3).unwrap();
            let of = |i: i32| visual_density(&toning.density(f64::from(i) * 0.02, &Spectrum::ONE));
            assert!((0..110).all(|i| of(i + 1) > of(i) - 1e-9), "{toner:?} {time}");
        }
        assert!(Toning::new(&[], 0.0).is_none() && Toning::new(&[bath(Toner::Sepia, 0.0)], 0.0).is_none());
    }
}
