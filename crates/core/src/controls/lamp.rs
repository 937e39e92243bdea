//! Lamps: what on the line can be switched off and on again, its values kept.
//!
//! A station has one, and so has every group of controls with an effect of its own. A lamp is declared once, in the
//! column in whose head it stands. What is off is read at rest ([`super::Values`]): the renderer sees neutral values
//! and spends nothing on them.

use std::collections::BTreeSet;

use super::{Control, Station};

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

/// The lamps that are off, by their ids.
#[derive(Debug, Clone, Copy)]
pub struct Off<'a> {
    lamps: &'a BTreeSet<String>,
    /// The lamp of a group by its id: the groups stand above, with the stations.
    group: fn(&str) -> Option<&'static Lamp>,
}

impl<'a> Off<'a> {
    /// `None` where nothing is off.
    pub fn new(lamps: &'a BTreeSet<String>, group: fn(&str) -> Option<&'static Lamp>) -> Option<Self> {
        (!lamps.is_empty()).then_some(Self { lamps, group })
    }

    /// Whether one of them puts a control out: its station's, that of its group, or of its item of a list.
    pub fn puts_out(&self, control: &Control) -> bool {
        let is_held = |lamp: &String| match Station::from_id(lamp) {
            Some(station) => control.station == station,
            // an item of a list is its own path
            None => (self.group)(lamp).map_or_else(|| is_at(lamp, control.id), |group| group.holds(control.id)),
        };
        control.rest != Rest::Stays && self.lamps.iter().any(is_held)
    }
}
