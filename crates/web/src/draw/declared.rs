//! What core declares, as data for the page's scripts: no script has a range, a rule or a recipe of its own.

use amber_core::controls::list::MOST;
use amber_core::controls::{Choices, Control, Kind, of_masks as masks};
use amber_core::stations::surface::settings::SHEETS;
use amber_core::stations::tone::ramp::MEETING;
use amber_core::stations::tone::recipes::{FIRST, RECIPES};
use amber_core::{Station, Stock, stations};
use serde_json::{Map, Value as Json, json};

/// JSON that may stand inside a script element: only this could end it.
pub fn inside_script(json: &Json) -> String {
    json.to_string().replace('<', "\\u003c")
}

fn range(control: &Control) -> Option<(String, Json)> {
    let Kind::Scalar { low, high, step, decimals, .. } = control.kind else { return None };
    let range = json!({
        "low": low, "high": high, "step": step, "decimals": decimals,
        "unit": control.unit.symbol(), "signed": control.two_sided, "label": control.full_label(),
    });
    Some((control.id.into(), range))
}

/// Ranges of every control that is a number, lists, and the rules that drawings follow.
pub fn declared() -> Json {
    let ranges: Map<String, Json> = stations::all().chain(SHEETS.members).filter_map(range).collect();
    let brush = [&masks::BRUSH_SIZE, &masks::BRUSH_SOFTNESS, &masks::BRUSH_STRENGTH, &masks::ERASE];
    let stock = amber_core::Catalogue::first();
    let recipe = |baths: &[(stations::tone::settings::Toner, f64)]| -> Vec<Json> {
        baths.iter().map(|(toner, time)| json!([toner.id(), time])).collect()
    };
    let tones: Map<String, Json> = RECIPES.iter().map(|r| (r.id.into(), json!(recipe(r.baths)))).collect();
    json!({
        "ranges": ranges,
        "brush": brush.iter().map(|c| (c.id.into(), json!(c.own_value(&stock)))).collect::<Map<_, _>>(),
        "mostItems": MOST,
        "meeting": { "middle": MEETING.0, "way": MEETING.1 },
        "tones": tones,
        "firstBath": recipe(&[FIRST])[0],
        "seenInGrain": stations::all().filter(|c| c.shows_in_grain()).map(|c| c.id).collect::<Vec<_>>(),
        "without": Station::ALL.iter().map(|s| (s.id().into(), json!(s.without()))).collect::<Map<_, _>>(),
        "lamps": stations::lamps().map(|l| (l.id.into(), json!(l.label))).collect::<Map<_, _>>(),
        "stations": Station::ALL.iter().map(|s| s.id()).collect::<Vec<_>>(),
    })
}

/// A stock's own values of the controls that are numbers and act on it.
pub fn own(stock: &Stock) -> Json {
    let numbers = stations::all().filter(|c| matches!(c.kind, Kind::Scalar { .. }) && (c.applies)(stock));
    json!(numbers.map(|c| (c.id.to_owned(), json!(c.own_value(stock)))).collect::<Map<_, _>>())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_page_gets_what_core_declares() {
        let all = declared();
        assert_eq!(all["ranges"]["lens.crop.size"]["low"], 20.0);
        assert_eq!(all["tones"]["crossed"], json!([["sepia", 35.0], ["selenium", 90.0]]));
        assert_eq!(all["meeting"], json!({ "middle": 50.0, "way": 35.0 }));
        assert!(!inside_script(&json!("</script>")).contains('<'));
        assert_eq!(own(&amber_core::Catalogue::first())["lens.crop.size"], 100.0);
    }
}
