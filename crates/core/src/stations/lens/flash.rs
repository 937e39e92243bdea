//! On-camera flash: light from beside the lens that reaches what is near.
//!
//! Distance is not in a picture: a middle stands for the near things. Light of the flash adds to what a thing reflects,
//! so its own light is multiplied; where the reach ends, the scene stays as it was. A model choice.

use super::place::Middle;
use crate::numeric::exp2;
use crate::picture::Picture;
use crate::picture::buffer::SceneLight;

#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FlashSettings {
    /// Stops that the flash adds in its middle.
    pub stops: f64,
    pub middle: Middle,
}

#[derive(Debug, Clone, PartialEq)]
pub struct Flash {
    settings: FlashSettings,
}

impl Flash {
    pub fn new(settings: &FlashSettings) -> Option<Self> {
        (settings.stops != 0.0).then_some(Self { settings: *settings })
    }

    pub fn apply(&self, frame: [u32; 2], light: &mut Picture<SceneLight>) {
        let mut factor = self.settings.middle.outside(frame, light.region);
        let more = exp2(self.settings.stops as f32) - 1.0;
        factor.iter_mut().for_each(|v| *v = 1.0 + more * (1.0 - *v));
        for index in 0..3 {
            light.plane_mut(index).iter_mut().zip(&factor).for_each(|(v, f)| *v *= f);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    #[test]
    fn near_things_are_lit_and_far_ones_stay() {
        let middle = Middle { size: 0.1, feather: 0.6, roundness: 1.0, aspect: 0.0, centre: [-0.5, 0.0] };
        let mut light = Picture::from_planes(Region::whole(80, 60), vec![vec![0.1; 4800]; 3]);
        Flash::new(&FlashSettings { stops: 2.0, middle }).unwrap().apply([80, 60], &mut light);
        let at = |x: usize| light.plane(1)[30 * 80 + x];
        assert!((at(20) - 0.4).abs() < 1e-4 && (at(75) - 0.1).abs() < 1e-6 && at(40) > 0.11);
        assert!(Flash::new(&FlashSettings { stops: 0.0, middle }).is_none());
    }
}
