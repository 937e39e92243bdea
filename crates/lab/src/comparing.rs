//! What a frame is compared with: its stock as it is, a proof of it, itself on its way along the line.

use amber_core::controls::Rest;
use amber_core::render::Alone;
use amber_core::stock::StockKind;
use amber_core::{Development, Station, Stock, stations};
use amber_library::Frame;

use crate::Lab;
use crate::error::LabError;
use crate::live::Shown;

/// Another version of a frame.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Against {
    /// The stock as it is, framed as the picture is.
    Stock,
    /// A kept version, by its number.
    Proof(i64),
    /// The frame as it is kept, whatever is being changed of it.
    Kept,
    /// As it leaves a station: a positive, or what is physically there.
    After(Station, Form),
}

/// How a picture on its way is looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Form {
    /// As a positive, whatever it is.
    Positive,
    /// As it is there: a negative with its mask.
    Itself,
}

impl Against {
    /// By its name in addresses: `stock`, `kept`, `proof:3`, `after:bath`, `itself:bath`.
    pub fn named(name: &str) -> Option<Self> {
        match name.split_once(':') {
            None if name == "stock" => Some(Self::Stock),
            None if name == "kept" => Some(Self::Kept),
            Some(("proof", id)) => id.parse().ok().map(Self::Proof),
            Some(("after", station)) => Station::from_id(station).map(|station| Self::After(station, Form::Positive)),
            Some(("itself", station)) => Station::from_id(station).map(|station| Self::After(station, Form::Itself)),
            _ => None,
        }
    }

    /// What is rendered of its development on a stock.
    pub fn shown(self, stock: &Stock) -> Shown {
        let is_negative = matches!(stock.kind, StockKind::ColourNegative | StockKind::BlackAndWhiteNegative);
        match self {
            Self::After(Station::Scene | Station::Lens, _) => Shown::Alone(Alone::Light),
            Self::After(Station::Film, _) => Shown::Alone(Alone::Exposure),
            Self::After(Station::Bath, Form::Itself) if is_negative => Shown::Alone(Alone::Film),
            _ => Shown::Developed,
        }
    }
}

impl Lab {
    /// The development of that version; `now` is what is in force, kept or not.
    pub fn against(&self, frame: &Frame, now: &Development, version: Against) -> Result<Development, LabError> {
        Ok(match version {
            Against::Kept => frame.summary.development.clone(),
            Against::Proof(id) => self.library.proof(frame.summary.id, id)?.development,
            Against::After(station, _) => {
                // what comes later is off; the film itself cannot be, nor can what leads to it
                let later = Station::ALL.into_iter().filter(|s| *s > station);
                let mut so_far = now.clone();
                so_far.off.extend(later.map(|s| s.id().to_owned()).filter(|id| id != "film" && id != "bath"));
                so_far
            }
            Against::Stock => {
                let frames = |id: &String| stations::find(id).is_ok_and(|c| c.rest == Rest::Stays);
                let mut plain = Development { seed: now.seed, ..Development::new(&frame.stock) };
                plain.stock = now.stock.clone();
                plain.values =
                    now.values.iter().filter(|(id, _)| frames(id)).map(|(k, v)| (k.clone(), v.clone())).collect();
                plain
            }
        })
    }
}
