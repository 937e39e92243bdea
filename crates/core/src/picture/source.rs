//! The decoded source: what came out of the file, before any process.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::{Arc, LazyLock};

use multiversion::multiversion;

use super::Region;
use super::peak::Peak;
use crate::colour::transfer::{decode_srgb, encode_srgb, encode_srgb_f32};
use crate::numeric::log_exp::whole_part;

/// A picture as 16-bit codes of *extended* sRGB: primaries and curve of sRGB, continued to values below 0 and above 1.
///
/// Every colour of BT.2020 has a code (encoded -0.8 to 1.3), every 8-bit sRGB value is met exactly, and half the memory
/// of floats suffices. A picture that came in 8 bits of sRGB is held so, and gives its codes when it is read. Pixels
/// are interleaved R, G, B; orientation is already applied.
#[derive(Debug, Clone)]
pub struct Source {
    width: u32,
    height: u32,
    pixels: Samples,
    /// Of a reduced picture: what of it is bright and small, by pixel.
    peaks: Arc<[Peak]>,
}

/// What is held of each channel of each pixel.
#[derive(Debug, Clone)]
enum Samples {
    Codes(Vec<u16>),
    Srgb8(Vec<u8>),
}

/// Rows as they are held, to be read without making codes of them first.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Held<'a> {
    Codes(&'a [u16]),
    Srgb8(&'a [u8]),
}

impl<'a> Held<'a> {
    /// The codes of what is held.
    fn codes(self) -> Cow<'a, [u16]> {
        match self {
            Held::Codes(codes) => Cow::Borrowed(codes),
            Held::Srgb8(values) => Cow::Owned(codes_of_8_bit(values)),
        }
    }
}

/// Codes per unit of encoded value: 122 for each 8-bit step.
const CODES_PER_UNIT: f64 = STEP_OF_8_BIT as f64 * 255.0;
/// Code of black.
const CODE_OF_BLACK: f64 = 0.8 * CODES_PER_UNIT;

/// Number of codes.
pub const CODES: usize = 1 << 16;

/// Codes between two values of an 8-bit picture.
const STEP_OF_8_BIT: u16 = 122;

/// Code of an 8-bit sRGB value.
#[inline(always)]
pub fn code_of_8_bit(value: u8) -> u16 {
    CODE_OF_BLACK as u16 + STEP_OF_8_BIT * u16::from(value)
}

/// Codes of 8-bit sRGB values.
#[multiversion(targets("x86_64+avx2"))]
fn codes_of_8_bit(values: &[u8]) -> Vec<u16> {
    let mut codes = vec![0; values.len()];
    codes.iter_mut().zip(values).for_each(|(code, v)| *code = code_of_8_bit(*v));
    codes
}

static LINEAR_OF_CODE: LazyLock<Box<[f32; CODES]>> = LazyLock::new(|| {
    let linear = |code: u16| {
        let encoded = (code as f64 - CODE_OF_BLACK) / CODES_PER_UNIT;
        (decode_srgb(encoded.abs()) * encoded.signum()) as f32
    };
    by_code(linear)
});

static ENCODED_OF_CODE: LazyLock<Box<[f32; CODES]>> =
    LazyLock::new(|| by_code(|code| ((code as f64 - CODE_OF_BLACK) / CODES_PER_UNIT) as f32));

/// A value for every code.
pub fn by_code(value: impl Fn(u16) -> f32) -> Box<[f32; CODES]> {
    let mut table = Box::new([0.0; CODES]);
    (0..=u16::MAX).zip(table.iter_mut()).for_each(|(code, v)| *v = value(code));
    table
}

/// Whether a code stands for a value below black: a colour outside sRGB.
#[inline(always)]
pub fn is_below_black(code: u16) -> bool {
    f64::from(code) < CODE_OF_BLACK
}

/// The lowest and the highest of some codes.
#[multiversion(targets("x86_64+avx2"))]
pub fn code_range(codes: &[u16]) -> [u16; 2] {
    // one after the other: each is a vector of its own
    let low = codes.iter().fold(u16::MAX, |low, code| low.min(*code));
    [low, codes.iter().fold(0, |high, code| high.max(*code))]
}

/// The highest of some 8-bit values.
#[multiversion(targets("x86_64+avx2"))]
pub(crate) fn highest_of(values: &[u8]) -> u8 {
    // the highest at each place of a vector: what is left over is short
    let (vectors, rest) = values.as_chunks::<32>();
    let mut highest = [0u8; 32];
    for vector in vectors {
        for k in 0..32 {
            highest[k] = highest[k].max(vector[k]);
        }
    }
    highest.iter().chain(rest).fold(0, |high, value| high.max(*value))
}

