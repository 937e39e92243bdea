//! On-camera flash: light from beside the lens that reaches what is near.
//!
//! Distance is not in a picture: a middle stands for the near things. Light of the flash adds to what a thing reflects,
//! so its own light is multiplied; where the reach ends, the scene stays as it was. A model choice.

use super::place::Middle;
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::numeric::exp2;
use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region};

/// What a flash on the camera adds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FlashSettings {
    /// Stops that the flash adds in its middle.
    pub stops: f64,
    /// What it reaches.
    pub middle: Middle,
}

/// Prepared.
#[derive(Debug, Clone, PartialEq)]
pub struct Flash {
    settings: FlashSettings,
}

impl Flash {
    /// `None` where it does not fire.
    pub fn new(settings: &FlashSettings) -> Option<Self> {
        (settings.stops != 0.0).then_some(Self { settings: *settings })
    }
}

impl Effect<SceneLight> for Flash {
    fn key(&self) -> Key {
        key(&[&"flash", &self.settings])
    }

    fn apply(&self, frame: &FilmFrame, mut light: Picture<SceneLight>, part: Region) -> Picture<SceneLight> {
        let mut factor = self.settings.middle.outside(frame.size(), part);
        let more = exp2(self.settings.stops as f32) - 1.0;
        factor.iter_mut().for_each(|v| *v = 1.0 + more * (1.0 - *v));
        for index in 0..3 {
            light.plane_mut(index).iter_mut().zip(&factor).for_each(|(v, f)| *v *= f);
        }
        light
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Source;

    #[test]
    fn near_things_are_lit_and_far_ones_stay() {
        let middle = Middle { size: 0.1, feather: 0.6, roundness: 1.0, aspect: 0.0, centre: [-0.5, 0.0] };
        let source = Source::from_linear_srgb(80, 60, |_, _| [0.1; 3]);
        let light = Picture::from_planes(source.region(), vec![vec![0.1; 4800]; 3]);
        let flash = Flash::new(&FlashSettings { stops: 2.0, middle }).unwrap();
        let light = flash.apply(&FilmFrame::filling(&source, 36_000.0), light, source.region());
        let at = |x: usize| light.plane(1)[30 * 80 + x];
        assert!((at(20) - 0.4).abs() < 1e-4 && (at(75) - 0.1).abs() < 1e-6 && at(40) > 0.11);
        assert!(Flash::new(&FlashSettings { stops: 0.0, middle }).is_none());
    }
}
