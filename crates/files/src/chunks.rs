//! The chunks of a PNG, looked at before it is decoded.

use crate::error::FileError;

/// Bytes before the first chunk.
const SIGNATURE: usize = 8;
/// Most colours of a palette.
const MOST_COLOURS: usize = 256;

/// The chunks up to the picture's data: kind and content.
fn before_the_data(bytes: &[u8]) -> impl Iterator<Item = (&[u8], &[u8])> {
    every(bytes).take_while(|(kind, _)| *kind != b"IDAT")
}

fn every(bytes: &[u8]) -> impl Iterator<Item = (&[u8], &[u8])> {
    let mut at = SIGNATURE;
    std::iter::from_fn(move || {
        let head = bytes.get(at..at + 8)?;
        let length = u32::from_be_bytes(head[..4].try_into().ok()?) as usize;
        let content = bytes.get(at + 8..(at + 8).checked_add(length)?)?;
        at += 12 + length;
        Some((&head[4..], content))
    })
}

/// The content of the first chunk of a kind that stands before the picture's data.
pub fn find<'a>(bytes: &'a [u8], wanted: &[u8; 4]) -> Option<&'a [u8]> {
    before_the_data(bytes).find(|(kind, _)| *kind == wanted).map(|(_, content)| content)
}

/// The contents of the chunks of a kind, wherever they stand.
pub fn all<'a>(bytes: &'a [u8], wanted: &'a [u8; 4]) -> impl Iterator<Item = &'a [u8]> {
    every(bytes).filter(move |(kind, _)| *kind == wanted).map(|(_, content)| content)
}

/// Refuses palettes that are none.
pub fn check(bytes: &[u8]) -> Result<(), FileError> {
    match find(bytes, b"PLTE") {
        Some(colours) if !colours.len().is_multiple_of(3) || colours.len() > 3 * MOST_COLOURS => {
            Err(FileError::Damaged { format: "PNG", why: "its palette is cut off" })
        }
        _ => Ok(()),
    }
}
