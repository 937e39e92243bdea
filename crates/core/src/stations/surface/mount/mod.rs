//! Mounts: what is round a picture when it is finished, from the film's own rebate to a mat.
//!
//! A mount is laid out for a picture of some pixels (`layout`): the picture keeps its size and the whole grows, or the
//! whole keeps the picture's size and the picture is made smaller first. What the mount shows, and how much of the
//! picture's border it hides, is asked for any rectangle of the whole: lengths are millimetres on the film where it is
//! the film's, shares of the long edge otherwise.

mod card;
mod film;
pub mod glyphs;
mod instant;
mod layout;
mod settings_of;

pub use layout::Layout;
pub use settings_of::{CONTROLS, MountKind, MountSettings};

use crate::picture::{Gate, Region};

/// What can be seen of a mount over a rectangle: encoded sRGB, and how much of each pixel is the mount's.
pub struct Shown {
    /// Encoded sRGB.
    pub rgb: [Vec<f32>; 3],
    /// 0 where all of a pixel is the picture's.
    pub cover: Vec<f32>,
}

/// Colours that the film gives to light, for what is exposed on its rebate: encoded sRGB by exposure.
#[derive(Debug, Clone, PartialEq)]
pub struct FilmTones {
    /// For exposures of 2^-8 to 2^8 mid greys, a stop apart; the first is no light at all.
    pub tones: Vec<[f32; 3]>,
}

/// Stops below and above mid grey that the tones cover.
pub const TONE_STOPS: i32 = 8;

impl FilmTones {
    /// At an exposure in mid greys.
    pub fn at(&self, exposure: f32) -> [f32; 3] {
        let place = (libm::log2f(exposure.max(1e-6)) + TONE_STOPS as f32).clamp(0.0, (self.tones.len() - 1) as f32);
        let (low, share) = (place as usize, place.fract());
        let high = (low + 1).min(self.tones.len() - 1);
        [0, 1, 2].map(|k| self.tones[low][k] + share * (self.tones[high][k] - self.tones[low][k]))
    }
}

/// What a mount is made for.
pub struct Of<'a> {
    /// Size of the picture in pixels.
    pub picture: [u32; 2],
    /// Micrometres on the film per pixel.
    pub pitch_um: f64,
    /// The gate of the film.
    pub gate: Gate,
    /// Colours of the film.
    pub tones: &'a FilmTones,
    /// What the edge of the film says.
    pub edge_print: &'a str,
    /// The frame's seed.
    pub seed: u32,
}

trait Painted: Send + Sync {
    /// Colour and cover of the pixel at a place of the whole, in pixels.
    fn at(&self, x: f32, y: f32) -> ([f32; 3], f32);
}

/// Prepared.
pub struct Mount {
    /// Where the picture lies in the whole.
    pub layout: Layout,
    painted: Box<dyn Painted>,
}

impl Mount {
    /// `None` without a mount.
    pub fn new(settings: &MountSettings, of: &Of) -> Option<Self> {
        let layout = Layout::new(settings, of.picture, of.pitch_um, of.gate)?;
        let painted: Box<dyn Painted> = match settings.kind {
            MountKind::None => return None,
            MountKind::Border | MountKind::Deckle | MountKind::Mat => {
                Box::new(card::Card::new(settings, &layout, of.seed))
            }
            MountKind::Instant => Box::new(instant::Instant::new(settings, &layout, of.seed)),
            MountKind::Rebate | MountKind::Holder => Box::new(film::Film::new(settings, &layout, of)),
        };
        Some(Self { layout, painted })
    }

    /// The mount's colour at a pixel of the whole, and how much of the pixel is the mount's.
    #[inline(always)]
    pub fn at(&self, x: u32, y: u32) -> ([f32; 3], f32) {
        let ([r, g, b], cover) = self.painted.at(x as f32 + 0.5, y as f32 + 0.5);
        let bounded = |v: f32| v.max(0.0).min(1.0);
        ([bounded(r), bounded(g), bounded(b)], bounded(cover))
    }

    /// Over a rectangle of the whole.
    pub fn over(&self, region: Region) -> Shown {
        let pixels = region.pixels();
        let mut shown =
            Shown { rgb: [vec![0.0; pixels], vec![0.0; pixels], vec![0.0; pixels]], cover: vec![0.0; pixels] };
        let inside = self.layout.untouched();
        let mut i = 0;
        for y in region.y..region.bottom() {
            for x in region.x..region.right() {
                if !inside.is_some_and(|r| x >= r.x && x < r.right() && y >= r.y && y < r.bottom()) {
                    let (colour, cover) = self.at(x, y);
                    (0..3).for_each(|k| shown.rgb[k][i] = colour[k]);
                    shown.cover[i] = cover;
                }
                i += 1;
            }
        }
        shown
    }
}

/// How far a place is within a rectangle with round corners, in pixels; below 0 outside.
fn within([x, y]: [f32; 2], [left, top, right, bottom]: [f32; 4], radius: f32) -> f32 {
    let (dx, dy) = ((x - left).min(right - x), (y - top).min(bottom - y));
    if radius > 0.0 && dx < radius && dy < radius {
        let (ex, ey) = (radius - dx, radius - dy);
        return radius - (ex * ex + ey * ey).sqrt();
    }
    dx.min(dy)
}

#[cfg(test)]
mod tests;
