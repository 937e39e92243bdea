//! What of an EXIF block is read at all.
//!
//! A block's entries may all point at the same bytes: read as they stand, 1 MB of a file becomes 16 GB of fields. So
//! the entries are sieved first, each tag once and within bounds, and only what passes is handed on, as a small block.

use std::collections::HashSet;

use exif::{Context, Tag};

/// Most bytes of one field, and of all.
const MOST_OF_A_FIELD: usize = 64 << 10;
const MOST_OF_ALL: usize = 256 << 10;
/// Bytes of a value by its type's code.
const SIZES: [usize; 14] = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4];

/// A TIFF-like block that is read without trusting it.
struct Block<'a> {
    bytes: &'a [u8],
    little: bool,
}

struct Entry<'a> {
    tag: u16,
    kind: u16,
    count: u32,
    value: &'a [u8],
}

impl<'a> Block<'a> {
    fn new(bytes: &'a [u8]) -> Option<Self> {
        let little = match bytes.get(..4)? {
            b"II\x2a\0" => true,
            b"MM\0\x2a" => false,
            _ => return None,
        };
        Some(Self { bytes, little })
    }

    fn short(&self, at: usize) -> Option<u16> {
        let two = self.bytes.get(at..at.checked_add(2)?)?.try_into().ok()?;
        Some(if self.little { u16::from_le_bytes(two) } else { u16::from_be_bytes(two) })
    }

    fn long(&self, at: usize) -> Option<u32> {
        let four = self.bytes.get(at..at.checked_add(4)?)?.try_into().ok()?;
        Some(if self.little { u32::from_le_bytes(four) } else { u32::from_be_bytes(four) })
    }

    fn entry(&self, at: usize) -> Option<Entry<'a>> {
        let (tag, kind, count) = (self.short(at)?, self.short(at + 2)?, self.long(at + 4)?);
        let size = SIZES.get(usize::from(kind))?.checked_mul(count as usize)?;
        let start = if size <= 4 { at + 8 } else { self.long(at + 8)? as usize };
        Some(Entry { tag, kind, count, value: self.bytes.get(start..start.checked_add(size)?)? })
    }

    fn entries(&self, directory: usize) -> impl Iterator<Item = Entry<'a>> {
        let count = self.short(directory).map_or(0, usize::from);
        (0..count).filter_map(move |i| self.entry(directory + 2 + 12 * i))
    }

    /// Where a directory lies that an entry points to.
    fn pointed(&self, directory: usize, tag: Tag) -> Option<usize> {
        let entry = self.entries(directory).find(|e| e.tag == tag.number() && e.kind == 4)?;
        let four = entry.value.get(..4)?.try_into().ok()?;
        Some(if self.little { u32::from_le_bytes(four) } else { u32::from_be_bytes(four) } as usize)
    }
}

/// A block that is written again, in the byte order of the one it comes from.
struct Sieved {
    bytes: Vec<u8>,
    little: bool,
    room: usize,
}

impl Sieved {
    fn short(&self, v: u16) -> [u8; 2] {
        if self.little { v.to_le_bytes() } else { v.to_be_bytes() }
    }

    fn long(&self, v: u32) -> [u8; 4] {
        if self.little { v.to_le_bytes() } else { v.to_be_bytes() }
    }

    /// What passes of a directory, and the pointers that join it; gives its place.
    fn add<'a>(
        &mut self,
        entries: impl Iterator<Item = Entry<'a>>,
        wanted: impl Fn(u16) -> bool,
        pointers: &[(Tag, u32)],
    ) -> u32 {
        let mut seen = HashSet::new();
        let mut kept: Vec<(u16, u16, u32, Vec<u8>)> = Vec::new();
        for entry in entries {
            let size = entry.value.len();
            if wanted(entry.tag) && size <= MOST_OF_A_FIELD.min(self.room) && seen.insert(entry.tag) {
                self.room -= size;
                kept.push((entry.tag, entry.kind, entry.count, entry.value.to_vec()));
            }
        }
        kept.extend(pointers.iter().map(|(tag, place)| (tag.number(), 4, 1, self.long(*place).to_vec())));
        let place = self.bytes.len();
        let data_at = place + 2 + 12 * kept.len() + 4;
        let mut data = Vec::new();
        self.bytes.extend(self.short(kept.len() as u16));
        for (tag, kind, count, mut value) in kept {
            self.bytes.extend([self.short(tag), self.short(kind)].concat());
            self.bytes.extend(self.long(count));
            if value.len() <= 4 {
                value.resize(4, 0);
                self.bytes.extend(value);
            } else {
                self.bytes.extend(self.long((data_at + data.len()) as u32));
                data.extend(value);
            }
        }
        self.bytes.extend([0; 4]);
        self.bytes.extend(data);
        place as u32
    }
}

/// The small block of what `wanted` passes, of the picture's own directories.
pub fn sieved(block: &[u8], wanted: impl Fn(Context, u16) -> bool) -> Option<Vec<u8>> {
    let block = Block::new(block)?;
    let first = block.long(4)? as usize;
    let mark: &[u8] = if block.little { b"II\x2a\0\0\0\0\0" } else { b"MM\0\x2a\0\0\0\0" };
    let mut out = Sieved { bytes: mark.to_vec(), little: block.little, room: MOST_OF_ALL };
    let mut pointers = Vec::new();
    for (tag, context) in [(Tag::ExifIFDPointer, Context::Exif), (Tag::GPSInfoIFDPointer, Context::Gps)] {
        if let Some(place) = block.pointed(first, tag) {
            pointers.push((tag, out.add(block.entries(place), |t| wanted(context, t), &[])));
        }
    }
    let place = out.add(block.entries(first), |t| wanted(Context::Tiff, t), &pointers);
    let place = out.long(place);
    out.bytes[4..8].copy_from_slice(&place);
    Some(out.bytes)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn entries_that_share_their_bytes_are_kept_once_and_within_bounds() {
        // 3,000 entries, all of one tag, all naming the same 40,000 bytes
        let count = 3000u16;
        let mut block = b"II\x2a\0\x08\0\0\0".to_vec();
        block.extend(count.to_le_bytes());
        let data_at = (8 + 2 + 12 * u32::from(count) + 4).to_le_bytes();
        for i in 0..count {
            block.extend([Tag::ImageDescription.number() + i % 2, 2].map(u16::to_le_bytes).concat());
            block.extend(40_000u32.to_le_bytes());
            block.extend(data_at);
        }
        block.extend([0; 4]);
        block.extend(vec![b'a'; 40_000]);
        let small = sieved(&block, |_, _| true).unwrap();
        assert!(small.len() < 81_000, "{}", small.len());
        let read = exif::Reader::new().read_raw(small).unwrap();
        assert_eq!(read.fields().count(), 2);
        for cut in 0..200 {
            sieved(&block[..cut], |_, _| true);
        }
    }
}
