//! The eight stations, in the order in which light becomes a print.

pub mod bath;
pub mod film;
pub mod lens;
pub mod print;
pub mod registry;
pub mod scene;
pub mod surface;
pub mod switching;
pub mod tone;
pub mod years;

pub use crate::controls::Station;
pub use registry::{LISTS, all, columns, find, in_order, list, list_of};
pub use switching::{is_lamp, lamp, lamp_label, lamp_stays_with_the_picture, lamps, station_of_lamp};
