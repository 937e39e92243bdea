//! The process line, the bench under it, the stock plate, the readings.

use actix_web::{HttpResponse, get, web};
use amber_core::controls::Control;
use amber_core::stations::tone::{self, settings::BATHS as BATH_LIST};
use amber_core::{CoreError, Development, Station, controls};
use amber_lab::Lab;
use amber_library::Frame;
use askama::Template;

use super::masks::{Chosen, MasksView};
use crate::draw::exposures::ZONE_NAMES;
use crate::draw::{chart, control::ControlView, signature};
use crate::error::WebError;
use crate::pages::bench::Open;
use crate::{Shared, blocking};

/// One station on the line.
pub struct StationView {
    pub number: usize,
    pub id: &'static str,
    pub name: &'static str,
    pub built: bool,
    pub current: bool,
    pub tuned: usize,
    /// SVG drawn from the live values.
    pub signature: String,
}

/// The process line.
#[derive(Template)]
#[template(path = "line.html")]
pub struct LineView {
    frame: i64,
    stations: Vec<StationView>,
    swapped: bool,
}

impl LineView {
    /// `swapped`: to be put in the place of the one that is there.
    pub fn new(frame: &Frame, open: Option<Station>, swapped: bool) -> Result<Self, CoreError> {
        let development = &frame.summary.development;
        let stations = Station::ALL
            .into_iter()
            .map(|station| StationView {
                number: station.number(),
                id: station.id(),
                name: station.name(),
                built: controls::is_built(station),
                current: Some(station) == open,
                tuned: development.tuned_at(station),
                signature: signature::of(station, development, &frame.stock),
            })
            .collect();
        Ok(Self { frame: frame.summary.id, stations, swapped })
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

/// Controls of a column that share their place with others.
pub struct Tab {
    pub name: &'static str,
    pub tuned: bool,
    pub controls: Vec<ControlView>,
}

/// One column of the bench.
pub struct Group {
    pub name: &'static str,
    pub wide: bool,
    /// What it is drawn as: empty for its controls, `zones`, `baths` or `ramp`.
    pub drawn: &'static str,
    /// A tool of the column: `bloom`, `halation`, `grain` (shown alone), `hue`, `band`, `neutral`, `place`, `crop` (on the picture), `meter` or `masks`;
    /// empty for none.
    pub tool: &'static str,
    pub tabs: Vec<Tab>,
}

/// Columns that stand on a station's second page.
const SECOND_PAGE: [&str; 20] = [
    RAMP,
    "Two tones",
    "Four tones",
    "How much",
    "Water",
    "Softness",
    "Falloff",
    "Middle",
    "Bloom",
    "Flash",
    "Scene curve",
    "Colour",
    "Hues of the scene",
    "Halation",
    "Colour of halation",
    "Grain",
    "Grain by tone",
    "Acutance",
    "Print curve",
    "Hues of the print",
];
/// Columns that take the width of two.
const WIDE: [&str; 7] =
    [PLACEMENT, BATHS, RAMP, "Scene curve", "Hues of the scene", "Print curve", "Hues of the print"];
/// The column that is drawn as patches on the exposure axis.
const PLACEMENT: &str = "Zone placement";
/// The sequence of toner baths, and the ramp of the print's tones.
const BATHS: &str = "Baths";
const RAMP: &str = "Tone ramp";

fn page_of(group: &str) -> usize {
    if SECOND_PAGE.contains(&group) { 2 } else { 1 }
}

impl Group {
    fn new(name: &'static str) -> Self {
        let tool = match name {
            "Bloom" => "bloom",
            "Colour of halation" => "halation",
            "Grain by tone" => "grain",
            "Sensitivity, cold hues" => "hue",
            "Hues of the scene" => "band",
            "Balance" => "neutral",
            "Light" => "meter",
            "Middle" => "place",
            "Crop" => "crop",
            "Where" => "masks",
            _ => "",
        };
        let drawn = match name {
            PLACEMENT => "zones",
            BATHS => "baths",
            RAMP => "ramp",
            _ => "",
        };
        Self { name, wide: WIDE.contains(&name), drawn, tool, tabs: Vec::new() }
    }

    fn push(&mut self, control: ControlView) {
        match self.tabs.iter_mut().find(|t| t.name == control.tab) {
            Some(tab) => {
                tab.tuned |= control.tuned;
                tab.controls.push(control);
            }
            None => self.tabs.push(Tab { name: control.tab, tuned: control.tuned, controls: vec![control] }),
        }
    }
}

/// The controls of a station on a stock in columns; those of one page.
fn columns(frame: &Frame, station: Station, page: usize) -> (Vec<Group>, usize) {
    let values = frame.summary.development.values(&frame.stock);
    let mut groups: Vec<Group> = Vec::new();
    let mut pages = 1;
    if station == Station::Tone {
        // not made of controls that stand once
        match page {
            1 if tone::settings::has_silver(&frame.stock) => groups.push(Group::new(BATHS)),
            2 => groups.push(Group::new(RAMP)),
            _ => {}
        }
    }
    for control in controls::all().filter(|c| c.station == station && (c.applies)(&frame.stock)) {
        pages = pages.max(page_of(control.group));
        if page_of(control.group) != page {
            continue;
        }
        let view = ControlView::new(control, &values);
        match groups.iter_mut().find(|g| g.name == control.group) {
            Some(group) => group.push(view),
            None => {
                let mut group = Group::new(control.group);
                group.push(view);
                groups.push(group);
            }
        }
    }
    (groups, pages)
}

/// One bath of the sequence.
pub struct BathView {
    key: u32,
    toner: ControlView,
    numbers: Vec<ControlView>,
}

/// The baths in their sequence.
fn baths(frame: &Frame) -> Vec<BathView> {
    let values = frame.summary.development.values(&frame.stock);
    let view = |key: u32, member: &'static Control| ControlView::new(BATH_LIST.member(key, member), &values);
    tone::settings::bath_keys(&values)
        .into_iter()
        .map(|key| BathView {
            key,
            toner: view(key, &tone::settings::TONER),
            numbers: vec![view(key, &tone::settings::TIME), view(key, &tone::settings::BATH_STRENGTH)],
        })
        .collect()
}

/// One of a station's pages.
pub struct PageView {
    pub number: usize,
    pub open: bool,
}

/// The open station's controls.
#[derive(Template)]
#[template(path = "station.html")]
pub struct BenchView {
    frame: i64,
    station: &'static str,
    name: &'static str,
    stock: Option<StockView>,
    groups: Vec<Group>,
    baths: Vec<BathView>,
    page: usize,
    pages: Vec<PageView>,
    swapped: bool,
}

impl BenchView {
    pub fn new(frame: &Frame, station: Station, page: usize, swapped: bool) -> Self {
        let (mut groups, pages) = columns(frame, station, page);
        let page = if groups.is_empty() { 1 } else { page };
        if groups.is_empty() {
            groups = columns(frame, station, 1).0;
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
            station: station.id(),
            name: station.name(),
            stock,
            groups,
            baths: if station == Station::Tone { baths(frame) } else { Vec::new() },
            page,
            pages,
            swapped,
        }
    }
}

/// Tuned values that are not the one picture's.
fn kept_in_a_stock(frame: &Frame) -> usize {
    let ids = frame.summary.development.values.keys();
    ids.filter(|id| controls::find(id).is_ok_and(|c| !c.picture_specific)).count()
}

/// The tuned values of one station.
pub struct ChangedAt {
    pub number: usize,
    pub name: &'static str,
    pub controls: Vec<ControlView>,
}

/// The tuned controls of a station in the order of the bench; members of lists come last.
fn tuned_at(development: &Development, station: Station) -> impl Iterator<Item = &'static Control> {
    let once = controls::all().filter(|c| development.values.contains_key(c.id));
    let listed = development.values.keys().filter_map(|id| controls::list::member(id));
    once.chain(listed).filter(move |c| c.station == station)
}

/// Everything that was tuned, each value under its station.
#[derive(Template)]
#[template(path = "changes.html")]
pub struct ChangesView {
    stations: Vec<ChangedAt>,
    tuned: usize,
    keepable: usize,
    stock: String,
    swapped: bool,
}

impl ChangesView {
    pub fn new(frame: &Frame, swapped: bool) -> Self {
        let development = &frame.summary.development;
        let values = development.values(&frame.stock);
        let stations = Station::ALL
            .into_iter()
            .map(|station| ChangedAt {
                number: station.number(),
                name: station.name(),
                controls: tuned_at(development, station).map(|c| ControlView::alone(c, &values)).collect(),
            })
            .collect();
        let (tuned, keepable) = (development.values.len(), kept_in_a_stock(frame));
        Self { stations, tuned, keepable, stock: frame.stock.name(), swapped }
    }
}

/// What lies on the bench: a station's page, or all that was changed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum OnBench {
    Page(Station, usize),
    Changes,
    Masks(Chosen),
}

