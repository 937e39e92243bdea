//! What a picture's file says beside its pixels: profile, exposure data, words, resolution, and the development that it
//! was made by.

mod caption;
mod packet;
mod parsed;
mod segments;

use std::borrow::Cow;

use amber_core::output::OutputSpace;

pub use caption::Caption;
pub use packet::{NAMESPACE, Packet, Travelling};
pub use segments::{packet_of_file, travelling_in};

use crate::error::FileError;
use crate::metadata::Metadata;
use crate::profile;

/// Beside the pixels of a file that is written.
#[derive(Debug, Clone, Default)]
pub struct Attached {
    /// Of the pixels; its profile is embedded.
    pub space: OutputSpace,
    /// What is kept of the original's EXIF.
    pub metadata: Metadata,
    pub caption: Caption,
    /// The development that made it, to be taken up again.
    pub travelling: Option<Travelling>,
    pub pixels_per_inch: Option<f64>,
}

impl Attached {
    /// Nothing but the original's EXIF, in sRGB.
    pub fn of(metadata: &Metadata) -> Self {
        Self { metadata: metadata.clone(), ..Self::default() }
    }

    /// The profile (ICC) of the space.
    pub fn profile(&self) -> Result<Vec<u8>, FileError> {
        profile::of_space(self.space)
    }

    /// The EXIF with the words and the resolution.
    pub fn described(&self) -> Cow<'_, Metadata> {
        if self.caption.is_empty() && self.pixels_per_inch.is_none() {
            return Cow::Borrowed(&self.metadata);
        }
        let mut described = self.metadata.clone();
        self.caption.describe(&mut described);
        if let Some(ppi) = self.pixels_per_inch {
            described.set_resolution(ppi);
        }
        Cow::Owned(described)
    }

    /// The EXIF block (a small TIFF); none where there is nothing in it.
    pub fn exif_block(&self) -> Result<Option<Vec<u8>>, FileError> {
        let described = self.described();
        if described.is_empty() { Ok(None) } else { described.to_block().map(Some) }
    }

    /// The XMP packet; none where it would say nothing.
    pub fn packet(&self) -> Option<Packet> {
        let packet = Packet { caption: self.caption.clone(), travelling: self.travelling.clone() };
        (!packet.is_empty()).then_some(packet)
    }
}
