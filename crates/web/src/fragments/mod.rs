//! Parts of pages, swapped in by htmx.

pub mod bar;
pub mod bench;
pub mod beside;
mod changes;
pub mod charts;
mod columns;
pub mod development;
pub mod exports;
pub mod line;
pub mod log;
pub mod masks;
pub mod matches;
pub mod matching;
pub mod metering;
pub mod output;
pub mod presets;
pub mod prints;
pub mod rack;
pub mod rail;
pub mod readings;
mod running;
pub mod selection;
pub mod sheet;
pub mod sheets;
pub mod stocks;
pub mod together;