/// Linear light by 8-bit sRGB value: what [`linear_of_code`] holds for its code.
static LINEAR_OF_8_BIT: LazyLock<[f32; 256]> =
    LazyLock::new(|| std::array::from_fn(|value| LINEAR_OF_CODE[usize::from(code_of_8_bit(value as u8))]));

/// Linear sRGB light by code.
pub fn linear_of_code() -> &'static [f32; CODES] {
    &LINEAR_OF_CODE
}

/// Linear light by 8-bit sRGB value.
pub(crate) fn linear_of_8_bit() -> &'static [f32; 256] {
    &LINEAR_OF_8_BIT
}

/// Encoded sRGB value by code.
pub fn encoded_of_code() -> &'static [f32; CODES] {
    &ENCODED_OF_CODE
}

/// [`encoded_of_code`] by arithmetic, for pixel loops that are vectors; the same bits.
#[inline(always)]
pub fn encoded_value(code: f32) -> f32 {
    (code - CODE_OF_BLACK as f32) / CODES_PER_UNIT as f32
}

/// Code of an encoded value in single precision, for pixel loops.
#[inline(always)]
pub fn code_of_value(encoded: f32) -> u16 {
    whole_part(encoded * CODES_PER_UNIT as f32 + (CODE_OF_BLACK as f32 + 0.5))
}

/// Code of a linear sRGB value, which may lie outside 0..1.
pub fn code_of_linear(linear: f64) -> u16 {
    code_of_encoded(encode_srgb(linear.abs()) * linear.signum())
}

/// [`code_of_linear`] in single precision, for pixel loops: at most one code off.
#[inline(always)]
pub fn code_of_light(linear: f32) -> u16 {
    code_of_value(encode_srgb_f32(linear.abs()).copysign(linear))
}

/// [`code_of_light`] of many.
#[multiversion(targets("x86_64+avx2"))]
pub fn codes_of_light(light: &[f32], codes: &mut [u16]) {
    for (code, v) in codes.iter_mut().zip(light) {
        *code = code_of_light(*v);
    }
}

/// Code of an encoded sRGB value.
pub fn code_of_encoded(encoded: f64) -> u16 {
    (encoded * CODES_PER_UNIT + CODE_OF_BLACK).round().clamp(0.0, 65535.0) as u16
}

impl Source {
    /// Takes `3 * width * height` values; `None` when the count is off or the picture is empty.
    pub fn new(width: u32, height: u32, pixels: Vec<u16>) -> Option<Self> {
        let wanted = 3 * width as usize * height as usize;
        (wanted > 0 && pixels.len() == wanted).then(|| Self::from_parts(width, height, pixels))
    }

    /// [`Source::new`] of a picture in 8 bits of sRGB, which is held as it is.
    pub fn of_8_bit(width: u32, height: u32, values: Vec<u8>) -> Option<Self> {
        let wanted = 3 * width as usize * height as usize;
        let of = |values| Self { width, height, pixels: Samples::Srgb8(values), peaks: Arc::from([]) };
        (wanted > 0 && values.len() == wanted).then(|| of(values))
    }

    pub(super) fn from_parts(width: u32, height: u32, pixels: Vec<u16>) -> Self {
        debug_assert_eq!(pixels.len(), 3 * width as usize * height as usize);
        Self { width, height, pixels: Samples::Codes(pixels), peaks: Arc::from([]) }
    }

    /// The same picture with what is bright and small in its pixels, in rising order.
    pub(crate) fn with_peaks(self, peaks: Vec<Peak>) -> Self {
        Self { peaks: peaks.into(), ..self }
    }

    /// What is bright and small in the pixels of a reduced picture, in rising order.
    pub fn peaks(&self) -> &[Peak] {
        &self.peaks
    }

    /// The peaks of the pixels of some rows.
    pub fn peaks_of_rows(&self, rows: Range<u32>) -> &[Peak] {
        let place = |row: u32| {
            let first = u64::from(row) * u64::from(self.width);
            self.peaks.partition_point(|p| u64::from(p.index) < first)
        };
        &self.peaks[place(rows.start)..place(rows.end)]
    }

    pub(super) fn peak(&self, index: u32) -> Option<&Peak> {
        self.peaks.binary_search_by_key(&index, |p| p.index).ok().map(|i| &self.peaks[i])
    }

