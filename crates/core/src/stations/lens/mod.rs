//! Lens: what the camera's optics do to the scene's light, before the film.
//!
//! Comes in and goes out: linear scene light in the working space. In the order of the light's way: the flash's light
//! on the scene, bloom, softness, colour fringes, shake, falloff. A filter in front (`filter`) changes what the film's
//! layers see and is part of the film's exposure; the framing (`framing`) is made first of all, before Scene. Lengths
//! are micrometres on the film; places are shares of the frame.

pub mod bloom;
pub mod falloff;
pub mod filter;
pub mod flash;
pub mod fringes;
pub mod place;
pub mod settings;
pub mod shake;
pub mod softness;
pub mod stage;

pub use filter::LensFilter;
pub use settings::LensSettings;
pub use stage::LensStage;