impl OnBench {
    pub fn named(station: &str, page: usize) -> Self {
        if let Some(chosen) = Chosen::named(station) {
            return Self::Masks(chosen);
        }
        match Station::from_id(station).filter(|s| controls::is_built(*s)) {
            _ if station == "changes" => Self::Changes,
            Some(station) => Self::Page(station, page),
            None => Self::Page(Station::Film, 1),
        }
    }

    /// The station that stands open on the line.
    pub fn station(&self) -> Option<Station> {
        match self {
            Self::Page(station, _) => Some(*station),
            Self::Changes | Self::Masks(_) => None,
        }
    }

    pub fn render(&self, frame: &Frame, swapped: bool) -> Result<String, WebError> {
        Ok(match self {
            Self::Page(station, page) => BenchView::new(frame, *station, *page, swapped).render()?,
            Self::Masks(chosen) => MasksView::new(frame, chosen, swapped).render()?,
            Self::Changes => ChangesView::new(frame, swapped).render()?,
        })
    }
}

/// The stock in force, in the bar.
#[derive(Template)]
#[template(path = "plate.html")]
pub struct PlateView {
    frame: i64,
    name: String,
    kind: &'static str,
    tuned: usize,
    swapped: bool,
}

impl PlateView {
    pub fn new(frame: &Frame, swapped: bool) -> Self {
        Self {
            frame: frame.summary.id,
            name: frame.stock.name(),
            kind: frame.stock.kind.words(),
            tuned: frame.summary.development.values.len(),
            swapped,
        }
    }
}

