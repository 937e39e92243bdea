//! Wash: one colour over everything, and black and white by degrees; each blended as the standard's modes say.

use super::settings::{GreySettings, WashSettings};
use crate::colour::blend::Blend;
use crate::colour::rooted;
use crate::colour::space::SRGB_LUMINANCE;
use crate::numeric::runs::{Lane, RUN};

/// Prepared.
#[derive(Debug, Clone)]
pub struct Wash {
    grey: Option<(Blend, f32)>,
    colour: Option<(Blend, f32, [f32; 3])>,
}

impl Wash {
    /// `None` when neither does anything.
    pub fn new(wash: Option<&WashSettings>, grey: Option<&GreySettings>) -> Option<Self> {
        let colour = wash.filter(|w| w.strength > 0.0);
        let grey = grey.filter(|g| g.strength > 0.0);
        (colour.is_some() || grey.is_some()).then(|| Self {
            grey: grey.map(|g| (g.blend, g.strength as f32)),
            colour: colour.map(|w| (w.blend, w.strength as f32, w.colour.map(|v| f32::from(v) / 255.0))),
        })
    }

    /// Linear sRGB of a run of the washed print.
    #[inline(always)]
    pub fn apply_run(&self, run: &mut [Lane; 3]) {
        let mut grey = [0.0f32; RUN];
        if self.grey.is_some() {
            let w = SRGB_LUMINANCE.map(|v| v as f32);
            for (i, v) in grey.iter_mut().enumerate() {
                *v = w[0] * run[0][i] + w[1] * run[1][i] + w[2] * run[2][i];
            }
            rooted::encode_all(&mut grey, 1.0);
        }
        run.iter_mut().for_each(|lane| rooted::encode_all(lane, 1.0));
        if let Some((blend, strength)) = self.grey {
            blend.over(run, &[grey; 3], |_| strength);
        }
        if let Some((blend, strength, colour)) = self.colour {
            blend.over(run, &colour.map(|v| [v; RUN]), |_| strength);
        }
        run.iter_mut().for_each(|lane| rooted::decode_all(lane));
    }

    /// Linear sRGB of one colour of the washed print.
    pub fn apply(&self, rgb: [f32; 3]) -> [f32; 3] {
        let mut run = rgb.map(|v| [v; RUN]);
        self.apply_run(&mut run);
        run.map(|lane| lane[0])
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn grey_by_degrees_and_a_colour_over_all() {
        let grey = |blend, strength| Wash::new(None, Some(&GreySettings { blend, strength })).unwrap();
        let red = [0.5, 0.05, 0.03];
        let full = grey(Blend::Normal, 1.0).apply(red);
        assert!((full[0] - full[2]).abs() < 1e-4 && (full[0] - 0.144).abs() < 2e-3, "{full:?}");
        let half = grey(Blend::Normal, 0.5).apply(red);
        assert!(half[0] < red[0] && half[0] > full[0]);
        // the sun-bleached page: the grey of the picture as light over it
        assert!(grey(Blend::Screen, 0.6).apply(red)[1] > red[1]);
        assert!(grey(Blend::Difference, 1.0).apply([0.3; 3])[0] < 1e-3, "a grey less itself is black");
        let cream = WashSettings { colour: [240, 220, 180], blend: Blend::Multiply, strength: 1.0 };
        let washed = Wash::new(Some(&cream), None).unwrap().apply([1.0; 3]);
        assert!(washed[2] < washed[1] && washed[1] < washed[0]);
        assert!(Wash::new(Some(&WashSettings { strength: 0.0, ..cream }), None).is_none());
    }
}
