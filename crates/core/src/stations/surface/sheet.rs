//! One sheet, prepared for a picture: its matter over any region, and how much of it lies there.

use std::fmt;
use std::sync::Arc;

use super::catalogue::{self, PRINT_LONG_UM, Place, Ruler};
use super::dice::mixed;
use super::made::{Ask, Made};
use super::matter::Matter;
use super::own::{OwnSheet, covering};
use super::paint::{Adjust, Drop};
use super::placing::{Ground, Laid, Placing, Window};
use super::settings::SheetSettings;
use crate::colour::blend::Blend;
use crate::controls::own_picture;
use crate::effect::FilmFrame;
use crate::key::{Key, key};
use crate::mask::PreparedUse;
use crate::picture::{Gate, Plane, Region};
use crate::prepare::Prepare;

/// What a sheet is made of.
enum Of {
    Made(Box<dyn Made>),
    Own(OwnSheet),
}

/// Prepared.
pub struct Sheet {
    of: Of,
    ground: Ground,
    laid: Laid,
    key: Key,
    strength: f32,
    mask: Option<PreparedUse>,
    clear: Option<PreparedUse>,
    /// Asked for, or `None` as it is made.
    pub blend: Option<Blend>,
    /// How its kind meets a picture.
    pub made_blend: Blend,
    /// Its own colours.
    pub adjust: Adjust,
    /// What of them is left out.
    pub drop: Drop,
}

impl fmt::Debug for Sheet {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        write!(f, "{:?}", self.key)
    }
}

/// What a sheet lies on, at the place in the picture's history where it is laid, measured with a ruler.
pub fn ground(place: Place, ruler: Ruler, gate: Gate, prepare: &Prepare) -> Ground {
    let [width, height] = prepare.size().map(f64::from);
    let width_um = match ruler {
        Ruler::Film => prepare.geometry(gate).pitch_um * width,
        Ruler::Print => PRINT_LONG_UM * width / width.max(height),
    };
    if !place.is_on_film() {
        return Ground::of_picture(width_um);
    }
    let scale = width / f64::from(prepare.full_width);
    let film = prepare.film.map(|side| f64::from(side) * scale);
    Ground::of_film(prepare.size(), film, prepare.corner.map(f64::from), width_um)
}

/// A zone of the frame, small, to be asked at any place.
pub struct Zone(Plane);

impl Zone {
    /// Of a mask of the picture.
    pub fn new(mask: &PreparedUse, prepare: &Prepare) -> Self {
        let small = prepare.small();
        let values = mask.over(small, small.region());
        Self(Plane { width: small.width() as usize, height: small.height() as usize, values })
    }

    /// At a place in shares of the picture; 0 beyond it.
    fn at(&self, [x, y]: [f32; 2]) -> f32 {
        let place = |share: f32, side: usize| {
            (0.0..1.0).contains(&share).then(|| ((share * side as f32) as usize).min(side - 1))
        };
        match (place(x, self.0.width), place(y, self.0.height)) {
            (Some(x), Some(y)) => self.0.values[y * self.0.width + x],
            _ => 0.0,
        }
    }
}

impl Sheet {
    /// `None` where there is nothing to be seen of it: no strength, or a picture that is not there.
    pub fn new(
        settings: &SheetSettings,
        gate: Gate,
        keep_clear: Option<&(PreparedUse, Zone)>,
        prepare: &Prepare,
    ) -> Option<Self> {
        if settings.strength <= 0.0 || settings.laid.scale <= 0.0 {
            return None;
        }
        let frame = prepare.size();
        let kind = catalogue::kind(&settings.kind);
        let ruler = kind.map_or(Ruler::Print, |kind| kind.ruler);
        let ground = ground(settings.place, ruler, gate, prepare);
        let clear = keep_clear.filter(|_| kind.is_some_and(|kind| kind.avoids));
        let seed = match settings.lock {
            true => mixed(0, settings.seed, 0),
            false => mixed(prepare.seed, settings.seed, settings.key),
        };
        let mut laid = settings.laid;
        let of = match kind {
            Some(kind) => {
                let placing = Placing::new(&ground, &laid, frame);
                let zone = |at: [f32; 2]| {
                    let [x, y] = placing.on_picture(at);
                    clear.map_or(0.0, |(_, zone)| zone.at([x / frame[0] as f32, y / frame[1] as f32]))
                };
                let ask = Ask {
                    seed,
                    amount: settings.amount as f32,
                    size: settings.size as f32,
                    half: placing.half_um.map(|um| um as f32),
                    within: placing.holding(0.0, 0.0, frame[0].into(), frame[1].into()),
                    clear: &zone,
                };
                Of::Made((kind.make)(&ask))
            }
            None => {
                let picture = prepare.pictures.picture(own_picture(&settings.kind)?)?;
                if settings.cover {
                    laid = covering(picture.size(), settings.fit, &ground, &laid, frame).0;
                }
                let half_um = Placing::new(&ground, &Laid::PLAIN, frame).half_um;
                Of::Own(OwnSheet::new(picture, settings.fit, half_um))
            }
        };
        let kept_clear = clear.map(|(mask, _)| mask.clone());
        Some(Self {
            of,
            ground,
            laid,
            key: key(&[&"sheet", settings, &seed, &ground, &laid, &kept_clear]),
            strength: settings.strength as f32,
            mask: prepare.place(&settings.mask),
            clear: kept_clear,
            blend: settings.blend,
            made_blend: kind.map_or(Blend::Normal, |kind| kind.blend),
            adjust: settings.adjust,
            drop: settings.drop,
        })
    }

    /// Names all that it depends on.
    pub fn key(&self) -> Key {
        self.key
    }

    /// Its matter over a region of a frame.
    pub fn matter(&self, frame: &FilmFrame, region: Region) -> Matter {
        let placing = Placing::new(&self.ground, &self.laid, frame.size());
        let window = Window { region, placing: &placing };
        match &self.of {
            Of::Made(made) => made.over(&window),
            Of::Own(own) => own.over(&window),
        }
    }

    /// How much of it lies at every pixel of a region, 0 to 1.
    pub fn share(&self, frame: &FilmFrame, region: Region) -> Vec<f32> {
        let mut share = vec![self.strength; region.pixels()];
        if let Some(mask) = &self.mask {
            share.iter_mut().zip(mask.over(frame.source, region)).for_each(|(s, m)| *s *= m);
        }
        if let Some(clear) = &self.clear {
            share.iter_mut().zip(clear.over(frame.source, region)).for_each(|(s, m)| *s *= 1.0 - m);
        }
        share
    }
}

/// Sheets of one place, lowest first.
pub type Sheets = Vec<Arc<Sheet>>;

/// Names sheets in their order.
pub fn key_of(sheets: &[Arc<Sheet>]) -> Key {
    let keys: Vec<Key> = sheets.iter().map(|sheet| sheet.key()).collect();
    key(&[&"sheets", &keys])
}
