//! The chunks of a RIFF file, as WebP is one.

/// The content of the first chunk of a kind.
pub fn find<'a>(bytes: &'a [u8], wanted: &[u8; 4]) -> Option<&'a [u8]> {
    let mut at = 12;
    loop {
        let head = bytes.get(at..at + 8)?;
        let length = u32::from_le_bytes(head[4..].try_into().ok()?) as usize;
        let content = bytes.get(at + 8..(at + 8).checked_add(length)?)?;
        if &head[..4] == wanted {
            return Some(content);
        }
        at += 8 + length + length % 2;
    }
}
