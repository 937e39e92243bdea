//! What a frame is compared with: its stock as it is, a proof of it.

use amber_core::controls::Rest;
use amber_core::{Development, stations};
use amber_library::Frame;

use crate::Lab;
use crate::error::LabError;

/// Another version of a frame.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Against {
    /// The stock as it is, framed as the picture is.
    Stock,
    /// A kept version, by its number.
    Proof(i64),
    /// The frame as it is kept, whatever is being changed of it.
    Kept,
}

impl Against {
    /// By its name in addresses: `stock`, `kept`, `proof:3`.
    pub fn named(name: &str) -> Option<Self> {
        match name.split_once(':') {
            None if name == "stock" => Some(Self::Stock),
            None if name == "kept" => Some(Self::Kept),
            Some(("proof", id)) => id.parse().ok().map(Self::Proof),
            _ => None,
        }
    }
}

impl Lab {
    /// The development of that version; `now` is what is in force, kept or not.
    pub fn against(&self, frame: &Frame, now: &Development, version: Against) -> Result<Development, LabError> {
        Ok(match version {
            Against::Kept => frame.summary.development.clone(),
            Against::Proof(id) => self.library.proof(frame.summary.id, id)?.development,
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
