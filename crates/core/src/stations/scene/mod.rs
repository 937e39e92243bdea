//! Scene: the light that reaches the camera.
//!
//! Comes in: the decoded source, in codes of extended sRGB. Goes out: linear scene light in the working space,
//! mid grey at 0.18, unbounded above. First the camera's rendering is taken back (`decoding`), then the light is
//! balanced and exposed (`white_balance`, exposure). Sources: IEC 61966-2-1 for the transfer function; Bradford
//! adaptation (ICC.1, Annex E) and Planck's law for the balance.

pub mod decoding;
pub mod light;
pub mod settings;
pub mod white_balance;

pub use light::SceneStage;
pub use settings::SceneSettings;
