//! The bench: the open station, or all that was changed, or the masks.

use actix_web::{HttpResponse, route, web};
use amber_core::Station;
use amber_core::stations::tone::recipes::{RECIPES, Recipe};
use amber_lab::Lab;
use amber_library::Frame;
use askama::Template;
use serde::Deserialize;

use super::changes::{ChangesView, kept_in_a_stock};
use super::columns::{BathView, Group, baths, columns};
use super::log::LogView;
use super::masks::{Chosen, MasksView};
use super::sheets::SheetsOnBench;
use crate::error::WebError;
use crate::{Shared, blocking};

/// What the address asks for.
#[derive(Deserialize)]
pub struct Open {
    #[serde(default)]
    pub station: String,
    #[serde(default = "first_page")]
    pub page: usize,
}

fn first_page() -> usize {
    1
}

impl Open {
    /// What was asked for, if it is built; Film otherwise.
    pub fn on_bench(&self) -> OnBench {
        OnBench::named(&self.station, self.page)
    }
}

/// The stock in force, as the bench's first column shows it.
pub struct StockView {
    pub name: String,
    pub kind: &'static str,
    pub speed: String,
    pub notes: String,
    /// Values that could be kept in a stock of one's own.
    pub tuned: usize,
}

/// One of a station's pages.
pub struct PageView {
    pub number: usize,
    pub open: bool,
}

/// The open station's controls.
#[derive(Template)]
#[template(path = "partials/station.html")]
pub struct BenchView {
    frame: i64,
    station: String,
    name: &'static str,
    stock: Option<StockView>,
    groups: Vec<Group>,
    baths: Vec<BathView>,
    tones: &'static [Recipe],
    page: usize,
    pages: Vec<PageView>,
    sheets: SheetsOnBench,
    swapped: bool,
}

impl BenchView {
    /// `sheet` is the one whose controls are wanted, on the bench of Surface.
    pub fn new(lab: &Lab, frame: &Frame, (station, page): (Station, usize), sheet: Option<u32>, swapped: bool) -> Self {
        let sheets = match station {
            Station::Surface => SheetsOnBench::new(lab, frame, sheet),
            _ => SheetsOnBench { rows: Vec::new(), chosen: None },
        };
        let chosen = sheets.chosen.as_ref().map(|sheet| sheet.key);
        let (mut groups, pages) = columns(frame, station, page, chosen);
        let page = if groups.is_empty() { 1 } else { page };
        if groups.is_empty() {
            groups = columns(frame, station, 1, chosen).0;
        }
        let stock = &frame.stock;
        let stock = (station == Station::Film && page == 1).then(|| StockView {
            name: stock.name(),
            kind: stock.kind.words(),
            speed: format!("ISO {}", stock.iso),
            notes: stock.notes.clone().unwrap_or_default(),
            tuned: kept_in_a_stock(frame),
        });
        let pages = (1..=pages).map(|number| PageView { number, open: number == page }).collect();
        Self {
            frame: frame.summary.id,
            station: match chosen {
                Some(key) => format!("{}:{key}", station.id()),
                None => station.id().into(),
            },
            name: station.name(),
            stock,
            groups,
            tones: &RECIPES,
            baths: if station == Station::Tone { baths(frame) } else { Vec::new() },
            page,
            pages,
            sheets,
            swapped,
        }
    }
}

/// What lies on the bench: a station's page, or all that was changed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum OnBench {
    Page(Station, usize),
    Sheet(u32),
    Changes,
    Masks(Chosen),
    /// The log: its newest steps, or those before one.
    Log(Option<i64>),
}

impl OnBench {
    pub fn named(station: &str, page: usize) -> Self {
        if let Some(chosen) = Chosen::named(station) {
            return Self::Masks(chosen);
        }
        if let Some(key) = station.strip_prefix("surface:").and_then(|key| key.parse().ok()).filter(|_| page < 2) {
            return Self::Sheet(key);
        }
        if let Some(before) = station.strip_prefix("log") {
            return Self::Log(before.trim_start_matches(':').parse().ok());
        }
        let station = station.split(':').next().unwrap_or_default();
        match Station::from_id(station) {
            _ if station == "changes" => Self::Changes,
            Some(station) => Self::Page(station, page),
            None => Self::Page(Station::Film, 1),
        }
    }

    /// The station that stands open on the line.
    pub fn station(&self) -> Option<Station> {
        match self {
            Self::Page(station, _) => Some(*station),
            Self::Sheet(_) => Some(Station::Surface),
            Self::Changes | Self::Masks(_) | Self::Log(_) => None,
        }
    }

    pub fn render(&self, lab: &Lab, frame: &Frame, swapped: bool) -> Result<String, WebError> {
        Ok(match self {
            Self::Page(station, page) => BenchView::new(lab, frame, (*station, *page), None, swapped).render()?,
            Self::Sheet(key) => BenchView::new(lab, frame, (Station::Surface, 1), Some(*key), swapped).render()?,
            Self::Masks(chosen) => MasksView::new(frame, chosen, swapped).render()?,
            Self::Log(before) => LogView::new(lab, frame, *before, swapped)?.render()?,
            Self::Changes => ChangesView::new(frame, swapped).render()?,
        })
    }
}

