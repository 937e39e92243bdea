//! Tone: what the picture's colour is made of, and colours given to its tones.
//!
//! Baths (`toners`) convert the silver of a print into substances with their own spectra; they act inside the way from
//! density to reflectance. Two-tone and four-tone give colours to places of the tone scale (`ramp`), the wash lies over
//! everything (`wash`): these act on the finished print, point by point. The coating of hand-coated processes
//! (`coating`) has an edge and is uneven. Each can be limited by a mask.

pub mod coating;
pub mod columns;
pub mod ramp;
pub mod recipes;
pub mod settings;
pub mod toned;
pub mod toners;
pub mod wash;

pub use ramp::ToneRamp;
pub use settings::ToneSettings;
pub use toners::Toning;

use self::coating::Coating;
use self::toned::Toned;
use crate::effect::Finishing;
use crate::prepare::Prepare;

/// What is given to the finished print, in order; `ground` is the bare paper or plate in the working space. (Baths act
/// in the print's own material; two-tone, four-tone and wash over the whole print are part of its bend.)
pub fn join(finishing: &mut Finishing, settings: &ToneSettings, ground: [f32; 3], prepare: &Prepare) {
    for toned in Toned::all(settings, prepare) {
        finishing.fit();
        finishing.push(Some(toned));
    }
    finishing.push(Coating::new(&settings.coating, prepare.seed, ground, prepare.stock.plate.is_some()));
}
