//! Print: density becomes something to look at.
//!
//! Comes in: density of each film layer (log10). Goes out: linear reflectance (or transmittance of a slide), white = 1.
//!
//! A colour negative is exposed through its dyes and mask onto paper and the paper's dyes are seen in D50
//! (`colour_print`); a slide is seen through its own dyes (`transparency`); a black-and-white negative goes onto graded
//! paper (`graded_print`); a historic process is printed in contact (`graded_print`), a wet plate seen by its silver's
//! cover (`plate`); a screen plate is seen through its mosaic (`screen`); a `scan` reads the film back. `exact` chooses
//! the way. Equal densities become neutral because dye amounts come from `dye_tracking`. What is done to the print
//! point by point and gently (`finish`) is part of the table over density in which the whole is kept (`table`,
//! `stage`); what bends it (`bend`: curves, colours of tones, wash) follows pixel by pixel; edges (`acutance`) and the
//! mix with the plain picture (`strength`) follow. Sources: CIE 15 for colorimetry; ISO 6846 for paper range; ISO 5 for
//! the notion of density. Dyes and papers are invented.

pub mod acutance;
pub mod bend;
pub mod colour_print;
pub mod columns;
pub mod dye_tracking;
pub mod enlarger;
pub mod exact;
pub mod film_dyes;
pub mod finish;
mod gathered;
pub mod graded_print;
pub mod grey_ramp;
pub mod light_table;
pub mod paper;
pub mod plate;
pub mod printing;
pub mod scan;
pub mod screen;
pub mod settings;
pub mod stage;
pub mod strength;
pub mod table;
pub mod transparency;
pub mod variations;
pub mod viewing;

pub use bend::Bend;
pub use exact::Viewing;
pub use grey_ramp::{PrintTone, grey_ramp};
pub use light_table::LightTable;
pub use printing::{Printed, Printing};
pub use settings::{FinishedSettings, PrintSettings};
pub use stage::PrintStage;

use std::sync::Arc;

use self::acutance::Acutance;
use self::strength::Strengthened;
use crate::effect::Finishing;
use crate::stations::lens::Light;
use crate::stations::tone::ToneSettings;

/// What is done to the print once it is made, in order. `light` is the picture's own, for what is missing of the
/// strength.
pub fn join(
    finishing: &mut Finishing,
    settings: &FinishedSettings,
    tone: &ToneSettings,
    pitch_um: f64,
    light: &Arc<Light>,
) {
    if let Some(bend) = Bend::new(&settings.curves, tone) {
        bend.join(finishing);
    }
    finishing.push(Acutance::new(&settings.acutance, pitch_um));
    if let Some(mix) = Strengthened::new(settings.strength, light.clone(), finishing.fitted) {
        finishing.push(Some(mix));
        finishing.fitted = true;
    }
}
