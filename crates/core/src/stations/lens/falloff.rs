//! Falloff: less light, or more, towards the frame's edges. It acts on light, so bright things stay bright.
//!
//! Shaped: stops outside a clear middle. Natural: the cos^4 law of a plain lens, by the angle of the frame's corner.

use super::place::Middle;
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region};

/// How light falls off towards the edges.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FalloffSettings {
    /// Outside the middle; negative darkens.
    pub stops: f64,
    /// The clear middle of the shaped falloff.
    pub middle: Middle,
    /// Angle of the frame's corner from the axis in degrees; 0 is none.
    pub natural_degrees: f64,
}

/// Prepared.
#[derive(Debug, Clone, PartialEq)]
pub struct Falloff {
    settings: FalloffSettings,
}

impl Falloff {
    /// `None` where all of the frame gets the same.
    pub fn new(settings: &FalloffSettings) -> Option<Self> {
        let any = settings.stops != 0.0 || settings.natural_degrees != 0.0;
        any.then_some(Self { settings: *settings })
    }

    /// Factor of every pixel of a region.
    pub fn factors(&self, frame: [u32; 2], region: Region) -> Vec<f32> {
        let s = &self.settings;
        let mut out = if s.stops == 0.0 {
            vec![1.0; region.pixels()]
        } else {
            let mut shaped = s.middle.outside(frame, region);
            let stops = s.stops as f32;
            shaped.iter_mut().for_each(|v| *v = crate::numeric::exp2(stops * *v));
            shaped
        };
        if s.natural_degrees != 0.0 {
            let tangent = s.natural_degrees.to_radians().tan();
            let (w, h) = (f64::from(frame[0]), f64::from(frame[1]));
            // the corner lies at distance 1
            let per_pixel = 2.0 / w.hypot(h);
            let from_axis =
                |i: u32, size: f64| ((f64::from(i) + 0.5 - size / 2.0) * per_pixel * tangent).powi(2) as f32;
            let across: Vec<f32> = (region.x..region.right()).map(|x| from_axis(x, w)).collect();
            for (y, line) in (region.y..region.bottom()).zip(out.chunks_exact_mut(region.width as usize)) {
                let down = from_axis(y, h);
                for (v, x) in line.iter_mut().zip(&across) {
                    // cos^2 = 1 / (1 + tan^2)
                    let cosine_squared = 1.0 / (1.0 + x + down);
                    *v *= cosine_squared * cosine_squared;
                }
            }
        }
        out
    }
}

impl Effect<SceneLight> for Falloff {
    fn key(&self) -> Key {
        key(&[&"falloff", &self.settings])
    }

    fn apply(&self, frame: &FilmFrame, mut light: Picture<SceneLight>, part: Region) -> Picture<SceneLight> {
        let factors = self.factors(frame.size(), part);
        for index in 0..3 {
            light.plane_mut(index).iter_mut().zip(&factors).for_each(|(v, f)| *v *= f);
        }
        light
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const MIDDLE: Middle = Middle { size: 0.4, feather: 0.8, roundness: 1.0, aspect: 0.0, centre: [0.0, 0.0] };

    /// The cos^4 law, at the corner and half way.
    #[test]
    fn natural_falloff_is_cos_to_the_fourth() {
        let falloff = Falloff::new(&FalloffSettings { stops: 0.0, middle: MIDDLE, natural_degrees: 30.0 }).unwrap();
        let frame = [3000, 2000];
        let at = |x: u32, y: u32| f64::from(falloff.factors(frame, Region::new(x, y, 1, 1))[0]);
        let law = |share: f64| (share * 30f64.to_radians().tan()).atan().cos().powi(4);
        assert!((at(1500, 1000) - 1.0).abs() < 1e-4);
        assert!((at(0, 0) - law(1.0)).abs() < 1e-3);
        assert!((at(2249, 1499) - law(0.5)).abs() < 1e-3);
    }

    #[test]
    fn shaped_falloff_is_in_stops_and_brightens_too() {
        for stops in [-1.5, 1.0] {
            let falloff = Falloff::new(&FalloffSettings { stops, middle: MIDDLE, natural_degrees: 0.0 }).unwrap();
            let corner = falloff.factors([300, 200], Region::new(0, 0, 1, 1))[0];
            assert!((f64::from(corner) - stops.exp2()).abs() < 1e-4);
        }
        assert!(Falloff::new(&FalloffSettings { stops: 0.0, middle: MIDDLE, natural_degrees: 0.0 }).is_none());
    }
}
