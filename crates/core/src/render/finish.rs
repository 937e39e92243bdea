//! How a picture leaves: the space of its colours, and what is sharpened for its size.

use crate::output::{OutputSpace, Sharpening};

/// How the finished picture is encoded.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Finish {
    /// The space of its colours. Sheets over the print and mounts keep the colours that sRGB has.
    pub space: OutputSpace,
    /// Sharpened for its size; the mount is not.
    pub sharpening: Option<Sharpening>,
}

impl Finish {
    /// As views show it: sRGB, nothing sharpened.
    pub const SCREEN: Self = Self { space: OutputSpace::Srgb, sharpening: None };
}
