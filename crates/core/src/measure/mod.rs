//! Measurements: on the picture (noise, facts) and on what the film makes of it (granularity, metering).

pub mod facts;
pub mod granularity;
pub mod noise;

pub use facts::Facts;
