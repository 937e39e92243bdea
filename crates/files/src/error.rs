//! What can be wrong with a file, in a sentence that says what to do.

use thiserror::Error;

#[derive(Debug, Error)]
pub enum FileError {
    #[error("this is not a picture that Amber Grain reads; it takes JPEG, PNG, TIFF, WebP and JPEG XL")]
    NotAPicture,
    #[error("this {format} file is damaged or cut off: {why}. Copy it again from where it came from")]
    Damaged { format: &'static str, why: &'static str },
    #[error(
        "this picture has {width} x {height} pixels, more than the limit of {limit} million. Reduce it, or raise \
            the limit"
    )]
    TooManyPixels { width: u32, height: u32, limit: u64 },
    #[error("this picture is stored as {what}, which Amber Grain does not read. Save it as 8- or 16-bit RGB")]
    UnreadableColours { what: &'static str },
    #[error("the colour profile in this file cannot be used: {why}. Convert the picture to sRGB first")]
    Profile { why: String },
    #[error("this is a camera's raw file, which Amber Grain does not read. Develop it to a 16-bit TIFF first")]
    CameraRaw,
    #[error("what this file says of its development cannot be read: {why}")]
    Packet { why: String },
    #[error("no quality makes this picture fit into {kb} kB; make it smaller in pixels, or allow more")]
    TooLargeFor { kb: u32 },
    #[error("{format} is written in sRGB only; choose TIFF or PNG for a wider space")]
    SrgbOnly { format: &'static str },
    #[error("a Hald picture is square and at most 1331 pixels wide; this one is {width} x {height}")]
    NotSquare { width: u32, height: u32 },
    #[error("the picture could not be encoded: {why}")]
    Encode { why: String },
    #[error("{path} cannot be read: {source}")]
    Read { path: String, source: std::io::Error },
    #[error("{path} cannot be written: {source}")]
    Write { path: String, source: std::io::Error },
}

pub(crate) fn unreadable() -> FileError {
    FileError::UnreadableColours { what: "grey floating-point or other unusual numbers" }
}

/// An encoder's complaint.
pub(crate) fn failed(why: impl ToString) -> FileError {
    FileError::Encode { why: why.to_string() }
}
