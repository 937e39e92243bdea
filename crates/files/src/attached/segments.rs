//! Where packets lie in files: written into the segments of a JPEG, found again in every format.
//!
//! A JPEG's segment holds less than 64 KiB. What is longer goes, by the specification (XMP, part 3, 1.1.3.1), into
//! segments of an extended packet that the first one names by its MD5.

use md5::{Digest, Md5};

use super::Attached;
use super::packet::{Packet, Travelling};
use super::parsed::Properties;
use crate::error::FileError;
use crate::metadata::jpeg_segments;
use crate::{chunks, riff};

const PLAIN: &[u8] = b"http://ns.adobe.com/xap/1.0/\0";
const EXTENDED: &[u8] = b"http://ns.adobe.com/xmp/extension/\0";
/// Number of the application segment in which packets lie.
const APP1: u8 = 1;
/// Bytes of a segment after its length.
const ROOM: usize = 65_533;
/// Bytes of an extended segment before its part: name, MD5, length and place.
const HEAD: usize = EXTENDED.len() + 32 + 4 + 4;
/// Most bytes of a packet that is read.
const MOST: usize = 64 << 20;

impl Attached {
    /// The segments of a JPEG that hold the packet.
    pub(crate) fn jpeg_segments(&self) -> Vec<(u8, Vec<u8>)> {
        let Some(packet) = self.packet() else { return Vec::new() };
        let plain = |xml: &str| (APP1, [PLAIN, xml.as_bytes()].concat());
        let whole = packet.to_xml();
        if PLAIN.len() + whole.len() <= ROOM {
            return vec![plain(&whole)];
        }
        let rest = Packet { caption: Default::default(), travelling: packet.travelling }.to_xml();
        let name: String = Md5::digest(rest.as_bytes()).iter().map(|byte| format!("{byte:02X}")).collect();
        let note = format!("<xmpNote:HasExtendedXMP>{name}</xmpNote:HasExtendedXMP>\n");
        let first = Packet { caption: packet.caption, travelling: None }.with(&note);
        let length = (rest.len() as u32).to_be_bytes();
        let parts = rest.as_bytes().chunks(ROOM - HEAD).enumerate().map(|(i, part)| {
            let place = ((i * (ROOM - HEAD)) as u32).to_be_bytes();
            (APP1, [EXTENDED, name.as_bytes(), &length, &place, part].concat())
        });
        std::iter::once(plain(&first)).chain(parts).collect()
    }
}

/// The contents of a JPEG's first application segments that begin with a mark, without it.
fn app1<'a>(bytes: &'a [u8], mark: &'a [u8]) -> impl Iterator<Item = &'a [u8]> {
    jpeg_segments(bytes).filter_map(move |(kind, content)| (kind == 0xE1).then(|| content.strip_prefix(mark))?)
}

/// The rest of a packet, put together from its segments; none where a part is missing.
fn extended(bytes: &[u8], name: &str) -> Option<String> {
    let mut whole: Vec<u8> = Vec::new();
    let mut had = 0;
    for segment in app1(bytes, EXTENDED) {
        let (head, part) = segment.split_at_checked(40)?;
        if !head[..32].eq_ignore_ascii_case(name.as_bytes()) {
            continue;
        }
        let number = |at: usize| u32::from_be_bytes([head[at], head[at + 1], head[at + 2], head[at + 3]]) as usize;
        let (length, place) = (number(32), number(36));
        if length > MOST {
            return None;
        }
        whole.resize(length, 0);
        whole.get_mut(place..place + part.len())?.copy_from_slice(part);
        had += part.len();
    }
    (had > 0 && had == whole.len()).then(|| String::from_utf8(whole).ok())?
}

/// A packet's text in the boxes of a JPEG XL.
fn of_boxes(bytes: &[u8]) -> Option<&[u8]> {
    let mut at = 0;
    loop {
        let head = bytes.get(at..at + 8)?;
        let length = u32::from_be_bytes(head[..4].try_into().ok()?) as usize;
        if length < 8 {
            return None;
        }
        if &head[4..] == b"xml " {
            return bytes.get(at + 8..at + length);
        }
        at += length;
    }
}

/// The field with a packet in the first directory of a TIFF.
fn of_tiff(bytes: &[u8]) -> Option<Vec<u8>> {
    let mut decoder = tiff::decoder::Decoder::new(std::io::Cursor::new(bytes)).ok()?;
    decoder.find_tag(crate::encode::PACKET_OF_TIFF).ok()??.into_u8_vec().ok()
}

/// The text of a PNG's international text chunk of that name, where it is not compressed.
fn of_png(bytes: &[u8]) -> Option<&[u8]> {
    let keyword = crate::encode::PACKET_OF_PNG.as_bytes();
    chunks::all(bytes, b"iTXt").find_map(|content| {
        let rest = content.strip_prefix(keyword)?.strip_prefix(b"\0\0\0")?;
        let language = rest.iter().position(|b| *b == 0)?;
        let translated = rest.get(language + 1..)?;
        translated.get(translated.iter().position(|b| *b == 0)? + 1..)
    })
}

/// The packet of a file of any format; an empty one where it has none.
pub fn packet_of_file(bytes: &[u8]) -> Result<Packet, FileError> {
    let text =
        |found: Option<&[u8]>| found.filter(|f| f.len() <= MOST).map(|f| String::from_utf8_lossy(f).into_owned());
    let xml = match bytes.get(..4) {
        Some([0xFF, 0xD8, ..]) => text(app1(bytes, PLAIN).next()),
        Some(b"\x89PNG") => text(of_png(bytes)),
        Some(b"II*\0" | b"MM\0*") => text(of_tiff(bytes).as_deref()),
        Some(b"RIFF") => text(riff::find(bytes, b"XMP ")),
        Some([0, 0, 0, 12]) => text(of_boxes(bytes)),
        _ => None,
    };
    let Some(xml) = xml else { return Ok(Packet::default()) };
    let mut properties = Properties::read(&xml)?;
    if let Some(rest) = extended(bytes, properties.rest()) {
        properties.join(Properties::read(&rest)?);
    }
    properties.packet()
}

/// The development that travels in a file; none where there is none, or none that can be read.
pub fn travelling_in(bytes: &[u8]) -> Option<Travelling> {
    packet_of_file(bytes).ok()?.travelling
}