/// Undo and redo, in the bar.
#[derive(Template)]
#[template(path = "undo.html")]
pub struct UndoView {
    undo: Option<String>,
    redo: Option<String>,
    swapped: bool,
}

impl UndoView {
    pub fn new(frame: &Frame, swapped: bool) -> Self {
        Self { undo: frame.undo.clone(), redo: frame.redo.clone(), swapped }
    }
}

/// One zone of the readings.
pub struct ZoneView {
    pub name: &'static str,
    /// Height in an SVG of 34.
    pub y: String,
    pub height: String,
    pub grey: String,
    pub x: usize,
    pub share: String,
}

/// The readings at the right.
#[derive(Template)]
#[template(path = "rail.html")]
pub struct RailView {
    chart: String,
    single: bool,
    zones: Vec<ZoneView>,
    tones: String,
    blown: String,
    blocked: String,
    banding: String,
    swapped: bool,
}

impl RailView {
    pub fn new(lab: &Lab, frame: &Frame, swapped: bool) -> Result<Self, WebError> {
        let f = &frame.summary;
        let reading = lab.film_reading(f.id, &f.development)?;
        let print = lab.print_reading(f.id, &f.development)?;
        let most = reading.zones.iter().copied().fold(1e-9, f64::max);
        let zones = ZONE_NAMES
            .iter()
            .zip(reading.zones)
            .enumerate()
            .map(|(i, (name, share))| {
                let height = 34.0 * (share / most).sqrt();
                let grey = 8 + i * 238 / 10;
                ZoneView {
                    name,
                    y: format!("{:.1}", 34.0 - height),
                    height: format!("{:.1}", height.max(0.5)),
                    grey: format!("rgb({grey},{grey},{grey})"),
                    x: i * 18 + 1,
                    share: format!("{:.0} %", 100.0 * share),
                }
            })
            .collect();
        let values = frame.summary.development.values(&frame.stock);
        let percent = |share: f64| format!("{:.1} %", 100.0 * share);
        Ok(Self {
            chart: chart::film(&reading, &values),
            single: reading.layers.len() == 1,
            zones,
            tones: chart::tones(&print.lightness),
            blown: percent(print.blown),
            blocked: percent(print.blocked),
            banding: percent(print.banding),
            swapped,
        })
    }
}

