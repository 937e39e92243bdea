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
    Paint { rgb: Colours, cover: Vec<f32>, neutral: Neutral },
}

/// Encoded sRGB of every pixel.
#[derive(Debug, Clone)]
pub enum Colours {
    /// The same in all channels.
    Grey(Vec<f32>),
    Rgb([Vec<f32>; 3]),
}

impl Colours {
    /// A channel.
    #[inline(always)]
    pub fn plane(&self, channel: usize) -> &[f32] {
        match self {
            Self::Grey(plane) => plane,
            Self::Rgb(planes) => &planes[channel],
        }
    }

    /// A pixel's colour.
    #[inline(always)]
    pub fn at(&self, i: usize) -> [f32; 3] {
        [self.plane(0)[i], self.plane(1)[i], self.plane(2)[i]]
    }

    /// Every colour changed.
    pub fn changed(self, change: impl Fn([f32; 3]) -> [f32; 3]) -> Self {
        let mut planes = match self {
            Self::Grey(plane) => [plane.clone(), plane.clone(), plane],
            Self::Rgb(planes) => planes,
        };
        for i in 0..planes[0].len() {
            let changed = change([planes[0][i], planes[1][i], planes[2][i]]);
            (0..3).for_each(|k| planes[k][i] = changed[k]);
        }
        Self::Rgb(planes)
    }
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
    /// A thing that takes shares of pixels; nothing where it takes none.
    pub fn thing(share: Vec<f32>, colour: [f32; 3]) -> Self {
        if share.iter().all(|s| *s == 0.0) {
            return Stuff::Nothing.into();
        }
        Stuff::Thing { share, colour }.into()
    }

    /// The same with the emulsion gone in places, in all layers.
    pub fn bared(self, share: Vec<f32>) -> Self {
        self.cut(share, [1.0; 3])
    }

    /// The same with layers cut to some depth.
    pub fn cut(self, share: Vec<f32>, layers: [f32; 3]) -> Self {
        Self { bare: Some(Bare { share, layers }), ..self }
    }
}

/// What is stated for red, green and blue, for one of so many layers: a single layer sees their mean.
#[inline(always)]
pub fn of_layer(stated: [f32; 3], layer: usize, layers: usize) -> f32 {
    if layers == 1 { stated.iter().sum::<f32>() / 3.0 } else { stated[layer] }
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
    fn what_touches_nothing_is_nothing() {
        assert!(matches!(Matter::thing(vec![0.0; 4], [1.0; 3]).stuff, Stuff::Nothing));
        let thing = Matter::thing(vec![0.0, 0.5], [1.0; 3]).bared(vec![1.0, 0.5]);
        assert!(matches!(&thing.stuff, Stuff::Thing { share, .. } if share == &[0.0, 0.5]) && thing.bare.is_some());
        assert_eq!(passing(0.0), 1.0);
        assert!((through(1.0, 0.5) - 0.316_23).abs() < 1e-4);
    }
}
