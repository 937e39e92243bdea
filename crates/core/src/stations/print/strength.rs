//! Strength of film and print: mixed in Oklab with the scene as the camera would have shown it.
//!
//! The print is fitted into the display's gamut before it is mixed: the plain picture lies in it already and must not
//! be pressed.

use multiversion::multiversion;

use std::sync::Arc;

use crate::colour::gamut::Compressor;
use crate::colour::oklab::WideToOklab;
use crate::colour::space::{SRGB_TO_WIDE, WIDE_TO_SRGB};
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::numeric::runs::{Lane, RUN, each_pixel, in_runs};
use crate::output::fit::turn;
use crate::picture::buffer::{Reflectance, SceneLight};
use crate::picture::{Picture, Region};
use crate::stations::lens::Light;
use crate::stations::scene::decoding::Decoding;

/// The mix, prepared.
#[derive(Debug, Clone)]
pub struct Strength {
    share: f32,
    oklab: WideToOklab,
    decoding: Decoding,
    /// `None` where the print lies in the gamut already.
    gamut: Option<Compressor>,
    to_srgb: [[f32; 3]; 3],
    to_wide: [[f32; 3]; 3],
}

impl Strength {
    /// `share` of film and print, 0..1; `decoding` as Scene used it; `fitted` where the print lies in the gamut
    /// already. `None` at full strength.
    pub fn new(share: f64, decoding: Decoding, fitted: bool) -> Option<Self> {
        (share < 1.0).then(|| Self {
            share: share as f32,
            oklab: WideToOklab::new(),
            decoding,
            gamut: (!fitted).then(Compressor::default),
            to_srgb: WIDE_TO_SRGB.to_f32(),
            to_wide: SRGB_TO_WIDE.to_f32(),
        })
    }

    /// Mixes the plain picture of the same rectangle into the print.
    pub fn mix(&self, print: &mut Picture<Reflectance>, light: &Picture<SceneLight>) {
        let plain = [light.plane(0), light.plane(1), light.plane(2)];
        if let Some(planes) = print.three_mut() {
            mix(self, planes, plain);
        }
    }

    /// Oklab of the plain picture of light.
    #[inline(always)]
    fn plain(&self, run: &mut [Lane; 3]) {
        each_pixel(run, |rgb| turn(&self.to_srgb, rgb));
        self.decoding.render_run(run);
        each_pixel(run, |rgb| turn(&self.to_wide, rgb));
        self.oklab.lab_run(run);
    }

    /// Oklab of a print, fitted.
    #[inline(always)]
    fn fitted(&self, run: &mut [Lane; 3]) {
        if let Some(gamut) = &self.gamut {
            each_pixel(run, |rgb| turn(&self.to_srgb, rgb));
            gamut.apply_run(run);
            each_pixel(run, |rgb| turn(&self.to_wide, rgb));
        }
        self.oklab.lab_run(run);
    }
}

/// The mix with the light of the same picture.
pub struct Strengthened {
    strength: Strength,
    light: Arc<Light>,
}

impl Strengthened {
    /// `None` at full strength.
    pub fn new(share: f64, light: Arc<Light>, fitted: bool) -> Option<Self> {
        let strength = Strength::new(share, light.scene().decoding(), fitted)?;
        Some(Self { strength, light })
    }
}

impl Effect<Reflectance> for Strengthened {
    fn key(&self) -> Key {
        key(&[&"strength", &self.strength.share, &self.strength.gamut.is_some(), &self.light.key()])
    }

    fn apply(&self, frame: &FilmFrame, mut print: Picture<Reflectance>, part: Region) -> Picture<Reflectance> {
        self.strength.mix(&mut print, &self.light.over(frame.source, part));
        print
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn mix(strength: &Strength, print: [&mut [f32]; 3], light: [&[f32]; 3]) {
    let mut plain = [[0.0f32; RUN]; 3];
    in_runs(print, |from, film| {
        for (lane, plane) in plain.iter_mut().zip(light) {
            let there = &plane[from..plane.len().min(from + RUN)];
            lane[..there.len()].copy_from_slice(there);
        }
        strength.plain(&mut plain);
        strength.fitted(film);
        for (film, plain) in film.iter_mut().zip(&plain) {
            film.iter_mut().zip(plain).for_each(|(f, p)| *f = p + strength.share * (*f - p));
        }
        each_pixel(film, |lab| strength.oklab.rgb(lab));
    });
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    #[test]
    fn none_of_it_is_the_plain_picture() {
        let decoding = Decoding::new(1.0, 0.85);
        let colour = [0.4, 0.3, 0.1];
        let to_wide = |v: [f32; 3]| SRGB_TO_WIDE.apply(v.map(f64::from)).map(|v| v as f32);
        let light =
            Picture::from_planes(Region::whole(1, 1), to_wide(decoding.apply(colour)).map(|v| vec![v]).to_vec());
        let mut print = Picture::from_planes(Region::whole(1, 1), vec![vec![0.02]; 3]);
        Strength::new(0.0, decoding, false).unwrap().mix(&mut print, &light);
        for (k, v) in to_wide(colour).iter().enumerate() {
            assert!((print.plane(k)[0] - v).abs() < 1e-4, "{k}");
        }
        assert!(Strength::new(1.0, decoding, false).is_none());
    }
}
