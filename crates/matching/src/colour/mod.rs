//! What colours become, without a picture around them.

mod classes;
mod palette;
mod point_print;

pub use classes::{Class, Classes};
pub use palette::{Gathered, Palette};
pub use point_print::PointPrint;
