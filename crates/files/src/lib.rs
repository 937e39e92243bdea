//! Reading and writing pictures: formats, colour profiles, metadata.
//!
//! In: JPEG, PNG, TIFF (8 and 16 bit), the embedded profile converted to the working space, orientation applied. Out:
//! JPEG and 16-bit TIFF in sRGB with a profile and the original's EXIF; 32-bit float TIFF for quantities; PNG for
//! views.

mod chunks;
mod codes;
pub mod error;
mod limits;
pub mod metadata;
pub mod plain;
pub mod profile;
pub mod read;
pub mod rows;
pub mod sheet;
mod sieve;
mod strips;
pub mod write;

pub use error::FileError;
pub use limits::Limits;
pub use metadata::Metadata;
pub use read::{Opened, open, pixels_of};
