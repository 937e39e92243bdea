//! The controls of a station in columns, pages and tabs.

use amber_core::controls::column::Does;
use amber_core::controls::{Column, Control, Face, Lamp, Tool};
use amber_core::stations;
use amber_core::stations::surface::settings::{SHEETS, SheetSettings};
use amber_core::stations::tone::{self, settings::BATHS as BATH_LIST};
use amber_core::{Station, Stock};
use amber_library::Frame;

use super::sheets::acts;
use crate::draw::control::ControlView;

/// Controls of a column that share their place with others.
pub struct Tab {
    pub name: &'static str,
    pub tuned: bool,
    pub controls: Vec<ControlView>,
}

/// One column of the bench.
pub struct Group {
    pub id: &'static str,
    pub name: &'static str,
    pub wide: bool,
    /// Which face it is drawn with: `controls`, `zones`, `baths` or `ramp`.
    pub face: &'static str,
    tools: &'static [Tool],
    pub lamps: Vec<LampView>,
    /// All of it is off.
    pub off: bool,
    pub tabs: Vec<Tab>,
}

/// The lamp of a group.
pub struct LampView {
    pub id: &'static str,
    pub label: &'static str,
    pub on: bool,
    /// Its label stands beside it, where a column has several.
    pub named: bool,
}

/// A tool of a column, as its button says it to the page's script.
pub struct ToolView {
    pub label: &'static str,
    pub key: &'static str,
    pub help: &'static str,
    /// The effect that it shows alone, or the tool that it picks with; empty for neither.
    pub alone: &'static str,
    pub pick: &'static str,
    pub meters: bool,
    pub masks: bool,
    pub foot: bool,
}

impl ToolView {
    fn new(tool: Tool) -> Self {
        let (alone, pick) = match tool.does() {
            Does::Alone(what) => (what, ""),
            Does::Pick(what) => ("", what),
            Does::Meter | Does::Masks => ("", ""),
        };
        Self {
            label: tool.label(),
            key: tool.key(),
            help: tool.help(),
            alone,
            pick,
            meters: tool.does() == Does::Meter,
            masks: tool.does() == Does::Masks,
            foot: tool.at_the_foot(),
        }
    }
}

impl Group {
    fn new(column: &'static Column, frame: &Frame, station: Station) -> Self {
        let face = match column.face {
            Face::Controls => "controls",
            Face::Zones => "zones",
            Face::Baths => "baths",
            Face::Ramp => "ramp",
            Face::Sheets => "sheets",
            Face::Sheet => "sheet",
        };
        let off = &frame.summary.development.off;
        let single = column.lamps.len() == 1;
        let view = |lamp: &Lamp| LampView {
            id: lamp.id,
            label: lamp.label,
            on: !off.contains(lamp.id),
            named: !single && column.label != lamp.label,
        };
        let lamps: Vec<LampView> = column.lamps.iter().filter(|lamp| acts_on(lamp, &frame.stock)).map(view).collect();
        Self {
            id: column.id,
            name: column.label,
            wide: column.wide,
            face,
            tools: column.tools,
            off: off.contains(station.id()) || (single && lamps.iter().any(|lamp| !lamp.on)),
            lamps,
            tabs: Vec::new(),
        }
    }

    fn tools(&self, foot: bool) -> impl Iterator<Item = ToolView> {
        self.tools.iter().filter(move |tool| tool.at_the_foot() == foot).map(|tool| ToolView::new(*tool))
    }

    /// The tools beside the heading.
    pub fn in_head(&self) -> impl Iterator<Item = ToolView> {
        self.tools(false)
    }

    /// The tools under the controls.
    pub fn at_foot(&self) -> impl Iterator<Item = ToolView> {
        self.tools(true)
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

/// Whether a lamp has something to switch on a stock.
fn acts_on(lamp: &Lamp, stock: &Stock) -> bool {
    let is_list = stations::LISTS.iter().any(|list| lamp.holds(list.path));
    is_list || stations::all().any(|c| lamp.holds(c.id) && (c.applies)(stock))
}

/// The columns of one of a station's pages on a stock, and how many pages it has.
pub fn columns(frame: &Frame, station: Station, page: usize, sheet: Option<u32>) -> (Vec<Group>, usize) {
    let values = frame.summary.development.written(&frame.stock);
    let in_force = frame.summary.development.values(&frame.stock);
    let view =
        |control: &'static Control| ControlView { off: in_force.is_off(control), ..ControlView::new(control, &values) };
    let mut groups: Vec<Group> = Vec::new();
    let mut pages = 1;
    for column in stations::columns(station).iter().filter(|column| (column.applies)(&frame.stock)) {
        let stands = |c: &&Control| c.column.id == column.id && (c.applies)(&frame.stock);
        let mut controls = stations::all().filter(stands).peekable();
        if column.face == Face::Controls && controls.peek().is_none() {
            continue;
        }
        if column.face == Face::Sheet && sheet.is_none() {
            continue;
        }
        pages = pages.max(column.page);
        if column.page == page {
            let mut group = Group::new(column, frame, station);
            if let Some(key) = sheet.filter(|_| column.face == Face::Sheet) {
                let settings = SheetSettings::read(&values, key);
                let members = SHEETS.members.iter().filter(|m| m.column.id == column.id && acts(m, &settings));
                members.for_each(|member| {
                    group.push(ControlView { tab: member.tab, ..view(SHEETS.member(key, member)) });
                });
            }
            controls.for_each(|control| group.push(view(control)));
            groups.push(group);
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
    let values = frame.summary.development.written(&frame.stock);
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
