//! Lamps: what is off is at rest, changes nothing else, and is not forgotten.

mod support;

use std::collections::BTreeSet;

use amber_core::controls::{Rest, Station, Value};
use amber_core::render::{Renderer, Scaled, Watch};
use amber_core::{Catalogue, Development, Source, Stock, stations};
use support::{forgetful, request, spatial};

/// Colours, a dark half, and a lamp of a few pixels.
fn picture() -> Scaled {
    let at = |x: u32, y: u32| {
        let lamp = (x as i32 - 40).pow(2) + (y as i32 - 12).pow(2) < 6;
        let ground = if x < 24 { 0.03 } else { 0.4 };
        [ground + f64::from(lamp as u8), ground * (f64::from(y) / 32.0), ground * 0.6]
    };
    Scaled::full(Source::from_linear_srgb(48, 32, at).into(), "switching")
}

fn rendered(renderer: &Renderer, scaled: &Scaled, stock: &Stock, development: &Development) -> Vec<u8> {
    let scaled = &scaled.for_development(development, stock, &|| false).unwrap();
    renderer.display_8_bit(&request(scaled, stock, development), Watch::NONE).unwrap()
}

fn ids() -> impl Iterator<Item = &'static str> {
    Station::ALL.into_iter().map(Station::id).chain(stations::lamps().map(|lamp| lamp.id))
}

/// The same with every value that a lamp holds written as it is at rest.
fn at_rest(development: &Development, stock: &Stock, off: &str) -> Development {
    let mut switched = development.clone();
    switched.switch(off, false).unwrap();
    let in_force = switched.values(stock);
    let mut written = development.clone();
    written.values.retain(|id, _| {
        stations::LISTS.iter().all(|list| !(list.key_of(id).is_some() && in_force.is_off(stations::find(id).unwrap())))
    });
    for control in stations::all().filter(|c| in_force.is_off(c)) {
        match control.rest {
            Rest::Own => drop(written.values.remove(control.id)),
            _ => drop(written.values.insert(control.id.into(), control.at_rest(stock))),
        }
    }
    written
}

#[test]
fn what_is_off_is_rendered_as_though_it_were_at_rest() {
    let (scaled, renderer) = (picture(), forgetful());
    for stock in ["plover", "juniper", "tern", "gum"].map(|id| Catalogue::find(id).unwrap()) {
        let all = spatial(&stock);
        let whole = rendered(&renderer, &scaled, &stock, &all);
        for id in ids() {
            let mut off = all.clone();
            off.switch(id, false).unwrap();
            let without = rendered(&renderer, &scaled, &stock, &off);
            let written = rendered(&renderer, &scaled, &stock, &at_rest(&all, &stock, id));
            assert!(without == written, "{}: {id} off is not {id} at rest", stock.id);
            off.switch(id, true).unwrap();
            assert_eq!(off, all, "{id}: on again, nothing is lost");
        }
        assert_eq!(rendered(&renderer, &scaled, &stock, &all), whole);
    }
}

/// On a colour negative with everything on, each of these is seen to go.
#[test]
fn every_effect_goes_with_its_lamp() {
    let (scaled, renderer, stock) = (picture(), forgetful(), Catalogue::first());
    let all = spatial(&stock);
    let whole = rendered(&renderer, &scaled, &stock, &all);
    let seen = |id: &&str| {
        let mut off = all.clone();
        off.switch(id, false).unwrap();
        rendered(&renderer, &scaled, &stock, &off) == whole
    };
    // what is not tuned there, or does not act on this stock, has nothing to lose
    let unseen: BTreeSet<&str> = ids().filter(seen).collect();
    let idle = BTreeSet::from([
        "lens.veil",
        "print.acutance",
        "print.band",
        "print.curve",
        "scene.band",
        "scene.curve",
        "scene.white",
        "surface",
        "surface.mount",
        "tone.bath",
        "tone.coating",
        "years.loss",
        "years.mirroring",
    ]);
    assert_eq!(unseen, idle);
}

#[test]
fn a_lamp_is_declared_once_and_holds_controls_of_its_station() {
    let mut seen = BTreeSet::new();
    for station in Station::ALL {
        for lamp in stations::columns(station).iter().flat_map(|column| column.lamps) {
            assert!(seen.insert(lamp.id) && Station::from_id(lamp.id).is_none(), "{}", lamp.id);
            let members = stations::LISTS.into_iter().flat_map(|list| list.members);
            let held: Vec<_> = stations::all().chain(members).filter(|c| lamp.holds(c.id)).collect();
            assert!(!held.is_empty() && held.iter().all(|c| c.station == station), "{}", lamp.id);
            for path in lamp.holds {
                assert!(held.iter().any(|c| c.id.starts_with(path)), "{}: {path} holds nothing", lamp.id);
            }
        }
    }
}

/// Switching a station off leaves the picture where it is: format, crop and the film's size stay.
#[test]
fn the_frame_stays_where_it_is() {
    let stock = Catalogue::first();
    let stays: Vec<_> = stations::all().filter(|c| c.rest == Rest::Stays).map(|c| c.id).collect();
    let framing =
        ["lens.format", "lens.crop.size", "lens.crop.x", "lens.crop.y", "lens.turn", "lens.mirror", "film.size"];
    assert!(framing.iter().all(|id| stays.contains(id)), "{stays:?}");
    let mut development = Development::new(&stock);
    development.set(&stock, "lens.crop.size", Value::Number(50.0)).unwrap();
    development.set(&stock, "lens.falloff.stops", Value::Number(-2.0)).unwrap();
    development.switch("lens", false).unwrap();
    let values = development.values(&stock);
    let number = |id: &str| values.number(stations::find(id).unwrap());
    assert_eq!((number("lens.crop.size"), number("lens.falloff.stops")), (50.0, 0.0));
}

#[test]
fn what_cannot_be_switched_is_refused_and_what_is_gone_is_forgotten() {
    let stock = Catalogue::find("juniper").unwrap();
    let mut development = Development::new(&stock);
    let error = development.clone().switch("film.push", false).unwrap_err().to_string();
    assert!(error.contains("'film.push' can be switched off"), "{error}");
    let text = r#"{"version":1,"stock":{"id":"juniper"},"off":["tone.bath.2","grain"]}"#;
    assert!(Development::from_json(text).unwrap_err().to_string().contains("'grain'"));

    development.set(&stock, "tone.bath.2.toner", Value::Choice("sepia".into())).unwrap();
    for id in ["tone.bath.2", "film.grain", "scene"] {
        development.switch(id, false).unwrap();
    }
    let read = Development::from_json(&development.to_json()).unwrap();
    assert_eq!(read, development);
    assert_eq!(stations::lamp_label("tone.bath.2"), "Bath 2");
    development.return_to_stock("tone.bath.2.toner").unwrap();
    development.keep_sparse(&stock);
    assert!(!development.off.contains("tone.bath.2") && development.off.contains("film.grain"));
    development.change_stock(&Catalogue::first());
    assert_eq!(development.off, BTreeSet::from(["scene".to_owned()]), "the light before the film is the picture's");
}
