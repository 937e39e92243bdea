//! JPEG XL without loss, in sRGB: the encoder's code stream in the boxes of ISO/IEC 18181-2, with what lies beside it.

use std::io::Write;

use amber_core::output::OutputSpace;
use zune_core::bit_depth::BitDepth;
use zune_core::colorspace::ColorSpace;
use zune_core::options::EncoderOptions;
use zune_jpegxl::JxlSimpleEncoder;

use super::{Out, Size};
use crate::attached::Attached;
use crate::error::{FileError, failed};

/// The box with which every file begins, and the one that says what it is.
pub const SIGNATURE: [u8; 12] = [0, 0, 0, 12, b'J', b'X', b'L', b' ', 0x0D, 0x0A, 0x87, 0x0A];
const FILE_TYPE: &[u8] = b"jxl \0\0\0\0jxl ";

pub fn of_8_bit(pixels: &[u8], size: Size, attached: &Attached, out: &mut Out) -> Result<(), FileError> {
    write(pixels, size, BitDepth::Eight, attached, out)
}

pub fn of_16_bit(pixels: &[u16], size: Size, attached: &Attached, out: &mut Out) -> Result<(), FileError> {
    let bytes: Vec<u8> = pixels.iter().flat_map(|v| v.to_ne_bytes()).collect();
    write(&bytes, size, BitDepth::Sixteen, attached, out)
}

fn write(
    pixels: &[u8],
    [width, height]: Size,
    depth: BitDepth,
    attached: &Attached,
    out: &mut Out,
) -> Result<(), FileError> {
    if attached.space != OutputSpace::Srgb {
        return Err(FileError::SrgbOnly { format: "JPEG XL" });
    }
    let options = EncoderOptions::new(width as usize, height as usize, ColorSpace::RGB, depth);
    let mut stream = Vec::new();
    JxlSimpleEncoder::new(pixels, options).encode(&mut stream).map_err(|e| failed(format!("{e:?}")))?;
    let mut write = |kind: &[u8; 4], parts: &[&[u8]]| -> Result<(), FileError> {
        let length = 8 + parts.iter().map(|part| part.len()).sum::<usize>();
        let length = u32::try_from(length).map_err(|_| failed("it is larger than 4 GiB"))?;
        out.write_all(&length.to_be_bytes()).map_err(failed)?;
        out.write_all(kind).map_err(failed)?;
        parts.iter().try_for_each(|part| out.write_all(part)).map_err(failed)
    };
    write(b"JXL ", &[&SIGNATURE[8..]])?;
    write(b"ftyp", &[FILE_TYPE])?;
    if let Some(block) = attached.exif_block()? {
        write(b"Exif", &[&[0; 4], &block])?;
    }
    if let Some(packet) = attached.packet() {
        write(b"xml ", &[packet.to_xml().as_bytes()])?;
    }
    write(b"jxlc", &[&stream])
}