/// Opens a station, or all that was changed: the line and the bench anew.
#[get("/frames/{id}/bench")]
pub async fn open_station(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<Open>,
) -> Result<HttpResponse, WebError> {
    let (id, on_bench) = (id.into_inner(), asked.on_bench());
    let parts = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let line = LineView::new(&frame, on_bench.station(), true)?.render()?;
        Ok(on_bench.render(&frame, true)? + &line)
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(parts))
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_core::Catalogue;
    use amber_core::controls::Value;
    use amber_library::{Change, Library, NewFrame};

    /// A frame on a stock, with values.
    fn frame(stock: &str, values: &[(&str, Value)]) -> Frame {
        let folder = tempfile::tempdir().unwrap();
        let library = Library::open(folder.path()).unwrap();
        let roll = library.add_roll("Tour", 0).unwrap();
        let stock = Catalogue::find(stock).unwrap();
        let new = NewFrame { name: "Quay".into(), format: "JPEG".into(), width: 60, height: 40 };
        let id = library.add_frame(roll, b"bytes", new, &stock).unwrap();
        let mut development = library.frame(id).unwrap().summary.development;
        for (control, value) in values {
            development.set(&stock, control, value.clone()).unwrap();
        }
        library.commit(id, Change { revision: 0, label: "tuned".into(), development }, &stock).unwrap()
    }

    /// The bench has room for five columns of a head and five rows; tabs share a place.
    #[test]
    fn every_page_fits_the_bench() {
        for stock in Catalogue::all() {
            let frame = frame(&stock.id, &[]);
            for station in Station::ALL.into_iter().filter(|s| controls::is_built(*s)) {
                for page in 1..=2 {
                    let (groups, _) = columns(&frame, station, page);
                    let stock_column = usize::from(station == Station::Film && page == 1);
                    let wide = groups.iter().filter(|g| g.wide).count();
                    assert!(groups.len() + wide + stock_column <= 5, "{} {} {page}", stock.id, station.name());
                    for tab in groups.iter().filter(|g| g.drawn != "zones").flat_map(|g| &g.tabs) {
                        assert!(tab.controls.len() <= 5, "{} {}", stock.id, tab.name);
                    }
                }
            }
        }
    }

    #[test]
    fn a_page_that_is_not_there_is_the_first() {
        let frame = frame("plover", &[]);
        let bath = OnBench::named("bath", 2).render(&frame, false).unwrap();
        assert!(bath.contains("bath.time"));
        assert_eq!(OnBench::named("surface", 1), OnBench::Page(Station::Film, 1), "not built yet");
        assert_eq!(OnBench::named("changes", 1).station(), None);
    }

    #[test]
    fn what_was_changed_hangs_under_its_station() {
        let values = [
            ("scene.exposure", Value::Number(0.5)),
            ("film.curve.green.contrast", Value::Number(0.9)),
            ("print.band.blue.saturation", Value::Number(20.0)),
        ];
        let frame = frame("plover", &values);
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
        let frame = frame("tern", &[("print.filter.keep", Value::Switch(true))]);
        let one = OnBench::named("print", 1).render(&frame, false).unwrap();
        for part in [
            "data-list=\"print.paper\"",
            "data-choice=\"print.view\"",
            "data-switch=\"print.filter.keep\"",
            "role=\"slider\"",
        ] {
            assert!(one.contains(part), "{part}");
        }
        assert!(one.contains("data-own=\"off\" checked"), "a tuned switch");
        let two = OnBench::named("print", 2).render(&frame, false).unwrap();
        assert!(two.contains("data-curve=\"print.curve.master\"") && two.contains("data-tab=\"Magenta\""));
        assert!(two.matches("data-tabpage").count() >= 12);
    }
}
