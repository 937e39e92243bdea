//! Reading and writing pictures: formats, colour profiles, metadata.
//!
//! In: JPEG, PNG, TIFF, WebP, JPEG XL, the embedded profile converted to the working space, orientation applied. Out:
//! the same formats in several spaces, with profile, EXIF, words and the development that made them; 32-bit float TIFF
//! for quantities; PNG for views.

pub mod attached;
mod chunks;
mod codes;
mod decode;
pub mod encode;
pub mod error;
mod jxl;
mod light;
mod limits;
pub mod metadata;
pub mod plain;
pub mod profile;
pub mod read;
mod riff;
pub mod sheet;
mod sieve;
mod strips;
pub mod write;

pub use attached::{Attached, Caption, Packet, Travelling};
pub use encode::{Bits, Encoding, Sampling};
pub use error::FileError;
pub use limits::Limits;
pub use metadata::{Kept, Metadata};
pub use read::{Opened, is_picture, open, size_of};
