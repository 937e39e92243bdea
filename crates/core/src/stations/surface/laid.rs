//! Sheets on the print and over everything: pictures blended with the picture, as the standard's modes say, on encoded
//! values.

use multiversion::multiversion;

use super::matter::{Colours, Matter, Stuff, through};
use super::paint::Drop;
use super::sheet::{Sheet, Sheets, key_of};
use crate::colour::blend::Blend;
use crate::colour::rooted;
use crate::colour::space::{SRGB_TO_WIDE, WIDE_TO_SRGB};
use crate::colour::transfer::encode_srgb_f32;
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::numeric::exp2;
use crate::numeric::matrix::dot;
use crate::numeric::runs::{Lane, RUN, each_pixel, in_runs};
use crate::picture::buffer::{Display, Reflectance};
use crate::picture::{Picture, Region};

/// sRGB's encoding is a power of the light but for this offset: a factor on light is one on it.
const OFFSET: f32 = 0.055;
const POWER: f32 = 1.0 / 2.4;
/// How a leak looks that was not developed with the film: warm, white where it is strong.
const LIGHT_TINT: [f32; 3] = [1.0, 0.42, 0.14];

/// Prepared.
#[derive(Debug)]
pub struct LaidSheets {
    sheets: Sheets,
    /// The bare paper or plate, encoded.
    ground: [f32; 3],
}

impl LaidSheets {
    /// `None` where there is none; `ground` in the linear working space.
    pub fn new(sheets: Sheets, ground: [f32; 3]) -> Option<Self> {
        let [r, g, b] = ground;
        let to_srgb = WIDE_TO_SRGB.to_f32();
        let ground = [0, 1, 2].map(|k| encode_srgb_f32(dot(&to_srgb[k], r, g, b).max(0.0).min(1.0)));
        (!sheets.is_empty()).then_some(Self { sheets, ground })
    }

    fn lay(&self, frame: &FilmFrame, part: Region, mut planes: [&mut [f32]; 3]) {
        for sheet in &self.sheets {
            let (matter, share) = (sheet.matter(frame, part), sheet.share(frame, part));
            let again = planes.each_mut().map(|plane| &mut **plane);
            lay_one(sheet, matter, &share, &self.ground, again);
        }
    }
}

