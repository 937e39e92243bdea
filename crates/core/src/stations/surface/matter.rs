//! What a sheet is made of at every pixel of a region, whatever it lies on.
#![allow(missing_docs, reason = "fields are said at their type")]

use crate::numeric::log_exp::transmittance;

/// What has no effect where a sheet is a picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Neutral {
    /// White: what is dark acts.
    White,
    /// Half grey: relief, lighter here and darker there.
    Grey,
}

/// The stuff of a sheet.
#[derive(Debug, Clone)]
pub enum Stuff {
    /// Nothing but what is bare.
    Nothing,
    /// Light, as exposure in units of mid grey's.
    Light(Vec<f32>),
    /// Something that light passes: a density, which may be below 0, and how much of it each of red, green and blue
    /// takes.
    Veil { density: Vec<f32>, tint: [f32; 3] },
    /// Something that light does not pass: how much of a pixel it takes, and its own colour as encoded sRGB.
    Thing { share: Vec<f32>, colour: [f32; 3] },
    /// A picture: encoded sRGB, and how much of a pixel it covers.
    Paint { rgb: [Vec<f32>; 3], cover: Vec<f32>, neutral: Neutral },
}

/// Places where the emulsion is gone, 1 being all of it, and how deep that goes in each layer.
#[derive(Debug, Clone)]
pub struct Bare {
    pub share: Vec<f32>,
    pub layers: [f32; 3],
}

/// What a sheet is at every pixel of a region.
#[derive(Debug, Clone)]
pub struct Matter {
    pub stuff: Stuff,
    pub bare: Option<Bare>,
}

impl From<Stuff> for Matter {
    fn from(stuff: Stuff) -> Self {
        Self { stuff, bare: None }
    }
}

impl Matter {
    /// The same with the emulsion gone in places, in all layers.
    pub fn bared(self, share: Vec<f32>) -> Self {
        self.cut(share, [1.0; 3])
    }

    /// The same with layers cut to some depth.
    pub fn cut(self, share: Vec<f32>, layers: [f32; 3]) -> Self {
        Self { bare: Some(Bare { share, layers }), ..self }
    }

    /// Every amount of it by a factor.
    pub fn weaken(&mut self, by: impl Fn(usize) -> f32) {
        let times = |plane: &mut Vec<f32>| plane.iter_mut().enumerate().for_each(|(i, v)| *v *= by(i));
        match &mut self.stuff {
            Stuff::Nothing => {}
            Stuff::Light(plane) | Stuff::Veil { density: plane, .. } | Stuff::Thing { share: plane, .. } => {
                times(plane);
            }
            Stuff::Paint { cover, .. } => times(cover),
        }
        if let Some(bare) = &mut self.bare {
            times(&mut bare.share);
        }
    }
}

/// Light that a thing stops at most: even dust lets a little through.
const STOPPED: f32 = 0.985;

/// Light that passes a thing that takes a share of a pixel.
#[inline(always)]
pub fn passing(share: f32) -> f32 {
    1.0 - STOPPED * share.max(0.0).min(1.0)
}

/// Light that passes a veil.
#[inline(always)]
pub fn through(density: f32, tint: f32) -> f32 {
    transmittance((density * tint).max(-1.5).min(4.0))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn weakening_reaches_all_that_there_is() {
        let thing = Stuff::Thing { share: vec![0.5, 1.0], colour: [1.0; 3] };
        let mut matter = Matter::from(thing).bared(vec![1.0, 0.5]);
        matter.weaken(|i| i as f32);
        assert!(matches!(&matter.stuff, Stuff::Thing { share, .. } if share == &[0.0, 1.0]));
        assert_eq!(matter.bare.unwrap().share, [0.0, 0.5]);
        assert_eq!(passing(0.0), 1.0);
        assert!((through(1.0, 0.5) - 0.316_23).abs() < 1e-4);
    }
}
