//! Lens: what the camera's optics do to the scene's light, before the film.
//!
//! Comes in and goes out: linear scene light in the working space. In the order of the light's way: the flash's light
//! on the scene, bloom, softness, colour fringes, shake, falloff, and the veil of light from outside the frame. A
//! filter in front (`filter`) changes what the film's layers see and is part of the film's exposure; the framing
//! (`framing`) is made first of all, before Scene. Lengths are micrometres on the film; places are shares of the
//! frame.

pub mod bloom;
pub mod columns;
pub mod falloff;
pub mod filter;
pub mod flash;
pub mod fringes;
pub mod light;
pub mod place;
pub mod settings;
pub mod shake;
pub mod softness;
pub mod veil;

pub use filter::LensFilter;
pub use light::Light;
pub use settings::LensSettings;

use std::sync::Arc;

use self::bloom::Blooming;
use self::falloff::Falloff;
use self::flash::Flash;
use self::fringes::Fringes;
use self::shake::Shake;
use self::softness::{SoftPlaces, Softening};
use self::veil::Veil;
use crate::error::CoreError;
use crate::prepare::Prepare;

/// What the lens does to the light, in order. Returns the bloom, to be shown alone too.
pub fn join(light: &mut Light, settings: &LensSettings, prepare: &Prepare) -> Result<Option<Arc<Blooming>>, CoreError> {
    let places = &settings.places;
    light.push(Flash::new(&settings.flash));
    light.hold(prepare)?;
    let bloom = Blooming::prepared(&settings.bloom, &places.bloom, light, prepare)?.map(Arc::new);
    light.share(bloom.clone());
    let soft = SoftPlaces { lens: prepare.place(&places.softness), local: light.scene().locals().softness() };
    light.hold(prepare)?;
    light.push(Softening::prepared(&settings.softness, soft, light, prepare)?);
    light.hold(prepare)?;
    light.push(Fringes::new(&settings.fringes));
    light.push(Shake::new(&settings.shake, prepare.place(&places.shake)));
    light.push(Falloff::new(&settings.falloff));
    light.push(Veil::new(&settings.veil, light.scene().exposure_stops()));
    light.hold(prepare)?;
    Ok(bloom)
}
