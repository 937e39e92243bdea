//! EXIF: what travels from the original into an export.

use std::io::Cursor;

use exif::experimental::Writer;
use exif::{Context, Field, In, Rational, Tag, Value};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use time::{Date, Month};

use crate::error::FileError;
use crate::sieve::sieved;
use crate::{chunks, riff};

/// Descriptive tags of the first directory; the others describe the original file's structure.
const DESCRIPTIVE: [Tag; 10] = [
    Tag::ImageDescription,
    Tag::Make,
    Tag::Model,
    Tag::XResolution,
    Tag::YResolution,
    Tag::ResolutionUnit,
    Tag::DateTime,
    Tag::Artist,
    Tag::Copyright,
    Tag::Software,
];

/// The EXIF fields of a picture that are worth keeping.
///
/// Orientation is left out (it has been applied), so are sizes, thumbnails and maker notes (whose inner offsets would
/// be wrong anywhere else).
#[derive(Debug, Clone, Default)]
pub struct Metadata {
    fields: Vec<Field>,
}

/// What of an original's EXIF goes into an export.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Kept {
    /// All of it.
    #[default]
    All,
    /// No place, no serial numbers, no names of persons.
    Reduced,
    Nothing,
}

/// Tags that tell whose picture it is, or which of many cameras took it.
const TELLING: [Tag; 6] = [
    Tag::BodySerialNumber,
    Tag::LensSerialNumber,
    Tag::CameraOwnerName,
    Tag::ImageUniqueID,
    Tag::UserComment,
    Tag::Artist,
];

/// Whether a tag of a directory is worth keeping.
fn wanted(context: Context, number: u16) -> bool {
    let tag = Tag(context, number);
    match context {
        Context::Tiff => DESCRIPTIVE.contains(&tag),
        Context::Exif => !matches!(tag, Tag::MakerNote | Tag::PixelXDimension | Tag::PixelYDimension),
        Context::Gps => true,
        _ => false,
    }
}

/// The EXIF block inside a file: a TIFF is one itself.
fn block_of(bytes: &[u8]) -> Option<&[u8]> {
    match bytes.get(..4)? {
        b"II\x2a\0" | b"MM\0\x2a" => Some(bytes),
        b"\x89PNG" => chunks::find(bytes, b"eXIf"),
        b"RIFF" => riff::find(bytes, b"EXIF").map(|block| block.strip_prefix(b"Exif\0\0").unwrap_or(block)),
        _ => jpeg_block(bytes),
    }
}

/// The segments of a JPEG before its picture: kind and content.
pub(crate) fn jpeg_segments(bytes: &[u8]) -> impl Iterator<Item = (u8, &[u8])> {
    let mut at = 2;
    std::iter::from_fn(move || {
        loop {
            let head = bytes.get(at..at + 4)?;
            if head[0] != 0xFF || head[1] == 0xDA {
                return None;
            }
            if head[1] == 0xFF {
                at += 1;
                continue;
            }
            let length = usize::from(u16::from_be_bytes([head[2], head[3]]));
            let content = bytes.get(at + 4..at + 2 + length)?;
            at += 2 + length;
            return Some((head[1], content));
        }
    })
}

/// What the first EXIF segment of a JPEG holds.
fn jpeg_block(bytes: &[u8]) -> Option<&[u8]> {
    jpeg_segments(bytes).find_map(|(kind, content)| (kind == 0xE1).then(|| content.strip_prefix(b"Exif\0\0"))?)
}

/// The way in which a file's picture lies, 1 to 8 as EXIF counts them; 1 where the file does not say.
pub(crate) fn orientation(bytes: &[u8]) -> u16 {
    let is_way = |context, number| Tag(context, number) == Tag::Orientation;
    let small = block_of(bytes).and_then(|block| sieved(block, is_way));
    let Some(read) = small.and_then(|small| exif::Reader::new().read_raw(small).ok()) else { return 1 };
    let way = read.get_field(Tag::Orientation, In::PRIMARY).and_then(|field| field.value.get_uint(0));
    way.and_then(|way| u16::try_from(way).ok()).filter(|way| (1..=8).contains(way)).unwrap_or(1)
}

impl Metadata {
    /// Reads the EXIF of a whole file; a file without any gives empty metadata.
    pub fn of_file(bytes: &[u8]) -> Self {
        block_of(bytes).map(Self::of_block).unwrap_or_default()
    }

    /// Reads a bare EXIF block.
    pub(crate) fn of_block(block: &[u8]) -> Self {
        let read = sieved(block, wanted).and_then(|small| exif::Reader::new().read_raw(small).ok());
        let Some(exif) = read else { return Self::default() };
        let kept = |field: &&Field| field.ifd_num == In::PRIMARY && !matches!(field.value, Value::Unknown(..));
        Self { fields: exif.fields().filter(kept).cloned().collect() }
    }

    /// When the picture was taken by the camera's clock: seconds since 1970 as if that clock had no zone. None where
    /// the file does not say, or says what is no date.
    pub fn taken(&self) -> Option<i64> {
        let field = self.fields.iter().find(|field| field.tag == Tag::DateTimeOriginal)?;
        let Value::Ascii(lines) = &field.value else { return None };
        let date = exif::DateTime::from_ascii(lines.first()?).ok()?;
        seconds_of(&date)
    }

