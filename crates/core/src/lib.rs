//! The computation of Amber Grain: pictures, colour, the stations of the process line, the renderer.
//!
//! No I/O, no interface, no clock, no global state: the thread pool is handed in. A picture walks from [`picture`]
//! through the [`stations`] in the order in which light becomes a print; [`render`] walks it.

#![warn(missing_docs)]

pub mod cache;
pub mod colour;
pub mod controls;
pub mod development;
pub mod effect;
pub mod error;
pub mod frame;
pub mod key;
pub mod look;
pub mod mask;
pub mod measure;
pub mod memory;
pub mod numeric;
pub mod output;
pub mod own_stock;
pub mod picture;
pub mod prepare;
pub mod preset;
pub mod render;
pub mod schema;
pub mod stations;
pub mod stock;
pub mod text;
pub mod value;

pub use colour::look::Look;
pub use development::Development;
pub use error::CoreError;
pub use frame::{Frame, Rendering};
pub use own_stock::StockName;
pub use picture::{Picture, Region, Source};
pub use preset::{Chosen, Preset, PresetName, ShippedPresets};
pub use stations::Station;
pub use stock::{Catalogue, Stock};
