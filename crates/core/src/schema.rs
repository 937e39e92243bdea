//! The JSON Schemas of development documents and of presets: every control with its kind, range, unit and help.

use serde_json::{Map, Value as Json, json};

use crate::controls::{Control, Kind, MOST_POINTS, Station};
use crate::development::Development;
use crate::preset::Bundle;
use crate::stations;

/// Keys of a list's items: 1 to 99.
const KEY: &str = "[1-9][0-9]?";

/// The schema, as JSON.
pub fn development_schema() -> Json {
    let mut schema = schemars::schema_for!(Development).to_value();
    name_values(&mut schema["properties"]["values"]);
    schema["properties"]["off"]["items"] = of_lamps();
    schema
}

/// The JSON Schema of a preset file: one preset, or a bundle of them.
pub fn preset_schema() -> Json {
    let mut schema = schemars::schema_for!(Bundle).to_value();
    let preset = &mut schema["$defs"]["Preset"];
    name_values(&mut preset["properties"]["values"]);
    preset["properties"]["lists"]["items"] = json!({ "enum": stations::LISTS.map(|list| list.path) });
    preset["properties"]["lamps"]["propertyNames"] = of_lamps();
    let bundle = json!({
        "type": "object",
        "description": "Several presets in one file.",
        "properties": schema["properties"],
        "required": schema["required"],
        "additionalProperties": false,
    });
    json!({
        "$schema": schema["$schema"],
        "title": "Preset file",
        "anyOf": [{ "$ref": "#/$defs/Preset" }, bundle],
        "$defs": schema["$defs"],
    })
}

/// Names every control among the values of a document.
fn name_values(values: &mut Json) {
    values["properties"] = Json::Object(stations::all().map(|c| (c.id.to_owned(), of_control(c))).collect());
    values["patternProperties"] = Json::Object(of_lists());
    values["additionalProperties"] = json!(false);
}

/// What can be switched off.
fn of_lamps() -> Json {
    let stations = Station::ALL.into_iter().map(Station::id);
    let ids: Vec<&str> = stations.chain(stations::lamps().map(|lamp| lamp.id)).collect();
    let items = stations::LISTS.into_iter().map(|list| format!("^{}\\.{KEY}$", list.path.replace('.', "\\.")));
    let items = items.map(|pattern| json!({ "type": "string", "pattern": pattern }));
    json!({ "anyOf": std::iter::once(json!({ "enum": ids })).chain(items).collect::<Vec<_>>() })
}

fn of_lists() -> Map<String, Json> {
    let escaped = |text: &str| text.replace('.', "\\.");
    let members = stations::LISTS.into_iter().flat_map(|list| {
        list.members.iter().map(move |member| {
            let name = escaped(&member.id[list.path.len()..]);
            (format!("^{}\\.{KEY}{name}$", escaped(list.path)), of_control(member))
        })
    });
    members.collect()
}

/// What a control takes.
fn of_control(control: &Control) -> Json {
    let mut out = match control.kind {
        Kind::Scalar { low, high, .. } => json!({ "type": "number", "minimum": low, "maximum": high }),
        Kind::Choice(list) => json!({ "enum": list.iter().map(|choice| choice.id).collect::<Vec<_>>() }),
        Kind::Switch => json!({ "type": "boolean" }),
        Kind::Colour => json!({ "type": "string", "pattern": "^#[0-9a-fA-F]{6}$" }),
        Kind::ChoiceOrPicture(list) => json!({ "anyOf": [
            { "enum": list.iter().map(|choice| choice.id).collect::<Vec<_>>() },
            { "type": "string", "pattern": "^own:[0-9a-f]{64}$" },
        ] }),
        Kind::Mask => json!({ "type": "string", "pattern": "^((not )?[a-z0-9-]{1,24})?$" }),
        Kind::Curve => {
            let percent = json!({ "type": "number", "minimum": 0, "maximum": 100 });
            let point = json!({ "type": "array", "items": percent, "minItems": 2, "maxItems": 2 });
            json!({ "type": "array", "items": point, "minItems": 2, "maxItems": MOST_POINTS })
        }
    };
    out["title"] = json!(control.full_label());
    let unit = control.unit.words();
    let told = if unit.is_empty() { String::new() } else { format!(" In {unit}.") };
    out["description"] = json!(format!("{}{told}", control.help));
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn presets_name_every_control_too() {
        let schema = preset_schema();
        let preset = &schema["$defs"]["Preset"]["properties"];
        assert_eq!(preset["values"]["properties"], development_schema()["properties"]["values"]["properties"]);
        assert!(preset["lists"]["items"].to_string().contains("tone.bath"));
        assert!(preset["lamps"]["propertyNames"].to_string().contains("film.halation"));
        assert!(schema["anyOf"][1]["properties"]["presets"].is_object());
    }

    #[test]
    fn every_control_is_named() {
        let schema = development_schema();
        let values = &schema["properties"]["values"];
        assert_eq!(values["properties"].as_object().map(Map::len), Some(stations::all().count()));
        assert_eq!(values["properties"]["film.push"]["maximum"], json!(2.0));
        let lamps = schema["properties"]["off"]["items"].to_string();
        assert!(lamps.contains("\"film.halation\"") && lamps.contains("\"years\"") && lamps.contains("tone"));
        let members: usize = stations::LISTS.iter().map(|list| list.members.len()).sum();
        assert_eq!(values["patternProperties"].as_object().map(Map::len), Some(members));
        assert!(values["patternProperties"]["^scene\\.local\\.[1-9][0-9]?\\.exposure$"]["description"].is_string());
    }
}
