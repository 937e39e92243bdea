//! What the files' own crates decode, in one form: samples as they are stored, upright, with the profile beside them.

mod jpeg;
mod png;
pub mod samples;
pub mod tiff;
mod turn;
mod webp;

use crate::error::FileError;
use crate::limits::Limits;
use crate::metadata;

pub use samples::Samples;
pub use turn::Turn;

/// A kind of file that is decoded here.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    Jpeg,
    Png,
    Tiff,
    WebP,
}

impl Kind {
    /// By a file's first bytes.
    pub fn of(bytes: &[u8]) -> Option<Self> {
        let starts = |with: &[u8]| bytes.starts_with(with);
        // a TIFF of more than 4 GiB has a mark of its own
        let tiff: [&[u8]; 4] = [b"II\x2a\0", b"MM\0\x2a", b"II\x2b\0", b"MM\0\x2b"];
        if starts(b"\xFF\xD8\xFF") {
            Some(Self::Jpeg)
        } else if starts(b"\x89PNG\r\n\x1A\n") {
            Some(Self::Png)
        } else if tiff.into_iter().any(starts) {
            Some(Self::Tiff)
        } else if starts(b"RIFF") && bytes.get(8..12) == Some(b"WEBP") {
            Some(Self::WebP)
        } else {
            None
        }
    }

    pub fn name(self) -> &'static str {
        match self {
            Self::Jpeg => "JPEG",
            Self::Png => "PNG",
            Self::Tiff => "TIFF",
            Self::WebP => "WebP",
        }
    }
}

/// A decoded picture.
#[derive(Debug)]
pub struct Stored {
    pub width: u32,
    pub height: u32,
    /// Of a pixel: 1 grey, 2 grey and alpha, 3 colour, 4 colour and alpha.
    pub channels: usize,
    /// Interleaved.
    pub samples: Samples,
    pub icc: Option<Vec<u8>>,
}

/// Width and height as a file says them of itself, without decoding it.
pub fn size_of(bytes: &[u8], kind: Kind) -> Result<(u32, u32), FileError> {
    match kind {
        Kind::Jpeg => jpeg::size_of(bytes),
        Kind::Png => png::size_of(bytes),
        Kind::Tiff => tiff::size_of(bytes),
        Kind::WebP => webp::size_of(bytes),
    }
}

/// Decodes a file, upright.
pub fn stored(bytes: &[u8], kind: Kind, limits: Limits) -> Result<Stored, FileError> {
    let (stored, way) = match kind {
        Kind::Jpeg => (jpeg::stored(bytes, limits)?, metadata::orientation(bytes)),
        Kind::Png => (png::stored(bytes, limits)?, metadata::orientation(bytes)),
        Kind::Tiff => tiff::stored(bytes, limits)?,
        Kind::WebP => (webp::stored(bytes, limits)?, metadata::orientation(bytes)),
    };
    if way <= 1 {
        return Ok(stored);
    }
    let turn = Turn { way, width: stored.width as usize, height: stored.height as usize };
    let (width, height) = turn.upright();
    let samples = stored.samples.turned(turn, stored.channels);
    Ok(Stored { width: width as u32, height: height as u32, samples, ..stored })
}

/// A file whose samples cannot be decoded.
pub(crate) fn undecodable(kind: Kind) -> FileError {
    FileError::Damaged { format: kind.name(), why: "its data cannot be decoded" }
}

/// A file that ends too early.
pub(crate) fn cut_off(kind: Kind) -> FileError {
    FileError::Damaged { format: kind.name(), why: "its end is missing" }
}

/// A file that says more beside its picture than is believed.
pub(crate) fn too_much_beside(kind: Kind) -> FileError {
    FileError::Damaged { format: kind.name(), why: "what it holds beside the picture is too large" }
}

/// What reading failed by: the file's end, or something else.
pub(crate) fn unread(error: &std::io::Error, kind: Kind) -> FileError {
    if error.kind() == std::io::ErrorKind::UnexpectedEof { cut_off(kind) } else { undecodable(kind) }
}

pub(crate) fn unusual() -> FileError {
    FileError::UnreadableColours { what: "an unusual kind or compression" }
}
