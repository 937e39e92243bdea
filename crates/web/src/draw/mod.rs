//! Drawings and figures made from values: controls, signatures, charts.

pub mod chart;
pub mod control;
pub mod declared;
pub mod exposures;
pub mod noise;
pub mod pencil;
pub mod ramp;
pub mod signature;
