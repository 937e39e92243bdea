//! Small numerical parts that the physics needs: a logarithm and an exponential whose bits are ours, sampled
//! functions, quadrature, 3x3 algebra.

pub(crate) mod gather;
pub mod hashed_noise;
pub mod log_exp;
pub mod matrix;
pub mod monotone;
pub mod noise_layer;
pub(crate) mod parallel;
pub mod plane_noise;
pub mod quadrature;
pub(crate) mod runs;
pub mod sampled;
pub mod smooth;
pub mod symmetric;
pub mod tone_curve;
pub mod turns;
pub mod value_noise;

pub use log_exp::{exp2, log2};
pub use matrix::Matrix3;
pub use monotone::MonotoneCubic;
pub use noise_layer::NoiseLayer;
pub use sampled::Sampled;
pub use smooth::{smooth_share, smoothstep};
pub use tone_curve::ToneCurve;
