//! The stock board: every stock on this very picture.

use std::sync::Arc;

use actix_web::{HttpResponse, route, web};
use amber_core::stations::film::FilmResponse;
use amber_core::{Catalogue, Stock};
use amber_lab::{Lab, stock_version};
use amber_library::FrameSummary;
use askama::Template;

use super::board::{ShelfView, TileView, put};
use super::html;
use crate::draw::signature;
use crate::error::WebError;
use crate::fragments::bar::PlateView;
use crate::{Shared, blocking};

/// Families in the order of the board: those that share a row stand together.
const ORDER: [&str; 9] = [
    "Pinned",
    "Mine",
    "Colour negative",
    "Black and white",
    "Slide",
    "Historic colour",
    "Motion picture",
    "Instant and toy",
    "Historic processes",
];

#[derive(Template)]
#[template(path = "pages/stocks.html")]
struct BoardPage {
    version: &'static str,
    frame: i64,
    frame_name: String,
    roll: i64,
    roll_name: String,
    upright: bool,
    /// Names the picture as it came.
    content: String,
    revision: i64,
    plate: String,
    shelves: Vec<ShelfView>,
    total: usize,
    chosen: String,
}

/// What a family of built-in stocks is, in the trade's words.
fn family_words(family: &str) -> &str {
    match family {
        "birds" => "Colour negative",
        "minerals" => "Slide",
        "winds" => "Motion picture",
        "trees" => "Black and white",
        "shells" => "Instant and toy",
        "lichens" => "Historic colour",
        "processes" => "Historic processes",
        other => other,
    }
}

fn tile(stock: &Stock, frame: &FrameSummary, pinned: &[String]) -> TileView {
    let notes = stock.notes.as_deref().unwrap_or_default();
    let words = [&stock.name(), stock.kind.words(), family_words(&stock.family), notes, &stock.id].join(" ");
    TileView {
        id: stock.id.clone(),
        name: stock.name(),
        note: stock.kind.words().into(),
        figure: format!("ISO {}", stock.iso),
        chosen: stock.id == frame.development.stock.id,
        version: stock_version(frame, stock),
        pinned: pinned.contains(&stock.id),
        words: words.to_lowercase(),
    }
}

/// Pinned ones first, then one's own, then the families in their order.
fn families(own: &[Arc<Stock>], pinned: &[String], frame: &FrameSummary) -> Vec<ShelfView> {
    let mut families: Vec<ShelfView> = Vec::new();
    let mut add = |name: &str, stock: &Stock| put(&mut families, name, tile(stock, frame, pinned));
    let everything = || own.iter().chain(Catalogue::all());
    for id in pinned {
        if let Some(stock) = everything().find(|s| s.id == *id) {
            add("Pinned", stock);
        }
    }
    let others = |stock: &&Arc<Stock>| !pinned.contains(&stock.id);
    own.iter().filter(others).for_each(|stock| add("Mine", stock));
    Catalogue::all().iter().filter(others).for_each(|stock| add(family_words(&stock.family), stock));
    families.sort_by_key(|f| ORDER.iter().position(|name| *name == f.name).unwrap_or(ORDER.len()));
    families
}

impl BoardPage {
    const THING: &str = "stock";
    const THINGS: &str = "stocks";
    const TRY: &str = "Try a family, a name or a speed.";
}

#[route("/frames/{id}/stocks", method = "GET", method = "HEAD")]
pub async fn show(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    let page = blocking(&shared, move |lab| page(lab, id)).await?;
    html(&page)
}

fn page(lab: &Arc<Lab>, id: i64) -> Result<BoardPage, WebError> {
    let frame = lab.library.frame(id)?;
    let roll = lab.library.roll(frame.summary.roll)?;
    let own = lab.library.own_stocks()?;
    let pinned = lab.library.pinned_stocks()?;
    let shelves = families(&own, &pinned, &frame.summary);
    Ok(BoardPage {
        version: crate::assets::version(),
        frame: id,
        frame_name: frame.summary.name.clone(),
        roll: roll.id,
        roll_name: roll.name,
        upright: frame.summary.height > frame.summary.width,
        content: frame.summary.content.clone(),
        revision: frame.summary.revision,
        plate: PlateView::new(&frame, false).render()?,
        total: shelves.iter().map(|f| f.tiles.len()).sum(),
        chosen: frame.stock.id.clone(),
        shelves,
    })
}

/// A fact about a stock.
pub struct Fact {
    pub name: &'static str,
    pub value: String,
}

/// The close look at one stock.
#[derive(Template)]
#[template(path = "partials/close_look.html")]
struct CloseLook {
    frame: i64,
    version: String,
    id: String,
    name: String,
    family: String,
    kind: &'static str,
    notes: String,
    pinned: bool,
    chosen: bool,
    own: bool,
    tuned: usize,
    curves: String,
    facts: Vec<Fact>,
}

