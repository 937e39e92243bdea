//! Colours given to tones through masks, and a wash through one.

use multiversion::multiversion;

use super::ramp::ToneRamp;
use super::settings::ToneSettings;
use super::wash::Wash;
use crate::colour::space::{SRGB_TO_WIDE, WIDE_TO_SRGB};
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::mask::PreparedUse;
use crate::numeric::runs::{Lane, RUN, each_pixel, in_runs};
use crate::output::fit::turn;
use crate::picture::buffer::Reflectance;
use crate::picture::{Picture, Region};
use crate::prepare::Prepare;

/// A change of every colour.
enum Change {
    Ramp(ToneRamp),
    Wash(Wash),
}

impl Change {
    /// Linear sRGB of a run of pixels changed.
    #[inline(always)]
    fn apply_run(&self, run: &mut [Lane; 3]) {
        match self {
            Self::Ramp(ramp) => ramp.apply_run(run),
            Self::Wash(wash) => wash.apply_run(run),
        }
    }
}

/// A change through its mask.
pub struct Toned {
    change: Change,
    place: PreparedUse,
    key: Key,
}

impl Toned {
    /// Those of the settings that have a mask, in order.
    pub fn all(tone: &ToneSettings, prepare: &Prepare) -> Vec<Self> {
        let places = &tone.places;
        let two = places.two.as_ref().zip(ToneRamp::new(Some(&tone.two), None).map(Change::Ramp));
        let four = places.four.as_ref().zip(ToneRamp::new(None, Some(&tone.four)).map(Change::Ramp));
        let wash = places.wash.as_ref().zip(Wash::new(Some(&tone.wash), Some(&tone.grey)).map(Change::Wash));
        let asked = [("two", two), ("four", four), ("wash", wash)];
        let one = |(name, both): (&str, Option<_>)| {
            let (place, change) = both?;
            Some(Self { change, place: prepare.mask(place), key: key(&[&"toned", &name, tone]) })
        };
        asked.into_iter().filter_map(one).collect()
    }
}

impl Effect<Reflectance> for Toned {
    fn key(&self) -> Key {
        self.key
    }

    fn apply(&self, frame: &FilmFrame, mut print: Picture<Reflectance>, part: Region) -> Picture<Reflectance> {
        let mask = self.place.over(frame.source, part);
        if let Some(planes) = print.three_mut() {
            through(planes, &mask, &self.change);
        }
        print
    }
}

/// The print changed as far as the mask lets it; runs outside the mask are left.
#[multiversion(targets("x86_64+avx2"))]
fn through(planes: [&mut [f32]; 3], mask: &[f32], change: &Change) {
    let (to_srgb, to_wide) = (WIDE_TO_SRGB.to_f32(), SRGB_TO_WIDE.to_f32());
    let mut share = [0.0f32; RUN];
    in_runs(planes, |from, run| {
        let there = &mask[from..mask.len().min(from + RUN)];
        if there.iter().all(|m| *m <= 0.0) {
            return;
        }
        share[..there.len()].copy_from_slice(there);
        let mut changed = *run;
        each_pixel(&mut changed, |rgb| turn(&to_srgb, rgb));
        change.apply_run(&mut changed);
        each_pixel(&mut changed, |rgb| turn(&to_wide, rgb));
        for (lane, changed) in run.iter_mut().zip(&changed) {
            for i in 0..RUN {
                let mixed = lane[i] + share[i] * (changed[i] - lane[i]);
                lane[i] = if share[i] > 0.0 { mixed } else { lane[i] };
            }
        }
    });
}