/// Opens a station, or all that was changed: the bench anew. The line stays: nothing on it is another.
#[route("/frames/{id}/bench", method = "GET", method = "HEAD")]
pub async fn open_station(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<Open>,
) -> Result<HttpResponse, WebError> {
    let (id, on_bench) = (id.into_inner(), asked.on_bench());
    let bench = blocking(&shared, move |lab| on_bench.render(lab, &lab.library.frame(id)?, true)).await?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(bench))
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_core::Catalogue;
    use amber_core::controls::Value;
    use amber_library::{Change, Library, NewFrame};

    /// A lab with a frame on a stock, with values.
    fn with_frame(stock: &str, values: &[(&str, Value)]) -> (Lab, Frame, tempfile::TempDir) {
        let folder = tempfile::tempdir().unwrap();
        let lab = Lab::new(Library::open(folder.path()).unwrap(), amber_files::Limits::default(), Some(1)).unwrap();
        let library = &lab.library;
        let roll = library.add_roll("Tour", 0).unwrap();
        let stock = Catalogue::find(stock).unwrap();
        let new = NewFrame {
            name: "Quay".into(),
            format: "JPEG".into(),
            width: 60,
            height: 40,
            taken: None,
            development: None,
        };
        let id = library.add_frame(roll, b"bytes", new, &stock).unwrap();
        let mut development = library.frame(id).unwrap().summary.development;
        for (control, value) in values {
            development.set(&stock, control, value.clone()).unwrap();
        }
        let frame = library.commit(id, Change { revision: 0, label: "tuned".into(), development }, &stock).unwrap();
        (lab, frame, folder)
    }

    /// The bench has room for five columns of a head and five rows; tabs share a place.
    #[test]
    fn every_page_fits_the_bench() {
        for stock in Catalogue::all() {
            let sheet = ("surface.sheet.3.kind", Value::Choice("crumple".into()));
            let (_, frame, _folder) = with_frame(&stock.id, &[sheet]);
            for station in Station::ALL {
                for page in 1..=2 {
                    let (groups, _) = columns(&frame, station, page, Some(3));
                    let stock_column = usize::from(station == Station::Film && page == 1);
                    let wide = groups.iter().filter(|g| g.wide).count();
                    assert!(groups.len() + wide + stock_column <= 5, "{} {} {page}", stock.id, station.name());
                    for tab in groups.iter().filter(|g| g.face != "zones").flat_map(|g| &g.tabs) {
                        assert!(tab.controls.len() <= 5, "{} {}", stock.id, tab.name);
                    }
                }
            }
        }
    }

    #[test]
    fn a_page_that_is_not_there_is_the_first() {
        let (lab, frame, _folder) = with_frame("plover", &[]);
        let bath = OnBench::named("bath", 2).render(&lab, &frame, false).unwrap();
        assert!(bath.contains("bath.time"));
        assert_eq!(OnBench::named("attic", 1), OnBench::Page(Station::Film, 1));
        assert_eq!(OnBench::named("changes", 1).station(), None);
    }

    /// The sheet that is asked for lies on the bench, and the highest where that is not there; what does not act is not
    /// offered.
    #[test]
    fn the_chosen_sheet_lies_on_the_bench() {
        let choice = |id: &str| Value::Choice(id.into());
        let values = [("surface.sheet.2.kind", choice("dust")), ("surface.sheet.7.kind", choice("canvas"))];
        let (lab, frame, _folder) = with_frame("plover", &values);
        let shown = |named: &str| OnBench::named(named, 1).render(&lab, &frame, false).unwrap();
        assert_eq!(OnBench::named("surface:2", 1), OnBench::Sheet(2));
        assert_eq!(OnBench::named("surface:2", 2), OnBench::Page(Station::Surface, 2));
        let dust = shown("surface:2");
        assert!(dust.contains("data-station=\"surface:2\"") && dust.contains("surface.sheet.2.amount"));
        assert!(!dust.contains("surface.sheet.2.blend") && !dust.contains("surface.sheet.2.fit"));
        let highest = shown("surface");
        assert!(highest.contains("data-station=\"surface:7\"") && highest.contains("surface.sheet.7.blend"));
        assert_eq!(highest.matches("data-sheet-pick").count(), 2);
        assert!(shown("surface:31").contains("data-station=\"surface:7\""));
    }

    #[test]
    fn what_was_changed_hangs_under_its_station() {
        let values = [
            ("scene.exposure", Value::Number(0.5)),
            ("film.curve.green.contrast", Value::Number(0.9)),
            ("print.band.blue.saturation", Value::Number(20.0)),
        ];
        let (_, frame, _folder) = with_frame("plover", &values);
        let view = ChangesView::new(&frame, false);
        let labels = |number: usize| -> Vec<&str> {
            view.stations[number - 1].controls.iter().map(|c| c.label.as_str()).collect()
        };
        assert_eq!(labels(1), ["Exposure"]);
        assert_eq!(labels(3), ["Green: Contrast"]);
        assert_eq!(labels(5), ["Blue: Saturation"]);
        assert_eq!((view.tuned, view.keepable), (3, 2), "exposure is the picture's");
        let html = view.render().unwrap();
        assert_eq!(html.matches("data-return=").count(), 3);
        assert!(html.contains("3 tuned away from Plover"));
    }

    #[test]
    fn every_kind_of_control_has_its_form() {
        let (lab, frame, _folder) = with_frame("tern", &[("print.filter.keep", Value::Switch(true))]);
        let one = OnBench::named("print", 1).render(&lab, &frame, false).unwrap();
        let one = one.split_whitespace().collect::<Vec<_>>().join(" ");
        for part in [
            "data-list=\"print.paper\"",
            "data-choice=\"print.view\"",
            "data-switch=\"print.filter.keep\"",
            "role=\"slider\"",
        ] {
            assert!(one.contains(part), "{part}");
        }
        assert!(one.contains("data-own=\"off\" checked"), "a tuned switch");
        let two = OnBench::named("print", 2).render(&lab, &frame, false).unwrap();
        assert!(two.contains("data-curve=\"print.curve.master\"") && two.contains("data-tab=\"Magenta\""));
        assert!(two.matches("data-tabpage").count() >= 12);
    }
}
