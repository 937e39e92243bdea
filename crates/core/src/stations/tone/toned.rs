//! Colours given to tones through masks, and a wash through one.

use super::ramp::ToneRamp;
use super::settings::ToneSettings;
use super::wash::Wash;
use crate::colour::space::{SRGB_TO_WIDE, WIDE_TO_SRGB};
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::mask::PreparedUse;
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
    fn of(&self, rgb: [f32; 3]) -> [f32; 3] {
        match self {
            Self::Ramp(ramp) => ramp.apply(rgb),
            Self::Wash(wash) => wash.apply(rgb),
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
        let (to_srgb, to_wide) = (WIDE_TO_SRGB.to_f32(), SRGB_TO_WIDE.to_f32());
        let mask = self.place.over(frame.source, part);
        let Some([red, green, blue]) = print.three_mut() else { return print };
        for (((r, g), b), m) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()).zip(&mask) {
            if *m > 0.0 {
                let [x, y, z] = turn(&to_wide, self.change.of(turn(&to_srgb, [*r, *g, *b])));
                *r += m * (x - *r);
                *g += m * (y - *g);
                *b += m * (z - *b);
            }
        }
        print
    }
}
