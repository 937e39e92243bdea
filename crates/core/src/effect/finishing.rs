//! What is done to the finished print, and whether it has been brought into the display's gamut on the way.

use super::{Effect, Effects, FilmFrame};
use crate::key::{Key, key};
use crate::output::Fit;
use crate::picture::buffer::Reflectance;
use crate::picture::{Picture, Region};

/// Effects on the finished print, in their order.
#[derive(Clone, Default)]
pub struct Finishing {
    /// What has joined so far.
    pub effects: Effects<Reflectance>,
    /// From here on nothing is fitted again: colours that were asked for are the colours that are seen.
    pub fitted: bool,
}

impl Finishing {
    /// Follows the others.
    pub fn push<E: Effect<Reflectance> + 'static>(&mut self, effect: Option<E>) {
        self.effects.push(effect);
    }

    /// What follows gives colours that the display shows, and so needs the print as the display shows it.
    pub fn fit(&mut self) {
        if !self.fitted {
            self.push(Some(Fit::default()));
            self.fitted = true;
        }
    }
}

impl Effect<Reflectance> for Fit {
    fn key(&self) -> Key {
        key(&[&"fit"])
    }

    fn apply(&self, _frame: &FilmFrame, mut print: Picture<Reflectance>, _part: Region) -> Picture<Reflectance> {
        self.over(&mut print);
        print
    }
}