    /// Whether a rectangle, given by its first and last rows and columns, has a peak.
    pub(super) fn has_peak_between(&self, rows: &[usize], columns: &[usize]) -> bool {
        let [top, bottom] = [rows[0] as u32, rows[1] as u32];
        self.peaks_of_rows(top..bottom).iter().any(|p| {
            let x = p.index as usize % self.width as usize;
            (columns[0]..columns[1]).contains(&x)
        })
    }

    /// Small rectangles of a strip that hold all its peaks.
    pub fn around_peaks(&self, strip: Region) -> Vec<Region> {
        const SIDE: u32 = 16;
        let mut found: Vec<Region> = Vec::new();
        for peak in self.peaks_of_rows(strip.y..strip.bottom()) {
            let (x, y) = (peak.index % self.width / SIDE * SIDE, peak.index / self.width / SIDE * SIDE);
            let cell = Region::new(x, y, SIDE, SIDE).intersect(&strip);
            found.extend(cell.filter(|cell| !found.contains(cell)));
        }
        found
    }

    /// The peaks of a rectangle, each with its place in it.
    pub fn peaks_in(&self, region: Region) -> impl Iterator<Item = (usize, &Peak)> {
        self.peaks_of_rows(region.y..region.bottom()).iter().filter_map(move |peak| {
            let (x, y) = (peak.index % self.width, peak.index / self.width);
            let inside = (region.x..region.right()).contains(&x);
            inside.then(|| (((y - region.y) * region.width + x - region.x) as usize, peak))
        })
    }

    /// The same picture with every peak shown as its bright part alone, or as the rest of its pixel alone.
    pub fn of_peaks(&self, bright: bool) -> Self {
        let mut codes = self.pixels().into_owned();
        for p in self.peaks.iter() {
            let at = 3 * p.index as usize;
            codes[at..at + 3].copy_from_slice(if bright { &p.bright } else { &p.rest });
        }
        Self { width: self.width, height: self.height, pixels: Samples::Codes(codes), peaks: self.peaks.clone() }
    }

    /// A picture of one colour per pixel, given as linear sRGB.
    pub fn from_linear_srgb(width: u32, height: u32, colour: impl Fn(u32, u32) -> [f64; 3]) -> Self {
        let mut pixels = Vec::with_capacity(3 * width as usize * height as usize);
        for y in 0..height {
            for x in 0..width {
                pixels.extend(colour(x, y).map(code_of_linear));
            }
        }
        Self::from_parts(width, height, pixels)
    }

    /// Pixels across.
    pub fn width(&self) -> u32 {
        self.width
    }

    /// Pixels down.
    pub fn height(&self) -> u32 {
        self.height
    }

    /// All of it.
    pub fn region(&self) -> Region {
        Region::whole(self.width, self.height)
    }

    /// Pixels of the longer side.
    pub fn long_edge(&self) -> u32 {
        self.width.max(self.height)
    }

    fn part(&self, part: Range<usize>) -> Held<'_> {
        match &self.pixels {
            Samples::Codes(codes) => Held::Codes(&codes[part]),
            Samples::Srgb8(values) => Held::Srgb8(&values[part]),
        }
    }

    /// Codes of extended sRGB, interleaved, row by row.
    pub fn pixels(&self) -> Cow<'_, [u16]> {
        self.held().codes()
    }

    /// The codes of a pixel, counted row by row.
    #[inline]
    pub fn pixel(&self, index: usize) -> [u16; 3] {
        match &self.pixels {
            Samples::Codes(codes) => [codes[3 * index], codes[3 * index + 1], codes[3 * index + 2]],
            Samples::Srgb8(values) => [0, 1, 2].map(|k| code_of_8_bit(values[3 * index + k])),
        }
    }

    /// The interleaved codes of one row between two columns.
    pub fn row(&self, y: u32, x: u32, width: u32) -> Cow<'_, [u16]> {
        self.row_held(y, x, width).codes()
    }

    /// [`Source::row`] as it is held.
    pub(crate) fn row_held(&self, y: u32, x: u32, width: u32) -> Held<'_> {
        let start = 3 * (y as usize * self.width as usize + x as usize);
        self.part(start..start + 3 * width as usize)
    }

    /// The highest code of one row between two columns.
    pub(crate) fn highest_code(&self, y: u32, x: u32, width: u32) -> u16 {
        match self.row_held(y, x, width) {
            Held::Codes(codes) => code_range(codes)[1],
            Held::Srgb8(values) => code_of_8_bit(highest_of(values)),
        }
    }

    /// All of it as it is held.
    pub(super) fn held(&self) -> Held<'_> {
        self.part(0..3 * self.region().pixels())
    }

    /// Bytes of its pixels and peaks.
    pub fn bytes(&self) -> usize {
        let pixels = match &self.pixels {
            Samples::Codes(codes) => codes.len() * size_of::<u16>(),
            Samples::Srgb8(values) => values.len(),
        };
        pixels + self.peaks.len() * size_of::<Peak>()
    }
}

