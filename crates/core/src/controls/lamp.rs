//! Lamps: what on the line can be switched off and on again, its values kept.
//!
//! A station has one, and so has every group of controls with an effect of its own. A lamp is declared once, in the
//! column in whose head it stands. What is off is read at rest ([`super::Values`]): the renderer sees neutral values
//! and spends nothing on them.

use super::{Control, List, Station};
use crate::stations;

/// A group of controls that can be switched off.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Lamp {
    /// What documents say; frozen once released.
    pub id: &'static str,
    /// What is switched, in words.
    pub label: &'static str,
    /// What the ids of its controls begin with, or are.
    pub holds: &'static [&'static str],
}

impl Lamp {
    /// Whether a control, or an item of a list, belongs to it.
    pub fn holds(&self, id: &str) -> bool {
        self.holds.iter().any(|path| is_at(path, id))
    }
}

/// Whether an id is a path or lies under it.
pub fn is_at(path: &str, id: &str) -> bool {
    id.strip_prefix(path).is_some_and(|rest| rest.is_empty() || rest.starts_with('.'))
}

/// One lamp of a column; it holds the controls under its id, or those that are given.
macro_rules! lamp {
    ($id:literal, $label:literal) => {
        $crate::controls::Lamp { id: $id, label: $label, holds: &[$id] }
    };
    ($id:literal, $label:literal, $holds:expr) => {
        $crate::controls::Lamp { id: $id, label: $label, holds: $holds }
    };
}
pub(crate) use lamp;

/// What a control reads as while it is off.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Rest {
    /// Its own value as the stock's data or the declaration state it: it changes nothing there.
    Own,
    /// A number at which it does nothing, where the own value does something.
    Number(f64),
    /// The choice that does least.
    Choice(&'static str),
    /// What it is: it frames the picture and has no effect to be switched.
    Stays,
}

/// Whether a lamp that is off puts a control out: its station's, or that of its group.
pub(super) fn puts_out(off: &str, control: &Control) -> bool {
    if control.rest == Rest::Stays {
        return false;
    }
    match Station::from_id(off) {
        Some(station) => control.station == station,
        // an item of a list is its own path
        None => stations::lamp(off).map_or_else(|| is_at(off, control.id), |lamp| lamp.holds(control.id)),
    }
}

/// Whether an id names a lamp: of a station, of a group, or of an item of a list.
pub fn is_lamp(id: &str) -> bool {
    let is_item = |list: &List| list.key_of(id).is_some_and(|key| id == format!("{}.{key}", list.path));
    is_of_all(id) || stations::LISTS.into_iter().any(is_item)
}

/// Whether an id names the lamp of a station or of a group, which every frame has.
pub fn is_of_all(id: &str) -> bool {
    Station::from_id(id).is_some() || stations::lamp(id).is_some()
}

/// What a lamp switches, in words.
pub fn label(id: &str) -> String {
    let item = |list: &&List| list.key_of(id).map(|key| format!("{} {key}", list.label));
    let group = stations::lamp(id).map(|lamp| lamp.label.to_owned());
    let station = Station::from_id(id).map(|station| station.name().to_owned());
    station.or(group).or_else(|| stations::LISTS.iter().find_map(item)).unwrap_or_else(|| id.to_owned())
}

/// Whether a lamp stays as it is when another stock is loaded: before the film, and on the picture.
pub fn stays_with_the_picture(id: &str) -> bool {
    let station = id.split('.').next().and_then(Station::from_id);
    station.is_some_and(|station| station < Station::Film || station == Station::Surface)
}
