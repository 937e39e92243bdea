//! `amber-grain stocks` and `amber-grain controls`.

use amber_core::Catalogue;
use amber_core::colour::blend::{BLENDS, Blend};
use amber_core::controls::{Choices, Control, Kind, Own, Value};
use amber_core::stations;
use amber_core::stations::LISTS;
use amber_core::stations::surface::catalogue::{KINDS, Kind as SheetKind, Ruler};
use serde_json::{Value as Json, json};

use crate::output;
use crate::sentence;

pub fn stocks(as_json: bool) -> Result<(), String> {
    if as_json {
        let list: Vec<Json> = Catalogue::all()
            .iter()
            .map(|s| {
                json!({
                    "id": s.id, "name": s.name(), "kind": s.kind.words(), "family": s.family, "iso": s.iso,
                    "granularity": s.grain.granularity, "hash": s.content_hash(),
                })
            })
            .collect();
        return print(&list);
    }
    let line = |s: &std::sync::Arc<amber_core::Stock>| {
        format!("{:<12} ISO {:<5} {:<26} granularity {}", s.id, s.iso, s.kind.words(), s.grain.granularity)
    };
    output::print(&Catalogue::all().iter().map(line).collect::<Vec<_>>().join("\n"))
}

pub fn controls(as_json: bool) -> Result<(), String> {
    if as_json {
        return print(&listed().iter().map(described).collect::<Vec<_>>());
    }
    let lines = |c: &Control| {
        let unit = if c.unit.words().is_empty() { String::new() } else { format!(" {}", c.unit.words()) };
        format!("{:<24} {}, {}{unit}, own value {}\n{:26}{}", c.id, c.label, c.takes(), own(c), "", c.help)
    };
    output::print(&listed().iter().map(lines).collect::<Vec<_>>().join("\n"))
}

/// The kinds of sheets that are made here.
pub fn sheets(as_json: bool) -> Result<(), String> {
    let named = |blend: Blend| BLENDS.iter().find(|(b, ..)| *b == blend).map_or("", |(_, id, _)| id);
    if as_json {
        let list: Vec<Json> = KINDS
            .iter()
            .map(|kind| {
                json!({
                    "id": kind.id, "label": kind.label, "family": kind.family.id(), "place": kind.place.id(),
                    "blend": named(kind.blend), "avoids": kind.avoids, "help": kind.help,
                    "measured_on": match kind.ruler { Ruler::Film => "film", Ruler::Print => "print" },
                    "parameters": { "amount": kind.amount, "size": "the size of its marks" },
                })
            })
            .collect();
        return print(&list);
    }
    let line = |kind: &SheetKind| {
        format!("{:<14} {:<20} {:<10} {}; amount: {}", kind.id, kind.label, kind.place.id(), kind.help, kind.amount)
    };
    output::print(&KINDS.iter().map(line).collect::<Vec<_>>().join("\n"))
}

/// The JSON Schema of development documents.
pub fn schema() -> Result<(), String> {
    let schema = amber_core::schema::development_schema();
    output::print(&serde_json::to_string_pretty(&schema).map_err(|e| sentence::of(&e))?)
}

/// `docs/controls.md`: every control by station and group.
pub fn table_of_controls() -> Result<(), String> {
    let mut page = String::from(
        "# Every control\n\nMade by `amber-grain controls --markdown`. Ids are those of development documents and \
            of `--set`; N is the \
         number of an item of a list, 1 to 99 (of sheets 1 to 40).\n",
    );
    let all = listed();
    for station in amber_core::Station::ALL {
        let own: Vec<&Control> = all.iter().filter(|c| c.station == station).collect();
        if own.is_empty() {
            continue;
        }
        page += &format!("\n## {}\n", station.name());
        for control in own {
            let unit = if control.unit.words().is_empty() { "" } else { " " };
            page += &format!(
                "\n`{}`\n: {}: {}{unit}{}; own value {}.\n  {}\n",
                control.id,
                control.full_label(),
                control.takes(),
                control.unit.words(),
                self::own(control),
                control.help,
            );
        }
    }
    output::print(page.trim_end())
}

/// Every control; the members of lists stand with N for the key of an item.
fn listed() -> Vec<Control> {
    let members = LISTS.into_iter().flat_map(|list| {
        let named =
            |m: &Control| Control { id: String::leak(format!("{}.N{}", list.path, &m.id[list.path.len()..])), ..*m };
        list.members.iter().map(named)
    });
    stations::all().copied().chain(members).collect()
}

fn print(list: &[Json]) -> Result<(), String> {
    output::print(&serde_json::to_string_pretty(list).map_err(|e| sentence::of(&e))?)
}

/// The own value where it does not depend on the stock, else "the stock's".
fn own(control: &Control) -> String {
    match control.own {
        Own::Neutral(v) => v.to_string(),
        Own::Switch(on) => Value::Switch(on).to_string(),
        Own::Line => "a straight line".into(),
        Own::Colour(_) => "the stock's or the control's colour".into(),
        Own::Everywhere => "the whole picture".into(),
        Own::Stock(_) | Own::StockChoice(_) => "the stock's".into(),
    }
}

fn described(c: &Control) -> Json {
    let first = Catalogue::first();
    let default = json!(c.own_value(&first));
    let mut object = json!({
        "id": c.id,
        "label": c.label,
        "station": c.station.id(),
        "group": c.column.label,
        "unit": c.unit.words(),
        "default": default,
        "default_from": match c.own { Own::Stock(_) | Own::StockChoice(_) => "stock", _ => "control" },
        "picture_specific": c.picture_specific,
        "help": c.help,
    });
    match c.kind {
        Kind::Scalar { low, high, step, .. } => {
            object["kind"] = json!("scalar");
            object["range"] = json!([low, high]);
            object["step"] = json!(step);
        }
        Kind::Choice(list) => {
            object["kind"] = json!("choice");
            object["range"] = json!(list.iter().map(|o| o.id).collect::<Vec<_>>());
            object["step"] = Json::Null;
        }
        Kind::ChoiceOrPicture(list) => {
            object["kind"] = json!("sheet");
            object["range"] = json!(list.iter().map(|o| o.id).collect::<Vec<_>>());
            object["step"] = Json::Null;
        }
        Kind::Switch => {
            object["kind"] = json!("switch");
            object["range"] = json!([false, true]);
            object["step"] = Json::Null;
        }
        Kind::Colour => {
            object["kind"] = json!("colour");
            object["range"] = json!("#000000 to #ffffff");
            object["step"] = Json::Null;
        }
        Kind::Mask => {
            object["kind"] = json!("mask");
            object["range"] = json!("");
            object["step"] = Json::Null;
        }
        Kind::Curve => {
            object["kind"] = json!("curve");
            object["range"] = json!([[0.0, 0.0], [100.0, 100.0]]);
            object["step"] = Json::Null;
        }
    }
    object
}
