//! Surface: what lies on the picture, at the place of its history where it came to lie there.
//!
//! A sheet is the same kind of thing wherever it lies: light in the camera is exposed and developed with the film
//! (`camera`), what lies on the film stops the light that prints it (`negative`), what lies on the print or over
//! everything is a picture blended with the picture (`laid`). What a sheet is made of (`matter`) is made here by seed,
//! each kind in a file of `made`, or is a picture of one's own (`own`); where it lies is `placing`.

pub mod camera;
pub mod catalogue;
pub mod columns;
pub mod dice;
pub mod laid;
pub mod made;
pub mod matter;
pub mod mount;
pub mod negative;
pub mod own;
pub mod paint;
pub mod placing;
pub mod settings;
pub mod shapes;
pub mod sheet;

use std::sync::Arc;

use self::catalogue::Place;
use self::settings::{CLEAR, SheetSettings};
use self::sheet::{Sheet, Sheets, Zone};
use crate::controls::Values;
use crate::picture::Gate;
use crate::prepare::Prepare;

/// The sheets of a frame that are shown, by their place, lowest first.
#[derive(Debug, Default)]
pub struct Surface {
    /// Light and shadow before the film.
    pub camera: Sheets,
    /// On the developed film.
    pub negative: Sheets,
    /// On the print.
    pub print: Sheets,
    /// Over everything.
    pub over: Sheets,
}

impl Surface {
    /// Prepared for a picture on a film of a gate; what shows nothing is not there.
    pub fn prepared(values: &Values, gate: Gate, prepare: &Prepare) -> Self {
        let mut out = Self::default();
        let shown = SheetSettings::shown(values);
        if shown.is_empty() {
            return out;
        }
        let clear = prepare.place(&values.mask(&CLEAR)).map(|mask| {
            let zone = Zone::new(&mask, prepare);
            (mask, zone)
        });
        for settings in &shown {
            let Some(sheet) = Sheet::new(settings, gate, clear.as_ref(), prepare) else { continue };
            let list = match settings.place {
                Place::Camera => &mut out.camera,
                Place::Negative => &mut out.negative,
                Place::Print => &mut out.print,
                Place::Own | Place::Over => &mut out.over,
            };
            list.push(Arc::new(sheet));
        }
        out
    }
}
