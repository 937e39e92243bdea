//! Sharpening for the size at which a picture leaves: what reducing it, and ink or pixels, take from its edges.
//!
//! An unsharp mask on luma: each pixel's is compared with its Gaussian mean, a share of the difference is added to all
//! three channels, so no edge changes its hue. It is the very last step, on encoded values, and knows nothing of film.

use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::picture::buffer::Display;
use crate::picture::gaussian;
use crate::picture::{Picture, Region};

/// Weights of encoded red, green and blue in luma (ITU-R BT.709-6).
const LUMA: [f32; 3] = [0.2126, 0.7152, 0.0722];
/// Reach of the Gaussian in standard deviations.
const REACH: f64 = 3.0;
/// Encoded difference that is added at most: no edge becomes a line of its own.
const MOST: f32 = 0.12;

/// How much is added, and how wide.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sharpening {
    /// Share of the difference that is added, 0..2.
    pub amount: f64,
    /// Standard deviation of the mean, in pixels of the finished picture.
    pub sigma_px: f64,
}

impl Sharpening {
    /// For a screen: the pixel is what is seen.
    pub fn for_screen(amount: f64) -> Self {
        Self { amount, sigma_px: 0.6 }
    }

    /// For a print of so many pixels per inch: about 85 micrometres on the paper.
    pub fn for_print(amount: f64, pixels_per_inch: f64) -> Self {
        Self { amount, sigma_px: (pixels_per_inch / 300.0).clamp(0.6, 4.0) }
    }
}

/// Prepared; none where nothing is added.
#[derive(Debug, Clone)]
pub struct Sharpen {
    amount: f32,
    taps: Vec<f32>,
}

impl Sharpen {
    /// Ready to act; none where nothing is added.
    pub fn new(asked: Option<Sharpening>) -> Option<Self> {
        let asked = asked.filter(|asked| asked.amount > 0.0)?;
        Some(Self { amount: asked.amount as f32, taps: gaussian::taps(asked.sigma_px, REACH) })
    }
}

impl Effect<Display> for Sharpen {
    fn key(&self) -> Key {
        key(&[&"sharpen", &self.amount, &self.taps])
    }

    fn reach(&self, _frame: &FilmFrame) -> u32 {
        self.taps.len() as u32 - 1
    }

    fn apply(&self, _frame: &FilmFrame, padded: Picture<Display>, part: Region) -> Picture<Display> {
        let region = padded.region;
        let planes = [0, 1, 2].map(|k| padded.plane(k));
        let luma: Vec<f32> = (0..region.pixels())
            .map(|i| LUMA[0] * planes[0][i] + LUMA[1] * planes[1][i] + LUMA[2] * planes[2][i])
            .collect();
        let mean = gaussian::blurred_part(&luma, region, part, &self.taps);
        let mut out = padded.cut(part);
        let width = part.width as usize;
        for row in 0..part.height as usize {
            let from = ((part.y - region.y) as usize + row) * region.width as usize + (part.x - region.x) as usize;
            let own = &luma[from..from + width];
            let at = row * width..(row + 1) * width;
            for index in 0..3 {
                let line = &mut out.plane_mut(index)[at.clone()];
                for ((v, l), m) in line.iter_mut().zip(own).zip(&mean[at.clone()]) {
                    let added = (self.amount * (l - m)).max(-MOST).min(MOST);
                    *v = (*v + added).max(0.0).min(1.0);
                }
            }
        }
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Source;

    fn edge() -> Picture<Display> {
        let region = Region::whole(60, 40);
        let plane: Vec<f32> = (0..region.pixels()).map(|i| if i % 60 < 30 { 0.3 } else { 0.6 }).collect();
        Picture::from_planes(region, vec![plane.clone(), plane.iter().map(|v| v * 0.8).collect(), plane])
    }

    #[test]
    fn edges_gain_and_flat_places_stay() {
        let source = Source::from_linear_srgb(60, 40, |_, _| [0.2; 3]);
        let frame = FilmFrame::filling(&source, 360.0);
        let sharpen = Sharpen::new(Some(Sharpening::for_screen(1.0))).unwrap();
        let out = sharpen.apply(&frame, edge(), Region::whole(60, 40));
        let line = &out.plane(0)[60 * 20..60 * 21];
        assert!(line[29] < 0.29 && line[30] > 0.61, "{:?}", &line[27..33]);
        assert!((line[5] - 0.3).abs() < 1e-6 && (line[55] - 0.6).abs() < 1e-6);
        // a part is a crop of the whole
        let part = Region::new(20, 10, 25, 7);
        let cut = sharpen.apply(&frame, edge(), part);
        assert_eq!(cut.plane(1), out.cut(part).plane(1));
        assert!(Sharpen::new(Some(Sharpening::for_screen(0.0))).is_none());
    }
}
