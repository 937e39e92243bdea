//! Light from outside the frame: a lamp or the sun beside the picture shines into the lens, which scatters some of its
//! light over the whole image: veiling glare, strongest on the lamp's side.
//!
//! L + s v(t) c: c is the lamp's colour with the luminance of mid grey, t goes from 0 on the lamp's side to 1 across
//! the frame, v = rest + (1 - rest) (1 - t / reach)^2. It is light like the scene's and grows with the exposure. The
//! shape is a model choice; that a veil is added to dark and light alike is what glare is (ISO 9358, from memory).

use crate::colour::space::{SRGB_TO_WIDE, WIDE_LUMINANCE};
use crate::colour::transfer::decode_srgb;
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region};
use crate::stations::scene::luminance::MID_GREY;

/// Share of the veil that lies over the whole frame.
const REST: f64 = 0.18;
/// Narrowest reach: a harder veil would be a shadow's edge.
const LEAST_REACH: f64 = 0.05;

/// Light from outside the frame.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct VeilSettings {
    /// Light on the lamp's side, relative to mid grey.
    pub strength: f64,
    /// Where the lamp is: from the right, against the clock.
    pub direction_degrees: f64,
    /// How far over the frame it fades, 1 to the other side.
    pub reach: f64,
    /// sRGB.
    pub colour: [u8; 3],
}

/// Prepared.
#[derive(Debug, Clone)]
pub struct Veil {
    settings: VeilSettings,
    exposure_stops: f64,
    /// Linear light of the working space at the lamp's side.
    light: [f32; 3],
}

impl Veil {
    /// `exposure_stops` is how much Scene's exposure multiplied the light. `None` where no light comes in.
    pub fn new(settings: &VeilSettings, exposure_stops: f64) -> Option<Self> {
        let lamp = SRGB_TO_WIDE.apply(settings.colour.map(|v| decode_srgb(f64::from(v) / 255.0)));
        let luminance: f64 = lamp.iter().zip(WIDE_LUMINANCE).map(|(v, w)| v * f64::from(w)).sum();
        let amount = settings.strength * f64::from(MID_GREY) * exposure_stops.exp2() / luminance.max(1e-4);
        let light = lamp.map(|v| (amount * v) as f32);
        (settings.strength > 0.0).then_some(Self { settings: *settings, exposure_stops, light })
    }

    /// The veil's strength at every pixel of a region, 0..1.
    fn over(&self, [width, height]: [u32; 2], region: Region) -> Vec<f32> {
        let (sine, cosine) = self.settings.direction_degrees.to_radians().sin_cos();
        // the frame's corner that lies farthest towards the lamp is 0, the one across is 1
        let half = 0.5 * (f64::from(width) * cosine.abs() + f64::from(height) * sine.abs());
        let reach = self.settings.reach.max(LEAST_REACH);
        let mut out = Vec::with_capacity(region.pixels());
        for y in region.y..region.bottom() {
            let up = (f64::from(height) / 2.0 - f64::from(y) - 0.5) * sine;
            for x in region.x..region.right() {
                let towards = (f64::from(x) + 0.5 - f64::from(width) / 2.0) * cosine + up;
                let near = (1.0 - 0.5 * (1.0 - towards / half) / reach).max(0.0);
                out.push((REST + (1.0 - REST) * near * near) as f32);
            }
        }
        out
    }
}

impl Effect<SceneLight> for Veil {
    fn key(&self) -> Key {
        key(&[&"veil", &self.settings, &self.exposure_stops])
    }

    fn apply(&self, frame: &FilmFrame, mut light: Picture<SceneLight>, part: Region) -> Picture<SceneLight> {
        let veil = self.over(frame.size(), part);
        for (index, lamp) in self.light.into_iter().enumerate() {
            light.plane_mut(index).iter_mut().zip(&veil).for_each(|(v, share)| *v += lamp * share);
        }
        light
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Source;

    const SUN: VeilSettings =
        VeilSettings { strength: 1.0, direction_degrees: 0.0, reach: 0.8, colour: [255, 214, 170] };

    fn veiled(settings: &VeilSettings, exposure_stops: f64, part: Region) -> Picture<SceneLight> {
        let source = Source::from_linear_srgb(90, 60, |_, _| [0.1; 3]);
        let light = Picture::from_planes(part, vec![vec![0.05; part.pixels()]; 3]);
        Veil::new(settings, exposure_stops).unwrap().apply(&FilmFrame::filling(&source, 36_000.0), light, part)
    }

    fn luminance(picture: &Picture<SceneLight>, x: usize, y: usize) -> f32 {
        let at = y * picture.region.width as usize + x;
        (0..3).map(|k| WIDE_LUMINANCE[k] * picture.plane(k)[at]).sum()
    }

    #[test]
    fn it_comes_from_its_side_in_its_colour_and_grows_with_the_exposure() {
        let whole = Region::whole(90, 60);
        let plain = veiled(&SUN, 0.0, whole);
        assert!((luminance(&plain, 89, 30) - 0.05 - MID_GREY).abs() < 0.005, "mid grey on the lamp's side");
        assert!((luminance(&plain, 0, 30) - 0.05 - REST as f32 * MID_GREY).abs() < 0.005, "the rest across");
        assert!(plain.plane(0)[89] > plain.plane(2)[89], "warm as the lamp");
        let above = veiled(&VeilSettings { direction_degrees: 90.0, ..SUN }, 0.0, whole);
        assert!(luminance(&above, 45, 0) > luminance(&above, 45, 59) + 0.1, "from above");
        let brighter = veiled(&SUN, 1.0, whole);
        let veil = |p: &Picture<SceneLight>| luminance(p, 80, 30) - 0.05;
        assert!((veil(&brighter) / veil(&plain) - 2.0).abs() < 1e-3);
    }

    #[test]
    fn a_region_is_a_crop_and_no_light_is_no_effect() {
        for degrees in [0.0, 37.0, 90.0, -140.0] {
            let settings = VeilSettings { direction_degrees: degrees, ..SUN };
            let (whole, part) = (veiled(&settings, 0.0, Region::whole(90, 60)), Region::new(0, 41, 33, 19));
            assert!(veiled(&settings, 0.0, part).planes() == whole.cut(part).planes(), "{degrees}");
        }
        assert!(Veil::new(&VeilSettings { strength: 0.0, ..SUN }, 0.0).is_none());
    }
}
