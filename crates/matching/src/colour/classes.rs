//! The look of a print by classes of tone and hue, and how far two looks lie apart.

use amber_core::colour::difference::ciede2000;
use amber_core::colour::lab::Lab;

use super::Palette;

/// Classes of lightness among what is nearly grey, and of hue among what is not.
const TONES: usize = 10;
const HUES: usize = 8;
/// Chroma up to which a colour counts as nearly grey.
const GREY: f64 = 14.0;
/// Lightness that parts dark colours from light ones.
const LIGHT: f64 = 50.0;
/// Share of the picture that a class must have.
const ENOUGH: f64 = 0.002;
/// Share of the picture that its black and its white are.
const END: f64 = 0.004;

/// A class of colours.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Class {
    /// The darkest and the lightest.
    Black,
    /// The lightest.
    White,
    /// Nearly grey, of a lightness.
    Tone(usize),
    /// Of a hue, dark or light.
    Hue(usize, bool),
}

/// The mean colour of each class that a picture has.
#[derive(Debug, Clone, PartialEq)]
pub struct Classes {
    /// In the order of the classes.
    pub found: Vec<(Class, Lab)>,
}

impl Classes {
    /// Of the colours of a picture.
    pub fn of(palette: &Palette) -> Self {
        let mut sums: std::collections::BTreeMap<Class, (Lab, f64)> = std::collections::BTreeMap::new();
        let mut add = |class: Class, lab: Lab, share: f64| {
            let sum = sums.entry(class).or_default();
            (0..3).for_each(|k| sum.0[k] += share * lab[k]);
            sum.1 += share;
        };
        for colour in &palette.colours {
            let [l, a, b] = colour.lab;
            if a.hypot(b) < GREY {
                add(Class::Tone(((l / 100.0 * TONES as f64) as usize).min(TONES - 1)), colour.lab, colour.share);
            } else {
                let turn = b.atan2(a).rem_euclid(std::f64::consts::TAU) / std::f64::consts::TAU;
                add(Class::Hue(((turn * HUES as f64) as usize).min(HUES - 1), l > LIGHT), colour.lab, colour.share);
            }
        }
        for (class, dark) in [(Class::Black, true), (Class::White, false)] {
            let mut by_lightness: Vec<_> = palette.colours.iter().collect();
            by_lightness.sort_by(|a, b| a.lab[0].total_cmp(&b.lab[0]));
            if !dark {
                by_lightness.reverse();
            }
            let mut seen = 0.0;
            for colour in by_lightness.into_iter().take_while(|c| {
                let before = seen;
                seen += c.share;
                before < END
            }) {
                add(class, colour.lab, colour.share);
            }
        }
        let found = sums.into_iter().filter(|(_, (_, share))| *share >= ENOUGH);
        Self { found: found.map(|(class, (lab, share))| (class, lab.map(|v| v / share))).collect() }
    }

    /// Median CIEDE2000 of the classes that both have, and how many they are; `None` where there are none.
    pub fn apart(&self, other: &Self) -> Option<(f64, usize)> {
        let of = |(class, lab): &(Class, Lab)| {
            let there = other.found.iter().find(|(c, _)| c == class)?;
            Some(ciede2000(*lab, there.1))
        };
        let mut distances: Vec<f64> = self.found.iter().filter_map(of).collect();
        distances.sort_by(f64::total_cmp);
        let count = distances.len();
        (count > 0).then(|| (0.5 * (distances[(count - 1) / 2] + distances[count / 2]), count))
    }

    /// Lightness of the darkest and the lightest.
    pub fn range(&self) -> [f64; 2] {
        let of = |class: Class| self.found.iter().find(|(c, _)| *c == class).map_or(0.0, |(_, lab)| lab[0]);
        [of(Class::Black), of(Class::White)]
    }
}