    pub fn is_empty(&self) -> bool {
        self.fields.is_empty()
    }

    /// So much of it.
    pub fn kept(&self, kept: Kept) -> Self {
        let telling = |field: &Field| field.tag.context() == Context::Gps || TELLING.contains(&field.tag);
        let stays = |field: &&Field| match kept {
            Kept::All => true,
            Kept::Reduced => !telling(field),
            Kept::Nothing => false,
        };
        Self { fields: self.fields.iter().filter(stays).cloned().collect() }
    }

    fn set(&mut self, tag: Tag, value: Value) {
        self.fields.retain(|field| field.tag != tag);
        self.fields.push(Field { tag, ifd_num: In::PRIMARY, value });
    }

    pub(crate) fn set_text(&mut self, tag: Tag, text: &str) {
        self.set(tag, Value::Ascii(vec![text.as_bytes().to_vec()]));
    }

    /// Pixels per inch.
    pub(crate) fn set_resolution(&mut self, ppi: f64) {
        const INCH: u16 = 2;
        let value = || Value::Rational(vec![Rational { num: (ppi * 100.0).round().max(1.0) as u32, denom: 100 }]);
        self.set(Tag::XResolution, value());
        self.set(Tag::YResolution, value());
        self.set(Tag::ResolutionUnit, Value::Short(vec![INCH]));
    }

    /// The EXIF block (a small TIFF) for a JPEG.
    pub fn to_block(&self) -> Result<Vec<u8>, FileError> {
        let mut writer = Writer::new();
        self.fields.iter().for_each(|f| writer.push_field(f));
        let mut out = Cursor::new(Vec::new());
        writer.write(&mut out, true).map_err(|e| FileError::Encode { why: e.to_string() })?;
        Ok(out.into_inner())
    }

    /// The fields of one of the three directories.
    pub(crate) fn directory(&self, context: Context) -> impl Iterator<Item = &Field> {
        self.fields.iter().filter(move |f| f.tag.context() == context)
    }
}

/// Seconds since 1970 of a date, as if its clock had no zone; none where there is no such date.
fn seconds_of(date: &exif::DateTime) -> Option<i64> {
    let month = Month::try_from(date.month).ok()?;
    let day = Date::from_calendar_date(date.year.into(), month, date.day).ok()?;
    let time = day.with_hms(date.hour, date.minute, date.second.min(59)).ok()?;
    Some(time.assume_utc().unix_timestamp())
}

/// A field's value as TIFF stores it: the code of its type and its bytes in the machine's order.
pub(crate) fn tiff_value(value: &Value) -> Option<(tiff::tags::Type, Vec<u8>)> {
    use tiff::tags::Type;
    let pairs = |list: &[exif::Rational]| -> Vec<u8> {
        list.iter().flat_map(|r| [r.num.to_ne_bytes(), r.denom.to_ne_bytes()].concat()).collect()
    };
    Some(match value {
        Value::Byte(v) => (Type::BYTE, v.clone()),
        Value::Ascii(lines) => {
            let text = lines.iter().flat_map(|line| line.iter().copied().chain([0])).collect();
            (Type::ASCII, text)
        }
        Value::Short(v) => (Type::SHORT, v.iter().flat_map(|x| x.to_ne_bytes()).collect()),
        Value::Long(v) => (Type::LONG, v.iter().flat_map(|x| x.to_ne_bytes()).collect()),
        Value::Rational(v) => (Type::RATIONAL, pairs(v)),
        Value::SByte(v) => (Type::SBYTE, v.iter().map(|x| *x as u8).collect()),
        Value::Undefined(v, _) => (Type::UNDEFINED, v.clone()),
        Value::SShort(v) => (Type::SSHORT, v.iter().flat_map(|x| x.to_ne_bytes()).collect()),
        Value::SLong(v) => (Type::SLONG, v.iter().flat_map(|x| x.to_ne_bytes()).collect()),
        Value::SRational(v) => {
            (Type::SRATIONAL, v.iter().flat_map(|r| [r.num.to_ne_bytes(), r.denom.to_ne_bytes()].concat()).collect())
        }
        Value::Float(v) => (Type::FLOAT, v.iter().flat_map(|x| x.to_ne_bytes()).collect()),
        Value::Double(v) => (Type::DOUBLE, v.iter().flat_map(|x| x.to_ne_bytes()).collect()),
        Value::Unknown(..) => return None,
    })
    .filter(|(_, bytes)| !bytes.is_empty())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_camera_s_date_is_read_and_what_is_none_is_not() {
        let with = |text: &str| Metadata {
            fields: vec![Field {
                tag: Tag::DateTimeOriginal,
                ifd_num: In::PRIMARY,
                value: Value::Ascii(vec![text.as_bytes().to_vec()]),
            }],
        };
        // the leap day of 2000, one hour after midnight
        assert_eq!(with("2000:02-29 01:00:00").taken(), None);
        assert_eq!(with("2000:02:29 01:00:00").taken(), Some(951_786_000));
        assert_eq!(with("1969:12:31 23:59:59").taken(), Some(-1));
        for none in ["0000:00:00 00:00:00", "2001:02:29 10:00:00", "    :  :     :  :  ", "soon", ""] {
            assert_eq!(with(none).taken(), None, "{none:?}");
        }
        assert_eq!(Metadata::default().taken(), None);
    }
}
