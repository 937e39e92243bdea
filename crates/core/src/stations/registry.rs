//! All that can be tuned: the controls of every station and the lists of them, found by their ids.

use std::collections::BTreeSet;

use super::{bath, film, lens, print, scene, surface, tone, years};
use crate::controls::{Column, Control, List, Station};
use crate::error::CoreError;

/// All lists.
pub const LISTS: [&List; 3] = [&scene::local::LOCALS, &tone::settings::BATHS, &surface::settings::SHEETS];

/// The list with a path.
pub fn list(path: &str) -> Option<&'static List> {
    LISTS.into_iter().find(|list| list.path == path)
}

/// The list to which an item, or a member of one, belongs by its id.
pub fn list_of(id: &str) -> Option<&'static List> {
    LISTS.into_iter().find(|list| list.key_of(id).is_some())
}

/// The control of an item's member.
fn member(id: &str) -> Option<&'static Control> {
    LISTS.iter().find_map(|list| list.item(id))
}

/// Every control that stands once, station by station. Members of lists are found by [`find`].
pub fn all() -> impl Iterator<Item = &'static Control> {
    scene::settings::CONTROLS
        .iter()
        .chain(&lens::settings::CONTROLS)
        .chain(&film::settings::CONTROLS)
        .chain(&bath::settings::CONTROLS)
        .chain(print::settings::CONTROLS.iter())
        .chain(&tone::settings::CONTROLS)
        .chain(&years::settings::CONTROLS)
        .chain(&surface::settings::CONTROLS)
        .chain(&surface::mount::CONTROLS)
}

/// The columns of a station on the bench, in order.
pub fn columns(station: Station) -> &'static [Column] {
    match station {
        Station::Scene => &scene::columns::COLUMNS,
        Station::Lens => &lens::columns::COLUMNS,
        Station::Film => &film::columns::COLUMNS,
        Station::Bath => &bath::columns::COLUMNS,
        Station::Print => &print::columns::COLUMNS,
        Station::Tone => &tone::columns::COLUMNS,
        Station::Years => &years::columns::COLUMNS,
        Station::Surface => &surface::columns::COLUMNS,
    }
}

/// The controls of some ids in the order of the bench; members of lists come last.
pub fn in_order(ids: &BTreeSet<&str>) -> impl Iterator<Item = &'static Control> {
    all().filter(|c| ids.contains(c.id)).chain(ids.iter().filter_map(|id| member(id)))
}

/// The control with an id, an item's included.
pub fn find(id: &str) -> Result<&'static Control, CoreError> {
    all().find(|c| c.id == id).or_else(|| member(id)).ok_or_else(|| CoreError::UnknownControl { id: id.into() })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::controls::{Face, Value};
    use crate::stock::Catalogue;

    #[test]
    fn every_control_is_declared_once_and_completely() {
        let mut seen = std::collections::BTreeSet::new();
        for control in all() {
            assert!(seen.insert(control.id), "{} twice", control.id);
            assert!(control.id.starts_with(&format!("{}.", control.station.id())), "{}", control.id);
            assert!(control.help.ends_with('.') && !control.label.is_empty(), "{}", control.id);
            for stock in Catalogue::all() {
                control.check(&control.own_value(stock)).unwrap_or_else(|e| panic!("{}: {e}", stock.id));
            }
        }
    }

    #[test]
    fn every_control_stands_in_a_column_of_its_station() {
        let mut ids = std::collections::BTreeSet::new();
        for station in Station::ALL {
            for column in columns(station) {
                assert!(ids.insert(column.id), "{} twice", column.id);
                assert!(column.id.starts_with(&format!("{}.", station.id())), "{}", column.id);
                let holds = |c: &&Control| c.column.id == column.id;
                assert!(column.face != Face::Controls || all().any(|c| holds(&c)), "{} is empty", column.id);
            }
        }
        for control in all() {
            assert!(columns(control.station).iter().any(|c| c.id == control.column.id), "{}", control.id);
        }
    }

    #[test]
    fn every_column_says_what_it_is_in_the_darkroom() {
        for column in Station::ALL.into_iter().flat_map(columns) {
            assert!(column.darkroom.len() > 20 && column.darkroom.ends_with('.'), "{}", column.id);
        }
    }

    #[test]
    fn ids_that_are_promised() {
        for id in ["scene.exposure", "scene.temperature", "scene.tint", "film.push", "film.grain.granularity"] {
            assert!(find(id).is_ok(), "{id}");
        }
    }

    #[test]
    fn values_are_read_and_refused_with_a_sentence() {
        let exposure = find("scene.exposure").unwrap();
        assert_eq!(exposure.parse("+0.5").unwrap(), Value::Number(0.5));
        assert_eq!(exposure.parse("\u{2212}1 EV").unwrap(), Value::Number(-1.0));
        for (text, part) in [("9", "from -5 to 5 stops"), ("bright", "'bright' is not one"), ("NaN", "is not one")] {
            let error = exposure.parse(text).unwrap_err().to_string();
            assert!(error.contains(part), "{error}");
        }
        assert!(find("film.size").unwrap().parse("110").unwrap_err().to_string().contains("half"));
    }

    #[test]
    fn items_are_found_by_key() {
        let third = find("scene.local.3.exposure").unwrap();
        assert_eq!((third.id, third.full_label().as_str()), ("scene.local.3.exposure", "Local 3: Exposure"));
        assert_eq!(scene::local::LOCALS.key_of("scene.local.3.exposure"), Some(3));
        for wrong in ["scene.local.exposure", "scene.local.0.exposure", "scene.local.100.exposure", "scene.local.3"] {
            assert!(find(wrong).is_err(), "{wrong}");
        }
        for list in LISTS {
            assert!(list.members.iter().all(|m| m.id.starts_with(list.path) && m.help.ends_with('.')), "{}", list.path);
        }
    }

    #[test]
    fn curves_are_written_short() {
        let curve = find("print.curve.master").unwrap();
        let line = curve.own_value(&Catalogue::first());
        assert_eq!(curve.written(&line), "straight");
        assert_eq!(curve.written(&Value::Curve(vec![[0.0, 0.0], [50.0, 60.0], [100.0, 100.0]])), "3 points");
    }

    #[test]
    fn numbers_as_the_trade_writes_them() {
        let write = |id: &str, v: f64| find(id).unwrap().written(&Value::Number(v));
        assert_eq!(write("scene.exposure", -0.5), "\u{2212}0.50 EV");
        assert_eq!(write("scene.exposure", 0.3), "+0.30 EV");
        assert_eq!(write("scene.exposure", -0.001), "0.00 EV");
        assert_eq!(write("scene.temperature", 5500.0), "5500 K");
        assert_eq!(write("film.grain.granularity", 11.0), "11.0");
    }
}
