//! Film: light becomes density.
//!
//! Comes in: linear scene light in the working space, mid grey at 0.18. Goes out: density of each layer (log10).
//!
//! Every layer sees the scene through its spectral sensitivity (`layer_matrix`); its log exposure is restrained by
//! its neighbours' development (`interlayer`) and turned into density by its characteristic curve (`curve`), placed
//! by the film's speed (`placement`, `speed`) and changed by push or pull (`push`). Before that the base throws light
//! back (`halation`); a stock may see beyond red (`near_infrared`), a development weigh the hues (`hue_sensitivity`).
//! Grain is laid on density (`grain`). Sources: Hurter and Driffield's form of the curve (our own smooth one); ISO 6,
//! ISO 5800, ISO 2240 for speed; Mallett and Yuksel 2019 for the spectra of RGB; Nutting and Mees for gamma against
//! time.

pub mod as_developed;
pub mod columns;
pub mod curve;
pub mod grain;
pub mod halation;
pub mod hue_sensitivity;
pub mod interlayer;
pub mod keys;
pub mod layer_matrix;
pub mod near_infrared;
pub mod placement;
pub mod push;
pub mod response;
pub mod settings;
pub mod speed;

pub use curve::CharacteristicCurve;
pub use keys::FilmKeys;
pub use response::FilmResponse;
pub use settings::FilmSettings;
