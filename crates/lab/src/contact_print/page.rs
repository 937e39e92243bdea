//! A page that is drawn on.

use amber_core::stations::surface::mount::glyphs::{from_piece, written};
use deunicode::deunicode;

/// Pixels in 8-bit RGB.
pub struct Page {
    size: [u32; 2],
    pixels: Vec<u8>,
}

impl Page {
    /// An empty page of one colour.
    pub fn new(size: [u32; 2], colour: [u8; 3]) -> Self {
        Self { size, pixels: colour.repeat(size[0] as usize * size[1] as usize) }
    }

    pub fn pixels(&self) -> &[u8] {
        &self.pixels
    }

    fn pixel(&mut self, x: u32, y: u32) -> &mut [u8] {
        let at = 3 * (y as usize * self.size[0] as usize + x as usize);
        &mut self.pixels[at..at + 3]
    }

    /// A rectangle of one colour, as far as it lies on the page.
    pub fn fill(&mut self, [x, y, width, height]: [u32; 4], colour: [u8; 3]) {
        for row in y..(y + height).min(self.size[1]) {
            for column in x..(x + width).min(self.size[0]) {
                self.pixel(column, row).copy_from_slice(&colour);
            }
        }
    }

    /// A picture in 8-bit RGB, brought to a rectangle's size, as far as it lies on the page.
    pub fn lay(&mut self, picture: &[u8], [wide, high]: [u32; 2], [x, y, width, height]: [u32; 4]) {
        let (across, down) = (reach(wide, width), reach(high, height));
        // first as high as the rectangle, then as wide
        let row = 3 * wide as usize;
        let low: Vec<Vec<f32>> = down
            .iter()
            .map(|(first, weights)| {
                let mut sum = vec![0.0; row];
                for (weight, line) in weights.iter().zip(picture.chunks_exact(row).skip(*first)) {
                    sum.iter_mut().zip(line).for_each(|(sum, v)| *sum += weight * f32::from(*v));
                }
                sum
            })
            .collect();
        for (i, line) in low.iter().enumerate().take(self.size[1].saturating_sub(y) as usize) {
            for (j, (first, weights)) in across.iter().enumerate().take(self.size[0].saturating_sub(x) as usize) {
                let mut sum = [0.0; 3];
                for (weight, pixel) in weights.iter().zip(line.chunks_exact(3).skip(*first)) {
                    sum.iter_mut().zip(pixel).for_each(|(sum, v)| *sum += weight * v);
                }
                self.pixel(x + j as u32, y + i as u32).copy_from_slice(&sum.map(|v| v.round() as u8));
            }
        }
    }

    /// Text in the strokes of a film's edge: capitals without accents.
    pub fn letter(&mut self, text: &str, at: [f32; 2], height: f32, colour: [u8; 3]) {
        let text = deunicode(text).to_uppercase().replace('&', "AND");
        for [from, to] in written(&text, at, height, [1.0, 0.0]) {
            self.stroke(from, to, height / 12.0, colour);
        }
    }

    /// A line with round ends, its edge one pixel wide.
    pub fn stroke(&mut self, a: [f32; 2], b: [f32; 2], radius: f32, colour: [u8; 3]) {
        let reach = radius + 1.0;
        let low = [0, 1].map(|k| (a[k].min(b[k]) - reach).floor().max(0.0) as u32);
        let high = [0, 1].map(|k| (a[k].max(b[k]) + reach).ceil().max(0.0) as u32);
        for y in low[1]..high[1].min(self.size[1]) {
            for x in low[0]..high[0].min(self.size[0]) {
                let far = from_piece([x as f32 + 0.5, y as f32 + 0.5], &[a, b]);
                let share = (radius + 0.5 - far).clamp(0.0, 1.0);
                if share > 0.0 {
                    let pixel = self.pixel(x, y);
                    for k in 0..3 {
                        let there = f32::from(pixel[k]);
                        pixel[k] = (there + share * (f32::from(colour[k]) - there)).round() as u8;
                    }
                }
            }
        }
    }
}

/// Of so many places, those that each of so many others is mixed of: the first, and the weights from there on, which
/// fall in a straight line to both sides.
fn reach(from: u32, to: u32) -> Vec<(usize, Vec<f32>)> {
    let ratio = from as f32 / to as f32;
    let support = ratio.max(1.0);
    let mixed = |i: u32| {
        let centre = (i as f32 + 0.5) * ratio;
        let first = (centre - support).floor().max(0.0) as u32;
        let last = ((centre + support).ceil() as u32).clamp(first + 1, from);
        let weight = |place: u32| (1.0 - (place as f32 + 0.5 - centre).abs() / support).max(0.0);
        let sum: f32 = (first..last).map(weight).sum();
        (first as usize, (first..last).map(|place| weight(place) / sum).collect())
    };
    (0..to).map(mixed).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_picture_is_laid_in_any_size() {
        let ramp: Vec<u8> = (0..40u8 * 2).flat_map(|i| [i % 40 * 6, 100, 255 - i % 40 * 6]).collect();
        for [width, height] in [[40, 2], [20, 1], [80, 9], [7, 3], [1, 1]] {
            let mut page = Page::new([100, 20], [9; 3]);
            page.lay(&ramp, [40, 2], [5, 4, width, height]);
            for (x, y) in (0..width).flat_map(|x| (0..height).map(move |y| (x, y))) {
                let wanted = ((x as f32 + 0.5) / width as f32 * 40.0 - 0.5) * 6.0;
                let pixel = page.pixel(5 + x, 4 + y).to_vec();
                let inner = x > 0 && x + 1 < width || width == 1;
                assert!(!inner || (f32::from(pixel[0]) - wanted).abs() <= 1.5, "{x} of {width}: {pixel:?} {wanted}");
                assert!(pixel[1] == 100 && (u16::from(pixel[0]) + u16::from(pixel[2])).abs_diff(255) <= 1, "{pixel:?}");
            }
            assert_eq!(page.pixel(4, 4), [9; 3]);
            assert_eq!(page.pixel(5 + width, 4), [9; 3]);
        }
        // what lies beyond the page is left out
        Page::new([10, 3], [9; 3]).lay(&ramp, [40, 2], [8, 2, 40, 2]);
    }
}
