//! The decoded source: what came out of the file, before any process.

use std::sync::LazyLock;

use super::Region;
use crate::colour::transfer::{decode_srgb, encode_srgb};

/// A picture in the working space (BT.2020 primaries, D65), encoded with the sRGB curve in 16 bits.
///
/// 16 encoded bits keep 8- and 16-bit originals without visible loss at a quarter of the memory of floats. Pixels are
/// interleaved R, G, B; orientation is already applied.
#[derive(Debug, Clone)]
pub struct Source {
    width: u32,
    height: u32,
    pixels: Vec<u16>,
}

static LINEAR_OF_CODE: LazyLock<Vec<f32>> =
    LazyLock::new(|| (0..=u16::MAX).map(|code| decode_srgb(code as f64 / 65535.0) as f32).collect());

/// Linear light of an encoded 16-bit value.
pub fn linear_of_code() -> &'static [f32] {
    &LINEAR_OF_CODE
}

/// Encoded 16-bit value of linear light in 0..1.
pub fn code_of_linear(linear: f64) -> u16 {
    (encode_srgb(linear.clamp(0.0, 1.0)) * 65535.0).round() as u16
}

impl Source {
    /// Takes `3 * width * height` values; `None` when the count is off or the picture is empty.
    pub fn new(width: u32, height: u32, pixels: Vec<u16>) -> Option<Self> {
        let wanted = 3 * width as usize * height as usize;
        (wanted > 0 && pixels.len() == wanted).then_some(Self { width, height, pixels })
    }

    pub(super) fn from_parts(width: u32, height: u32, pixels: Vec<u16>) -> Self {
        debug_assert_eq!(pixels.len(), 3 * width as usize * height as usize);
        Self { width, height, pixels }
    }

    /// A picture of one colour per pixel, given as linear sRGB.
    pub fn from_linear_srgb(width: u32, height: u32, colour: impl Fn(u32, u32) -> [f64; 3]) -> Self {
        let mut pixels = Vec::with_capacity(3 * width as usize * height as usize);
        for y in 0..height {
            for x in 0..width {
                pixels.extend(crate::colour::space::SRGB_TO_WIDE.apply(colour(x, y)).map(code_of_linear));
            }
        }
        Self { width, height, pixels }
    }

    pub fn width(&self) -> u32 {
        self.width
    }

    pub fn height(&self) -> u32 {
        self.height
    }

    pub fn region(&self) -> Region {
        Region::whole(self.width, self.height)
    }

    pub fn long_edge(&self) -> u32 {
        self.width.max(self.height)
    }

    pub fn pixels(&self) -> &[u16] {
        &self.pixels
    }

    /// The interleaved values of one row between two columns.
    pub fn row(&self, y: u32, x: u32, width: u32) -> &[u16] {
        let start = 3 * (y as usize * self.width as usize + x as usize);
        &self.pixels[start..start + 3 * width as usize]
    }

    pub fn bytes(&self) -> usize {
        self.pixels.len() * size_of::<u16>()
    }
}
