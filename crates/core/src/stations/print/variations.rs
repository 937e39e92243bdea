//! Effects inside the print's table that do not act everywhere: toning, age and sun through masks.
//!
//! The picture is read from a table with and a table without each of them, and the reflectances are mixed by where it
//! acts.

use std::sync::Arc;

use super::settings::PrintSettings;
use super::stage::PrintStage;
use crate::mask::PreparedUse;
use crate::picture::buffer::Reflectance;
use crate::picture::{Picture, Region, Source};
use crate::prepare::Prepare;
use crate::stations::tone::ToneSettings;
use crate::stations::years::sun::Sun;
use crate::stations::years::{Losses, YearsSettings};

/// An effect that acts here more, there less.
pub enum Axis {
    /// Toner baths through a mask.
    Baths(PreparedUse),
    /// Age through a mask.
    Age(PreparedUse),
    /// Sun where it fell, through a mask where there is one.
    Sun(Sun, Option<PreparedUse>),
}

impl Axis {
    /// What of toning and age does not act everywhere.
    pub fn all(tone: &ToneSettings, years: &YearsSettings, prepare: &Prepare) -> Vec<Self> {
        let baths = tone.places.baths.as_ref().filter(|_| !tone.baths.is_empty());
        let age = years.places.age.as_ref().filter(|_| !years.losses.is_none());
        let sun = Sun::new(&years.sun, prepare.seed).map(|sun| Self::Sun(sun, prepare.place(&years.places.sun)));
        let masked =
            [baths.map(|place| Self::Baths(prepare.mask(place))), age.map(|place| Self::Age(prepare.mask(place))), sun];
        masked.into_iter().flatten().collect()
    }

    /// How much it acts at every pixel of a region.
    fn over(&self, frame: &Source, region: Region) -> Vec<f32> {
        match self {
            Self::Baths(mask) | Self::Age(mask) => mask.over(frame, region),
            Self::Sun(sun, mask) => {
                let mut light = sun.over([frame.width(), frame.height()], region);
                if let Some(mask) = mask {
                    light.iter_mut().zip(mask.over(frame, region)).for_each(|(v, m)| *v *= m);
                }
                light
            }
        }
    }
}

/// The print's settings with only some of the effects; `acts` says which.
pub fn with_only(settings: &PrintSettings, years: &YearsSettings, axes: &[Axis], acts: usize) -> PrintSettings {
    let mut out = settings.clone();
    let (mut aged, mut lit) = (true, false);
    for (bit, axis) in axes.iter().enumerate() {
        let on = acts >> bit & 1 == 1;
        match axis {
            Axis::Baths(_) if !on => out.baths.clear(),
            Axis::Baths(_) => {}
            Axis::Age(_) => aged = on,
            Axis::Sun(..) => lit = on,
        }
    }
    out.losses = match (aged, lit) {
        (true, false) => years.losses,
        (true, true) => years.in_the_sun,
        (false, true) => years.sun_alone,
        (false, false) => Losses::NONE,
    };
    out
}

/// The tables, one for each combination of effects that act.
pub struct Variations {
    axes: Vec<Axis>,
    stages: Vec<Arc<PrintStage>>,
}

impl Variations {
    /// `stage` makes the table of a combination.
    pub fn new<E>(
        axes: Vec<Axis>,
        stage: impl Fn(&[Axis], usize) -> Result<Arc<PrintStage>, E>,
    ) -> Result<Option<Self>, E> {
        if axes.is_empty() {
            return Ok(None);
        }
        let stages = (0..1 << axes.len()).map(|acts| stage(&axes, acts)).collect::<Result<_, _>>()?;
        Ok(Some(Self { axes, stages }))
    }

    /// Reads the tables by `read` and mixes; of an effect that acts nowhere in the region the tables are not read.
    pub fn reflect(
        &self,
        frame: &Source,
        region: Region,
        read: impl Fn(&PrintStage) -> Picture<Reflectance>,
    ) -> Picture<Reflectance> {
        let acts: Vec<Option<Vec<f32>>> = self.axes.iter().map(|axis| somewhere(axis.over(frame, region))).collect();
        let asleep = acts.iter().enumerate().filter(|(_, acts)| acts.is_none()).fold(0, |all, (bit, _)| all | 1 << bit);
        let wanted = self.stages.iter().enumerate().filter(|(acts, _)| acts & asleep == 0);
        let mut pictures: Vec<_> = wanted.map(|(_, stage)| read(stage)).collect();
        for acts in acts.iter().rev().flatten() {
            // the last axis is the highest bit: its half without stands before its half with
            let with = pictures.split_off(pictures.len() / 2);
            for (without, with) in pictures.iter_mut().zip(&with) {
                without.mix(with, acts);
            }
        }
        pictures.swap_remove(0)
    }
}

/// How much something acts, where it does at all.
fn somewhere(acts: Vec<f32>) -> Option<Vec<f32>> {
    acts.iter().any(|v| *v != 0.0).then_some(acts)
}
