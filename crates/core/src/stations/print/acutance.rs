//! Acutance: contrast at edges, as development makes it where exhausted and fresh developer meet.
//!
//! Lightness (the cube root of luminance) is compared with its Gaussian mean of two widths on the film, and the
//! difference is added; colours are scaled with their luminance, so no edge changes its hue. Below 0 it softens.

use multiversion::multiversion;

use super::settings::Edge;
use crate::colour::space::WIDE_LUMINANCE;
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::numeric::log_exp::cube_root;
use crate::picture::buffer::Reflectance;
use crate::picture::gaussian;
use crate::picture::{Picture, Region};

/// A width below this many pixels is not resolved.
const FINEST_SIGMA: f64 = 0.3;
/// Reach of the Gaussian in standard deviations.
const REACH: f64 = 3.0;
/// Lightness may change by this factor at most, either way.
const MOST: f32 = 1.5;
const SMALLEST: f32 = 1e-6;

#[derive(Debug, Clone)]
struct Width {
    amount: f32,
    taps: Vec<f32>,
}

/// Edge sharpness at one pitch.
#[derive(Debug, Clone)]
pub struct Acutance {
    widths: Vec<Width>,
}

impl Acutance {
    /// `None` when nothing is sharpened or softened that can be seen.
    pub fn new(edges: &[Edge], pitch_um: f64) -> Option<Self> {
        let widths: Vec<Width> = edges
            .iter()
            .filter(|e| e.amount != 0.0 && e.radius_um / pitch_um >= FINEST_SIGMA)
            .map(|e| Width { amount: e.amount as f32, taps: gaussian::taps(e.radius_um / pitch_um, REACH) })
            .collect();
        (!widths.is_empty()).then_some(Self { widths })
    }
}

impl Effect<Reflectance> for Acutance {
    fn key(&self) -> Key {
        key(&[&"acutance", &self.widths])
    }

    fn reach(&self, _frame: &FilmFrame) -> u32 {
        self.widths.iter().map(|w| w.taps.len() as u32 - 1).max().unwrap_or(0)
    }

    fn apply(&self, _frame: &FilmFrame, padded: Picture<Reflectance>, part: Region) -> Picture<Reflectance> {
        let region = padded.region;
        let width = region.width as usize;
        let mut lightness = vec![0.0f32; region.pixels()];
        lightness_of([0, 1, 2].map(|k| padded.plane(k)), &mut lightness);
        let (x0, y0) = ((part.x - region.x) as usize, (part.y - region.y) as usize);
        let (w, h) = (part.width as usize, part.height as usize);
        let mut added = vec![0.0f32; part.pixels()];
        for edge in &self.widths {
            let mean = gaussian::blurred_part(&lightness, region, part, &edge.taps);
            for row in 0..h {
                let from = (y0 + row) * width + x0;
                let own = &lightness[from..from + w];
                let at = row * w;
                for ((sum, l), m) in added[at..at + w].iter_mut().zip(own).zip(&mean[at..at + w]) {
                    *sum += edge.amount * (l - m);
                }
            }
        }
        let mut out = padded.cut(part);
        for row in 0..h {
            let from = (y0 + row) * width + x0;
            gains(&lightness[from..from + w], &mut added[row * w..(row + 1) * w]);
        }
        for index in 0..3 {
            out.plane_mut(index).iter_mut().zip(&added).for_each(|(v, gain)| *v *= gain);
        }
        out
    }
}

/// The cube root of luminance.
#[multiversion(targets("x86_64+avx2"))]
fn lightness_of([red, green, blue]: [&[f32]; 3], lightness: &mut [f32]) {
    for (((l, r), g), b) in lightness.iter_mut().zip(red).zip(green).zip(blue) {
        let y = WIDE_LUMINANCE[0] * r + WIDE_LUMINANCE[1] * g + WIDE_LUMINANCE[2] * b;
        *l = cube_root(y.max(SMALLEST));
    }
}

/// From what is added to lightness to the factor of luminance.
#[multiversion(targets("x86_64+avx2"))]
fn gains(lightness: &[f32], added: &mut [f32]) {
    for (gain, l) in added.iter_mut().zip(lightness) {
        let ratio = ((l + *gain) / l).clamp(1.0 / MOST, MOST);
        *gain = ratio * ratio * ratio;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Source;

    fn applied(acutance: &Acutance, print: Picture<Reflectance>, part: Region) -> Picture<Reflectance> {
        let source = Source::from_linear_srgb(60, 40, |_, _| [0.2; 3]);
        acutance.apply(&FilmFrame::filling(&source, 360.0), print, part)
    }

    fn edge() -> Picture<Reflectance> {
        let region = Region::whole(60, 40);
        let plane: Vec<f32> = (0..region.pixels()).map(|i| if i % 60 < 30 { 0.1 } else { 0.5 }).collect();
        Picture::from_planes(region, vec![plane.clone(), plane.clone(), plane])
    }

    #[test]
    fn sharpens_an_edge_and_leaves_the_flat_alone() {
        let sharp = Acutance::new(&[Edge { amount: 0.8, radius_um: 12.0 }], 6.0).unwrap();
        let out = applied(&sharp, edge(), Region::whole(60, 40));
        let row = &out.plane(0)[20 * 60..21 * 60];
        assert!(row[29] < 0.08 && row[30] > 0.55, "{} {}", row[29], row[30]);
        assert!((row[5] - 0.1).abs() < 1e-5 && (row[55] - 0.5).abs() < 1e-5);
        let soft = Acutance::new(&[Edge { amount: -0.8, radius_um: 12.0 }], 6.0).unwrap();
        let row = &applied(&soft, edge(), Region::whole(60, 40)).plane(0)[20 * 60..21 * 60].to_vec();
        assert!(row[29] > 0.12 && row[30] < 0.45);
    }

    #[test]
    fn a_part_is_a_cut_of_the_whole() {
        let sharp = Acutance::new(&[Edge { amount: 1.0, radius_um: 12.0 }, Edge { amount: 0.5, radius_um: 40.0 }], 6.0)
            .unwrap();
        let whole = applied(&sharp, edge(), Region::whole(60, 40));
        let part = Region::new(25, 12, 9, 7);
        let reach = sharp.reach(&FilmFrame::filling(&Source::from_linear_srgb(60, 40, |_, _| [0.2; 3]), 360.0));
        let padded = edge().cut(Region::new(25 - reach, 0, 9 + 2 * reach, 40));
        assert_eq!(applied(&sharp, padded, part).plane(1), whole.cut(part).plane(1));
        assert!(Acutance::new(&[Edge { amount: 1.0, radius_um: 5.0 }], 40.0).is_none());
    }
}
