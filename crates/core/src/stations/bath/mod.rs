//! Bath: development.
//!
//! Comes in: layer exposure. Goes out: density of each layer. The bath owns what development does: the chemistry
//! (matched, or crossed: `stock::crossing`), the silver that a skipped bleach leaves, time and fog, and how evenly it
//! all went (`uneven`). The slow blotches of an old film (`mottle`) are laid on here too. Both are functions of the
//! place on the film alone, so a region is a crop of the whole.

pub mod columns;
pub mod mottle;
pub mod settings;
pub mod uneven;

pub use mottle::MottleStage;
pub use settings::BathSettings;
pub use uneven::UnevenStage;

use std::sync::Arc;

use crate::effect::Effects;
use crate::picture::FilmGeometry;
use crate::picture::buffer::LayerDensity;
use crate::stations::film::FilmResponse;

/// What development does to density beyond the curve, in order.
pub fn join(
    density: &mut Effects<LayerDensity>,
    settings: &BathSettings,
    film: &Arc<FilmResponse>,
    seed: u32,
    geometry: FilmGeometry,
) {
    density.push(MottleStage::new(film.clone(), seed, geometry.pitch_um));
    density.push(UnevenStage::new(&settings.uneven, film.clone(), seed, geometry));
}
