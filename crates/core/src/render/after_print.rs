//! What lies on the finished print: colours given to its tones through masks, the coating's edge, the marks of years.

use crate::colour::space::{SRGB_TO_WIDE, WIDE_TO_SRGB};
use crate::mask::{MaskUse, PreparedUse};
use crate::numeric::matrix::dot;
use crate::picture::buffer::Reflectance;
use crate::picture::{Picture, Source};
use crate::stations::print::PrintSettings;
use crate::stations::tone::coating::Coating;
use crate::stations::tone::wash::Wash;
use crate::stations::tone::{ToneRamp, ToneSettings};
use crate::stations::years::marks::{MarkPlaces, Marks};

/// A change of every colour.
enum Change {
    Ramp(ToneRamp),
    Wash(Wash),
}

impl Change {
    fn apply(&self, rgb: [f32; 3]) -> [f32; 3] {
        match self {
            Self::Ramp(ramp) => ramp.apply(rgb),
            Self::Wash(wash) => wash.apply(rgb),
        }
    }
}

/// Prepared.
pub(super) struct AfterPrint {
    toned: Vec<(Change, PreparedUse)>,
    coating: Option<Coating>,
    marks: Option<Marks>,
}

impl AfterPrint {
    /// `None` where nothing lies on the print. `ground` is the bare paper or plate in the working space.
    pub fn new(
        settings: &PrintSettings,
        seed: u32,
        ground: [f32; 3],
        ready: &dyn Fn(&MaskUse) -> PreparedUse,
    ) -> Option<Self> {
        let years = &settings.years;
        let place = |place: &Option<MaskUse>| place.as_ref().map(ready);
        let marks = MarkPlaces {
            mirroring: place(&years.places.mirroring),
            foxing: place(&years.places.foxing),
            water: place(&years.places.water),
        };
        let all = Self {
            toned: toned(&settings.tone, ready),
            coating: Coating::new(&settings.tone.coating, seed, ground),
            marks: Marks::new(&years.marks, marks, seed),
        };
        (!all.toned.is_empty() || all.coating.is_some() || all.marks.is_some()).then_some(all)
    }

    /// Whether it gives colours, and so needs the print as the display shows it.
    pub fn fits(&self) -> bool {
        !self.toned.is_empty()
    }

    pub fn apply(&self, frame: &Source, print: &mut Picture<Reflectance>) {
        for (change, mask) in &self.toned {
            changed(print, change, &mask.over(frame, print.region));
        }
        if let Some(coating) = &self.coating {
            coating.apply([frame.width(), frame.height()], print);
        }
        if let Some(marks) = &self.marks {
            marks.apply(frame, print);
        }
    }
}

fn toned(tone: &ToneSettings, ready: &dyn Fn(&MaskUse) -> PreparedUse) -> Vec<(Change, PreparedUse)> {
    let places = &tone.places;
    let two = places.two.as_ref().zip(ToneRamp::new(Some(&tone.two), None).map(Change::Ramp));
    let four = places.four.as_ref().zip(ToneRamp::new(None, Some(&tone.four)).map(Change::Ramp));
    let wash = places.wash.as_ref().zip(Wash::new(Some(&tone.wash), Some(&tone.grey)).map(Change::Wash));
    [two, four, wash].into_iter().flatten().map(|(place, change)| (change, ready(place))).collect()
}

fn changed(print: &mut Picture<Reflectance>, change: &Change, mask: &[f32]) {
    let (to_srgb, to_wide) = (WIDE_TO_SRGB.to_f32(), SRGB_TO_WIDE.to_f32());
    let turn = |m: &[[f32; 3]; 3], v: [f32; 3]| [0, 1, 2].map(|i| dot(&m[i], v[0], v[1], v[2]));
    let Some([red, green, blue]) = print.three_mut() else { return };
    for (((r, g), b), m) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()).zip(mask) {
        if *m > 0.0 {
            let [x, y, z] = turn(&to_wide, change.apply(turn(&to_srgb, [*r, *g, *b])));
            *r += m * (x - *r);
            *g += m * (y - *g);
            *b += m * (z - *b);
        }
    }
}
