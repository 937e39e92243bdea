//! Parts of pages, swapped in by htmx.

pub mod bar;
pub mod bench;
mod changes;
mod columns;
pub mod development;
pub mod exports;
pub mod frames;
pub mod line;
pub mod log;
pub mod masks;
pub mod metering;
pub mod prints;
pub mod rack;
pub mod rail;
pub mod readings;
pub mod sheets;
pub mod stocks;
