//! Years: what time does to a print, by what it is made of.
//!
//! A rate model (`rates`) turns age and storage into losses: dyes fade one by one, silver turns to sulphide and pales,
//! iron blue goes in light, the base yellows. These act inside the way from density to reflectance. Sun damage is more
//! of the same where light fell (`sun`); mirroring, foxing and water lie on the print (`marks`). Each can be limited by
//! a mask.

pub mod columns;
pub mod marks;
pub mod rates;
pub mod settings;
pub mod sun;

pub use rates::Losses;
pub use settings::YearsSettings;

use self::marks::{MarkPlaces, Marks};
use crate::effect::Finishing;
use crate::prepare::Prepare;

/// What years leave on the finished print. (Losses and sun act in the print's own material.)
pub fn join(finishing: &mut Finishing, settings: &YearsSettings, prepare: &Prepare) {
    let places = &settings.places;
    let places = MarkPlaces {
        mirroring: prepare.place(&places.mirroring),
        foxing: prepare.place(&places.foxing),
        water: prepare.place(&places.water),
    };
    finishing.push(Marks::new(&settings.marks, places, prepare.seed));
}
