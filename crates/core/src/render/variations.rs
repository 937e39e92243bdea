//! Effects inside the print's table that do not act everywhere: toning, age and sun through masks.
//!
//! The picture is read from a table with and a table without each of them, and the reflectances are mixed by where it
//! acts.

use std::sync::Arc;

use crate::mask::PreparedUse;
use crate::picture::buffer::Reflectance;
use crate::picture::{Picture, Region, Source};
use crate::stations::print::{PrintSettings, PrintStage};
use crate::stations::years::Losses;
use crate::stations::years::sun::Sun;

/// An effect that acts here more, there less.
pub(super) enum Axis {
    Baths(PreparedUse),
    Age(PreparedUse),
    Sun(Sun, Option<PreparedUse>),
}

impl Axis {
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
pub(super) fn with_only(settings: &PrintSettings, axes: &[Axis], acts: usize) -> PrintSettings {
    let mut out = settings.clone();
    let (mut aged, mut lit) = (true, false);
    for (bit, axis) in axes.iter().enumerate() {
        let on = acts >> bit & 1 == 1;
        match axis {
            Axis::Baths(_) if !on => out.tone.baths.clear(),
            Axis::Baths(_) => {}
            Axis::Age(_) => aged = on,
            Axis::Sun(..) => lit = on,
        }
    }
    let years = &settings.years;
    out.years.losses = match (aged, lit) {
        (true, false) => years.losses,
        (true, true) => years.in_the_sun,
        (false, true) => years.sun_alone,
        (false, false) => Losses::NONE,
    };
    out
}

/// The tables, one for each combination of effects that act.
pub(super) struct Variations {
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

    /// Reads every table by `read` and mixes.
    pub fn reflect(
        &self,
        frame: &Source,
        region: Region,
        read: impl Fn(&PrintStage) -> Picture<Reflectance>,
    ) -> Picture<Reflectance> {
        let mut pictures: Vec<_> = self.stages.iter().map(|stage| read(stage)).collect();
        for axis in self.axes.iter().rev() {
            let acts = axis.over(frame, region);
            // the last axis is the highest bit: its half without stands before its half with
            let with = pictures.split_off(pictures.len() / 2);
            for (without, with) in pictures.iter_mut().zip(&with) {
                without.mix(with, &acts);
            }
        }
        pictures.swap_remove(0)
    }
}
