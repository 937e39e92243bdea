//! The controls of a station in columns, pages and tabs.

use amber_core::Station;
use amber_core::controls::Control;
use amber_core::stations;
use amber_core::stations::tone::{self, settings::BATHS as BATH_LIST};
use amber_library::Frame;

use crate::draw::control::ControlView;

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
    /// A tool of the column: `bloom`, `halation`, `grain` (shown alone), `hue`, `band`, `neutral`, `place`, `crop` (on
    /// the picture), `meter` or `masks`; empty for none.
    pub tool: &'static str,
    pub tabs: Vec<Tab>,
}

/// Columns that stand on a station's second page.
const SECOND_PAGE: [&str; 19] = [
    RAMP,
    "Two tones",
    "Four tones",
    "How much",
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
pub fn columns(frame: &Frame, station: Station, page: usize) -> (Vec<Group>, usize) {
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
    for control in stations::all().filter(|c| c.station == station && (c.applies)(&frame.stock)) {
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
    pub key: u32,
    pub toner: ControlView,
    pub numbers: Vec<ControlView>,
}

/// The baths in their sequence.
pub fn baths(frame: &Frame) -> Vec<BathView> {
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
