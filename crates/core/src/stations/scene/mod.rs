//! Scene: the light that reaches the camera.
//!
//! Comes in: the decoded source, in codes of extended sRGB, its noise smoothed (`noise`). Goes out: linear scene light
//! in the working space, mid grey at 0.18, unbounded above. First the camera's rendering is taken back (`decoding`),
//! then the light is balanced and exposed (`light`, `white_balance`). Then, each only when it is not neutral: `air`;
//! zone placement, local contrast and fine detail (`structure`); the curve; the balance of shadows, mid-tones and
//! lights (`tone_balance`); saturation and hue bands (`colour`). Local adjustments through masks (`local`) join these
//! where they act. Sources: IEC 61966-2-1 for the transfer function; Bradford adaptation (ICC.1, Annex E) and Planck's
//! law for the balance; the others stand in their files.

pub mod air;
pub mod colour;
pub mod columns;
pub mod curve;
pub mod decoding;
pub mod light;
pub mod local;
pub mod luminance;
pub mod metering;
pub mod noise;
pub mod settings;
pub mod stage;
pub mod structure;
pub mod tone_balance;
pub mod white_balance;

pub use light::PlainLight;
pub use settings::SceneSettings;
pub use stage::SceneStage;
