//! Every lamp by its id: of a station, of a group, of an item of a list.

use super::registry::{LISTS, columns};
use crate::controls::{Lamp, List, Station};

/// Every lamp of a group, station by station.
pub fn lamps() -> impl Iterator<Item = &'static Lamp> {
    Station::ALL.into_iter().flat_map(columns).flat_map(|column| column.lamps)
}

/// The lamp of a group with an id.
pub fn lamp(id: &str) -> Option<&'static Lamp> {
    lamps().find(|lamp| lamp.id == id)
}

/// Whether an id names a lamp.
pub fn is_lamp(id: &str) -> bool {
    let is_item = |list: &List| list.key_of(id).is_some_and(|key| id == format!("{}.{key}", list.path));
    is_of_all(id) || LISTS.into_iter().any(is_item)
}

/// Whether an id names the lamp of a station or of a group, which every frame has.
pub fn is_of_all(id: &str) -> bool {
    Station::from_id(id).is_some() || lamp(id).is_some()
}

/// What a lamp switches, in words.
pub fn lamp_label(id: &str) -> String {
    let item = |list: &&List| list.key_of(id).map(|key| format!("{} {key}", list.label));
    let group = lamp(id).map(|lamp| lamp.label.to_owned());
    let station = Station::from_id(id).map(|station| station.name().to_owned());
    station.or(group).or_else(|| LISTS.iter().find_map(item)).unwrap_or_else(|| id.to_owned())
}

/// The station of a lamp.
pub fn station_of_lamp(id: &str) -> Option<Station> {
    Station::from_id(id.split('.').next()?)
}

/// Whether a lamp stays as it is when another stock is loaded: before the film, and on the picture.
pub fn lamp_stays_with_the_picture(id: &str) -> bool {
    station_of_lamp(id).is_some_and(|station| station < Station::Film || station == Station::Surface)
}
