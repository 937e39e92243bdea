//! Pictures: regions, buffers typed by quantity, the decoded source, reduction, and the geometry of the film.

mod between_pixels;
pub mod buffer;
pub mod film_geometry;
pub mod framing;
pub mod gaussian;
pub mod guided;
pub mod own;
pub mod peak;
mod peak_steps;
pub mod peaks;
pub mod plane;
pub mod reduce;
pub mod region;
pub mod source;
pub mod spread;
pub mod stored;

pub use buffer::Picture;
pub use film_geometry::{FilmGeometry, Gate};
pub use plane::Plane;
pub use region::Region;
pub use source::Source;