#[route("/frames/{id}/stocks/{stock}/close", method = "GET", method = "HEAD")]
pub async fn close_look(shared: web::Data<Shared>, path: web::Path<(i64, String)>) -> Result<HttpResponse, WebError> {
    let (id, stock) = path.into_inner();
    let look = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let stock = if stock == frame.stock.id { frame.stock.clone() } else { lab.library.find_stock(&stock)? };
        Ok(CloseLook {
            frame: id,
            version: stock_version(&frame.summary, &stock),
            name: stock.name(),
            family: stock.family.clone(),
            kind: stock.kind.words(),
            notes: stock.notes.clone().unwrap_or_default(),
            pinned: lab.library.pinned_stocks()?.contains(&stock.id),
            chosen: stock.id == frame.stock.id,
            own: Catalogue::find(&stock.id).is_err() && lab.library.find_stock(&stock.id).is_ok(),
            tuned: frame.summary.development.values.len(),
            curves: signature::curves(&stock, 364.0, 84.0),
            facts: facts(&stock),
            id: stock.id.clone(),
        })
    })
    .await?;
    html(&look)
}

fn facts(stock: &Stock) -> Vec<Fact> {
    let film = FilmResponse::own(stock);
    let slopes: Vec<String> = film.curves.iter().map(|c| format!("{:.2}", c.greatest_slope())).collect();
    let gate = stock.gate();
    let strength = stock.halation.strength[0];
    let halation = match strength {
        s if s >= 0.15 => "strong, no backing layer",
        s if s >= 0.05 => "visible around lamps",
        s if s > 0.0 => "slight",
        _ => "none",
    };
    let mut facts = vec![
        Fact { name: "Speed", value: format!("ISO {}, for {:.0} K", stock.iso, stock.balance_kelvin) },
        Fact { name: "Contrast", value: slopes.join(", ") },
        Fact {
            name: "Grain",
            value: format!("granularity {}, {:.1} µm", stock.grain.granularity, stock.grain.diameter_um),
        },
        Fact { name: "Halation", value: halation.into() },
        Fact { name: "Gate", value: format!("{} × {} mm", gate.long_mm, gate.short_mm) },
    ];
    if !stock.own.is_empty() {
        facts.push(Fact { name: "Own tuning", value: format!("{} values", stock.own.len()) });
    }
    facts
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pages::board::COLUMNS;
    use amber_core::StockName;

    /// A frame on a stock.
    fn frame(stock: &str) -> FrameSummary {
        let development = amber_core::Development::new(&Catalogue::find(stock).unwrap());
        let (name, content, format) = ("Quay".into(), "0".repeat(64), "JPEG".into());
        let (width, height, exported, trouble) = (60, 40, false, None);
        FrameSummary {
            id: 1,
            roll: 1,
            position: 1,
            name,
            content,
            format,
            width,
            height,
            revision: 0,
            exported,
            mark: amber_library::Mark::None,
            note: String::new(),
            taken: None,
            presets: Vec::new(),
            development,
            trouble,
        }
    }

    fn names(families: &[ShelfView]) -> Vec<&str> {
        families.iter().map(|f| f.name.as_str()).collect()
    }

    #[test]
    fn every_stock_stands_on_the_board_once() {
        let called = StockName { name: "Quay".into(), family: "harbour".into(), notes: String::new() };
        let own = Arc::new(Catalogue::first().renamed("quay", &called).unwrap());
        let pinned = ["garnet".to_string(), "quay".to_string(), "gone".to_string()];
        let families = families(std::slice::from_ref(&own), &pinned, &frame("garnet"));
        let ids: Vec<&str> = families.iter().flat_map(|f| &f.tiles).map(|t| t.id.as_str()).collect();
        let once: std::collections::BTreeSet<_> = ids.iter().collect();
        assert_eq!((ids.len(), once.len()), (35, 35), "a pin to a stock that is gone is passed over");
        assert_eq!(families[0].name, "Pinned");
        assert_eq!(families[0].tiles.iter().map(|t| t.id.as_str()).collect::<Vec<_>>(), ["garnet", "quay"]);
        assert!(families[0].tiles[0].chosen && families[0].tiles.iter().all(|t| t.pinned));
    }

    #[test]
    fn families_that_share_a_row_stand_together() {
        let called = StockName { name: "Quay".into(), family: "harbour".into(), notes: "Hard Light".into() };
        let own = Arc::new(Catalogue::first().renamed("quay", &called).unwrap());
        let families = families(&[own], &[], &frame("plover"));
        let expected = [
            "Mine",
            "Colour negative",
            "Black and white",
            "Slide",
            "Historic colour",
            "Motion picture",
            "Instant and toy",
            "Historic processes",
        ];
        assert_eq!(names(&families), expected);
        let columns = |name: &str| families.iter().find(|f| f.name == name).unwrap().columns;
        assert_eq!(columns("Slide") + columns("Historic colour"), COLUMNS);
        assert_eq!(columns("Motion picture") + columns("Instant and toy"), COLUMNS);
        assert!(families[0].tiles[0].words.contains("hard light"), "notes are found");
    }

    #[test]
    fn facts_are_those_of_the_stock() {
        let fact = |id: &str, name: &str| {
            let stock = Catalogue::find(id).unwrap();
            facts(&stock).into_iter().find(|f| f.name == name).map(|f| f.value)
        };
        assert_eq!(fact("nightjar", "Halation").unwrap(), "visible around lamps");
        assert_eq!(fact("sirocco", "Halation").unwrap(), "strong, no backing layer");
        assert!(fact("wren", "Gate").unwrap().starts_with("17 × 13"));
        assert_eq!(fact("juniper", "Contrast").unwrap().split(", ").count(), 1);
        assert_eq!(fact("plover", "Own tuning"), None);
    }
}
