//! Parts of pages, swapped in by htmx.

pub mod bench;
pub mod development;
pub mod exports;
pub mod frames;
pub mod masks;
pub mod metering;
pub mod readings;
pub mod stocks;
