//! What of a film is kept between renders hangs on these.

use super::settings::FilmSettings;
use crate::key::{Key, key};
use crate::stations::bath::BathSettings;
use crate::stock::Stock;

/// The keys that hang on film and bath.
pub struct FilmKeys {
    /// Curves, dyes and development.
    pub developed: Key,
    /// The same with what weighs the light before the curves.
    pub response: Key,
    /// The grain that is asked for.
    pub grain: Key,
}

impl FilmKeys {
    /// Every setting is taken apart here: a new one does not compile before it is said what hangs on it.
    pub fn new(stock: &Stock, film: &FilmSettings, bath: &BathSettings) -> Self {
        let FilmSettings {
            push_stops,
            interlayer,
            curves,
            hue_stops,
            filter,
            granularity,
            grain_diameter_um,
            roughness,
            colour_share,
            grain_seed,
            zone_weights,
            // these act at a place, and join the keys of tiles and planes as a whole
            gate: _,
            hue_place: _,
            halation: _,
        } = film;
        let BathSettings { crossed, skip_bleach, time, fog_density, uneven: _ } = bath;
        let developed = key(&[
            &"developed",
            &stock.content_hash(),
            push_stops,
            interlayer,
            curves,
            &(crossed, skip_bleach, time, fog_density),
        ]);
        let response = key(&[&developed, hue_stops, filter]);
        let grain =
            key(&[&developed, granularity, grain_diameter_um, roughness, colour_share, grain_seed, zone_weights]);
        Self { developed, response, grain }
    }
}