fn lay_one(sheet: &Sheet, matter: Matter, share: &[f32], ground: &[f32; 3], mut planes: [&mut [f32]; 3]) {
    let adjust = &sheet.adjust;
    if let Some(bare) = matter.bare {
        for ((plane, ground), deep) in planes.iter_mut().zip(ground).zip(bare.layers) {
            let gone = plane.iter_mut().zip(&bare.share).zip(share);
            gone.for_each(|((v, b), s)| *v += (b * deep * s).min(1.0) * (ground - *v));
        }
    }
    let blend = sheet.blend.unwrap_or(sheet.made_blend);
    match matter.stuff {
        Stuff::Nothing => {}
        Stuff::Light(light) => {
            let (tint, bright) = (adjust.of_tint(LIGHT_TINT), adjust.of_light());
            let seen = |weight: f32| light.iter().map(|l| 1.0 - exp2(-1.3 * weight * bright * l)).collect();
            blended(planes, &Colours::Rgb(tint.map(seen)), share, blend);
        }
        // light passes it: it is a factor, unless somebody wants it blended
        Stuff::Veil { density, tint } if sheet.blend.is_none() => {
            let (tint, thick) = (adjust.of_tint(tint), adjust.of_density());
            for (plane, tint) in planes.into_iter().zip(tint) {
                veiled(plane, &density, share, thick * tint);
            }
        }
        Stuff::Veil { density, tint } => {
            let (tint, thick) = (adjust.of_tint(tint), adjust.of_density());
            let seen =
                |tint: f32| density.iter().map(|d| encode_srgb_f32(through(*d, thick * tint).min(1.0))).collect();
            blended(planes, &Colours::Rgb(tint.map(seen)), share, blend);
        }
        Stuff::Thing { share: thing, colour } => {
            let colour = Colours::Rgb(adjust.of(colour).map(|v| vec![v; thing.len()]));
            let cover: Vec<f32> = thing.iter().zip(share).map(|(t, s)| t * s).collect();
            blended(planes, &colour, &cover, blend);
        }
        Stuff::Paint { rgb, mut cover, .. } => {
            cover.iter_mut().zip(share).for_each(|(c, s)| *c *= s);
            if sheet.drop != Drop::Nothing {
                cover.iter_mut().enumerate().for_each(|(i, c)| *c *= sheet.drop.stays(rgb.at(i)));
            }
            let rgb = if adjust.is_none() { rgb } else { rgb.changed(|colour| adjust.of(colour)) };
            blended(planes, &rgb, &cover, blend);
        }
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn veiled(plane: &mut [f32], density: &[f32], share: &[f32], tint: f32) {
    for ((v, d), s) in plane.iter_mut().zip(density).zip(share) {
        let factor = through(d * s, tint * POWER);
        let lit = ((*v + OFFSET) * factor - OFFSET).max(0.0).min(1.0);
        *v = if *d == 0.0 { *v } else { lit };
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn blended(planes: [&mut [f32]; 3], rgb: &Colours, cover: &[f32], blend: Blend) {
    let mut source: [Lane; 3] = [[0.0; RUN]; 3];
    let mut strength: Lane = [0.0; RUN];
    in_runs(planes, |from, run| {
        let count = RUN.min(cover.len() - from);
        // most of a frame has no mark on it
        if cover[from..from + count].iter().all(|c| *c == 0.0) {
            return;
        }
        for (k, lane) in source.iter_mut().enumerate() {
            lane[..count].copy_from_slice(&rgb.plane(k)[from..from + count]);
        }
        strength[..count].copy_from_slice(&cover[from..from + count]);
        blend.over(run, &source, |i| strength[i]);
    });
}

impl Effect<Display> for LaidSheets {
    fn key(&self) -> Key {
        key(&[&"over", &key_of(&self.sheets), &self.ground])
    }

    fn apply(&self, frame: &FilmFrame, mut picture: Picture<Display>, part: Region) -> Picture<Display> {
        if let Some(planes) = picture.three_mut() {
            self.lay(frame, part, planes);
        }
        picture
    }
}

impl Effect<Reflectance> for LaidSheets {
    fn key(&self) -> Key {
        key(&[&"on the print", &key_of(&self.sheets), &self.ground])
    }

    fn apply(&self, frame: &FilmFrame, mut print: Picture<Reflectance>, part: Region) -> Picture<Reflectance> {
        if let Some(mut planes) = print.three_mut() {
            encoded(planes.each_mut().map(|plane| &mut **plane));
            self.lay(frame, part, planes.each_mut().map(|plane| &mut **plane));
            decoded(planes);
        }
        print
    }
}

/// The linear working space as encoded sRGB.
#[multiversion(targets("x86_64+avx2"))]
fn encoded(planes: [&mut [f32]; 3]) {
    let m = WIDE_TO_SRGB.to_f32();
    in_runs(planes, |_, run| {
        each_pixel(run, |[r, g, b]| [0, 1, 2].map(|k| dot(&m[k], r, g, b)));
        run.iter_mut().for_each(|lane| rooted::encode_all(lane, 1.0));
    });
}

/// Encoded sRGB as the linear working space.
#[multiversion(targets("x86_64+avx2"))]
fn decoded(planes: [&mut [f32]; 3]) {
    let m = SRGB_TO_WIDE.to_f32();
    in_runs(planes, |_, run| {
        run.iter_mut().for_each(|lane| rooted::decode_all(lane));
        each_pixel(run, |[r, g, b]| [0, 1, 2].map(|k| dot(&m[k], r, g, b)));
    });
}