impl Source {
    /// The picture as it came, clipped to sRGB, in 8 bits: the original to compare with.
    pub fn display_8_bit(&self, region: Region) -> Vec<u8> {
        let eight = |code: &u16| {
            let encoded = (*code as f64 - CODE_OF_BLACK) / CODES_PER_UNIT;
            (encoded.clamp(0.0, 1.0) * 255.0).round() as u8
        };
        let rows = (region.y..region.bottom()).map(|y| self.row(y, region.x, region.width));
        rows.flat_map(|row| row.iter().map(eight).collect::<Vec<u8>>()).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Held in 8 bits it is the same picture, in all that is read of it and made of it.
    #[test]
    fn a_picture_in_8_bits_is_the_same_picture() {
        let (width, height) = (96u32, 64u32);
        let lamp = |i: u32| (i / 3 % width).is_multiple_of(31) && (i / 3 / width).is_multiple_of(29);
        let values: Vec<u8> = (0..3 * width * height).map(|i| if lamp(i) { 255 } else { (i * 7 % 90) as u8 }).collect();
        let codes = values.iter().map(|v| code_of_encoded(f64::from(*v) / 255.0)).collect();
        let wide = Source::new(width, height, codes).unwrap();
        let eight = Source::of_8_bit(width, height, values).unwrap();
        assert!(eight.bytes() * 2 == wide.bytes() && eight.pixels() == wide.pixels());
        assert!(eight.row(13, 5, 40) == wide.row(13, 5, 40) && eight.pixel(700) == wide.pixel(700));
        let (small, of_wide) = (eight.reduced(24, 16), wide.reduced(24, 16));
        assert!(small.pixels() == of_wide.pixels() && small.peaks() == of_wide.peaks() && !small.peaks().is_empty());
        let part = Region::new(10, 20, 50, 30);
        assert_eq!(eight.display_8_bit(part), wide.display_8_bit(part));
        assert!(Source::of_8_bit(4, 4, vec![0; 47]).is_none());
    }

    #[test]
    fn small_rectangles_hold_all_peaks_of_a_strip() {
        let lamp = |x: u32, y: u32| x.is_multiple_of(97) && y.is_multiple_of(31);
        let full = Source::from_linear_srgb(800, 400, |x, y| if lamp(x, y) { [1.0; 3] } else { [0.01; 3] });
        let small = full.reduced(200, 100);
        let mut seen = 0;
        for strip in small.region().strips(24) {
            for cell in small.around_peaks(strip) {
                assert_eq!(cell.intersect(&strip), Some(cell));
                for (at, peak) in small.peaks_in(cell) {
                    let (x, y) = (cell.x + at as u32 % cell.width, cell.y + at as u32 / cell.width);
                    assert_eq!(y * 200 + x, peak.index);
                    seen += 1;
                }
            }
        }
        assert!(seen == small.peaks().len() && seen > 50, "{seen}");
    }

    #[test]
    fn values_of_codes_are_those_of_the_table() {
        for code in 0..=u16::MAX {
            let of_table = encoded_of_code()[code as usize];
            assert_eq!(encoded_value(f32::from(code)).to_bits(), of_table.to_bits(), "{code}");
        }
    }

    #[test]
    fn single_precision_codes_agree() {
        for code in (0..=u16::MAX).step_by(7) {
            let linear = linear_of_code()[code as usize];
            assert!(code_of_light(linear).abs_diff(code) <= 1, "{code}: {linear}");
        }
    }

    #[test]
    fn eight_bit_values_are_met_exactly() {
        let source = Source::from_linear_srgb(256, 1, |x, _| [decode_srgb(x as f64 / 255.0); 3]);
        let back = source.display_8_bit(source.region());
        assert!(back.chunks(3).enumerate().all(|(i, p)| p == [i as u8; 3]));
        assert!(Source::new(2, 2, vec![0; 11]).is_none());
    }
}
