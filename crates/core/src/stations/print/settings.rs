//! The controls of Print.
#![allow(missing_docs, reason = "a control says itself in its help, and the settings are its values")]

use super::columns;
use crate::colour::hue_bands::BANDS;
use crate::controls::{Choice, Choices, Column, Control, Kind, Own, Rest, Unit, Values, choices, range};
use crate::stations::Station;
use crate::stations::tone::ToneSettings;
use crate::stations::tone::settings::BathSettings;
use crate::stations::years::{Losses, YearsSettings};
use crate::stock::material::{graded_paper, print_material};
use crate::stock::{Stock, StockKind};

const fn control(id: &'static str, column: &'static Column, label: &'static str) -> Control {
    Control::scalar(id, Station::Print, column, label)
}

fn can_be_printed(stock: &Stock) -> bool {
    matches!(stock.kind, StockKind::ColourNegative | StockKind::Reversal | StockKind::BlackAndWhiteNegative)
}

fn is_colour_film(stock: &Stock) -> bool {
    matches!(stock.kind, StockKind::ColourNegative | StockKind::Reversal)
}

fn is_silver_print(stock: &Stock) -> bool {
    stock.kind == StockKind::BlackAndWhiteNegative
}

choices! {
    /// How the developed film is looked at.
    pub enum View {
        AsMeant = "meant", "As meant";
        Print = "print", "Print";
        Transparency = "transparency", "Clear";
        Scan = "scan", "Scan";
    }
}

pub const VIEW: Control = Control {
    kind: Kind::Choice(View::CHOICES),
    own: Own::StockChoice(|_| "meant"),
    rest: Rest::Choice("scan"),
    applies: can_be_printed,
    help: "As meant: a negative is printed, a slide looked through. Or a print on paper, a positive on clear film, \
        a flat scan.",
    ..control("print.view", &columns::PAPER, "Seen as")
};

/// Papers and print films for colour by id.
const COLOUR_PAPERS: [Choice; 6] = [
    Choice { id: "gloss-paper", label: "Brilliant" },
    Choice { id: "lab-paper", label: "Lab" },
    Choice { id: "portrait-paper", label: "Portrait" },
    Choice { id: "old-paper", label: "Old" },
    Choice { id: "cine-print", label: "Print film" },
    Choice { id: "two-colour-print", label: "Two colours" },
];

pub const PAPER: Control = Control {
    kind: Kind::Choice(&COLOUR_PAPERS),
    own: Own::StockChoice(|stock| {
        let own = stock.print.as_deref().unwrap_or("gloss-paper");
        COLOUR_PAPERS.iter().find(|p| p.id == own).map_or("gloss-paper", |p| p.id)
    }),
    applies: is_colour_film,
    help: "The emulsion of the colour paper or print film.",
    ..control("print.paper", &columns::PAPER, "Paper")
};

pub const SURFACE: Control = Control {
    kind: Kind::Choice(&[
        Choice { id: "gloss", label: "Gloss" },
        Choice { id: "pearl", label: "Pearl" },
        Choice { id: "matt", label: "Matt" },
    ]),
    own: Own::StockChoice(
        |stock| if stock.paper.as_deref().is_some_and(|p| p.starts_with("matt")) { "matt" } else { "gloss" },
    ),
    applies: can_be_printed,
    help: "Gloss has the deepest black, matt the shallowest.",
    ..control("print.surface", &columns::PAPER, "Surface")
};
pub const TONE: Control = Control {
    kind: Kind::Choice(&[
        Choice { id: "warm", label: "Warm" },
        Choice { id: "neutral", label: "Neutral" },
        Choice { id: "cool", label: "Cool" },
    ]),
    own: Own::StockChoice(|stock| match stock.paper.as_deref() {
        Some(p) if p.ends_with("warm") => "warm",
        Some(p) if p.ends_with("cool") => "cool",
        _ => "neutral",
    }),
    applies: can_be_printed,
    help: "The colour of the paper's base and, in black and white, of its silver.",
    ..control("print.tone", &columns::PAPER, "Tone")
};
pub const GRADE: Control = Control {
    unit: Unit::Grade,
    kind: range(0.0, 5.0, 0.25, 2),
    own: Own::Stock(|stock| stock.grade.unwrap_or(2.0)),
    applies: is_silver_print,
    help: "The paper's contrast: 0 is soft, 5 is hard.",
    ..control("print.grade", &columns::PAPER, "Grade")
};
/// Whose paper has a contrast of its own and no grades.
fn has_contrast(stock: &Stock) -> bool {
    is_colour_film(stock) || stock.kind == StockKind::ContactPrint
}

pub const CONTRAST: Control = Control {
    kind: range(0.5, 1.8, 0.01, 2),
    own: Own::Neutral(1.0),
    ratio: true,
    applies: has_contrast,
    help: "Contrast of the paper or process, relative to its own.",
    ..control("print.contrast", &columns::PAPER, "Paper contrast")
};

/// What is exposed onto paper, by enlarger or in contact.
fn is_exposed(stock: &Stock) -> bool {
    can_be_printed(stock) || stock.kind == StockKind::ContactPrint
}

pub const EXPOSURE: Control = Control {
    unit: Unit::Stops,
    kind: range(-2.0, 2.0, 0.05, 2),
    two_sided: true,
    applies: is_exposed,
    help: "Light on the paper, in stops. More exposure gives a darker print, from a slide a lighter one.",
    ..control("print.exposure", &columns::ENLARGER, "Print exposure")
};

const fn filter(id: &'static str, label: &'static str) -> Control {
    Control {
        unit: Unit::Cc,
        kind: range(-60.0, 60.0, 1.0, 0),
        two_sided: true,
        applies: is_colour_film,
        ..control(id, &columns::ENLARGER, label)
    }
}

pub const CYAN: Control = Control {
    own: Own::Stock(|stock| stock.cc[0]),
    help: "Cyan filter in the enlarger. From a negative, more of it gives a redder print.",
    ..filter("print.filter.cyan", "Cyan")
};
pub const MAGENTA: Control = Control {
    own: Own::Stock(|stock| stock.cc[1]),
    help: "Magenta filter in the enlarger. From a negative, more of it gives a greener print.",
    ..filter("print.filter.magenta", "Magenta")
};
pub const YELLOW: Control = Control {
    own: Own::Stock(|stock| stock.cc[2]),
    help: "Yellow filter in the enlarger. From a negative, more of it gives a bluer print.",
    ..filter("print.filter.yellow", "Yellow")
};
pub const KEEP_BRIGHTNESS: Control = Control {
    kind: Kind::Switch,
    own: Own::Switch(false),
    applies: is_colour_film,
    help: "Makes up with exposure for the light that the filters take.",
    ..control("print.filter.keep", &columns::ENLARGER, "Keep brightness")
};

/// Density of solid black that the stock's own paper or film reaches.
fn own_black(stock: &Stock) -> f64 {
    let of_film = || stock.curves.list()[stock.layers() / 2].dmax;
    let black = match stock.kind {
        StockKind::BlackAndWhiteNegative | StockKind::BlackAndWhiteInstant => {
            stock.paper.as_deref().and_then(graded_paper).map(|p| p.dmax)
        }
        StockKind::ContactPrint => stock.process.as_ref().map(|p| p.curve.dmax),
        StockKind::Plate => {
            stock.plate.as_ref().map(|p| (-(p.r_plate * p.gain).max(1e-3).log10() * 100.0).round() / 100.0)
        }
        StockKind::ColourNegative => stock.print.as_deref().and_then(print_material).map(|m| m.curves()[1].dmax),
        _ => None,
    };
    black.unwrap_or_else(of_film)
}

pub const WHITE: Control = Control {
    unit: Unit::Density,
    kind: range(0.0, 0.6, 0.01, 2),
    help: "Density added to the paper's white.",
    ..control("print.white", &columns::WHITE_AND_BLACK, "Paper white")
};
pub const BLACK: Control = Control {
    unit: Unit::Density,
    kind: range(0.6, 4.0, 0.01, 2),
    own: Own::Stock(own_black),
    ratio: true,
    help: "Density of the deepest black. Lower lifts the blacks.",
    ..control("print.black", &columns::WHITE_AND_BLACK, "Black")
};
pub const STRENGTH: Control = Control {
    unit: Unit::Percent,
    kind: range(0.0, 100.0, 1.0, 0),
    own: Own::Neutral(100.0),
    help: "Strength of film and print together; what is missing is the plain picture.",
    ..control("print.strength", &columns::WHITE_AND_BLACK, "Strength")
};

const fn acutance(id: &'static str, label: &'static str) -> Control {
    Control {
        kind: range(-1.0, 2.0, 0.01, 2),
        two_sided: true,
        help: "Sharpness of edges: what development at the border of light and dark does. Below 0 it softens.",
        ..control(id, &columns::ACUTANCE, label)
    }
}

pub const FINE: Control = acutance("print.acutance.fine", "Fine");
pub const FINE_RADIUS: Control = Control {
    unit: Unit::Micrometres,
    kind: range(2.0, 40.0, 0.5, 1),
    own: Own::Neutral(12.0),
    help: "Reach of the fine part, on the film.",
    ..control("print.acutance.fine_radius", &columns::ACUTANCE, "Fine radius")
};
pub const COARSE: Control = acutance("print.acutance.coarse", "Coarse");
pub const COARSE_RADIUS: Control = Control {
    unit: Unit::Micrometres,
    kind: range(40.0, 200.0, 1.0, 0),
    own: Own::Neutral(90.0),
    help: "Reach of the coarse part, on the film.",
    ..control("print.acutance.coarse_radius", &columns::ACUTANCE, "Coarse radius")
};

const fn curve(id: &'static str, tab: &'static str) -> Control {
    Control {
        tab,
        unit: Unit::Percent,
        kind: Kind::Curve,
        own: Own::Line,
        help: "Tone of the print: from its own tones (across) to wanted ones (up), 0 is black.",
        ..control(id, &columns::PRINT_CURVE, tab)
    }
}

/// Master, red, green, blue.
pub const CURVES: [Control; 4] = [
    curve("print.curve.master", "Master"),
    curve("print.curve.red", "Red"),
    curve("print.curve.green", "Green"),
    curve("print.curve.blue", "Blue"),
];

/// Hue, saturation and lightness of one band.
#[derive(Debug, Clone, Copy)]
pub struct BandControls {
    pub hue: Control,
    pub saturation: Control,
    pub lightness: Control,
}

macro_rules! band {
    ($name:literal, $tab:literal) => {
        BandControls {
            hue: Control {
                tab: $tab,
                unit: Unit::Degrees,
                kind: range(-40.0, 40.0, 1.0, 0),
                two_sided: true,
                help: "Turns this hue of the print towards its neighbours.",
                ..control(concat!("print.band.", $name, ".hue"), &columns::HUES_OF_THE_PRINT, "Hue")
            },
            saturation: Control {
                tab: $tab,
                unit: Unit::Percent,
                kind: range(-100.0, 100.0, 1.0, 0),
                two_sided: true,
                help: "Saturation of this hue in the print.",
                ..control(concat!("print.band.", $name, ".saturation"), &columns::HUES_OF_THE_PRINT, "Saturation")
            },
            lightness: Control {
                tab: $tab,
                unit: Unit::Percent,
                kind: range(-100.0, 100.0, 1.0, 0),
                two_sided: true,
                help: "Lightness of this hue in the print.",
                ..control(concat!("print.band.", $name, ".lightness"), &columns::HUES_OF_THE_PRINT, "Lightness")
            },
        }
    };
}

/// The bands in the order of the hues.
pub const HUE_BANDS: [BandControls; BANDS] = [
    band!("red", "Red"),
    band!("orange", "Orange"),
    band!("yellow", "Yellow"),
    band!("green", "Green"),
    band!("cyan", "Cyan"),
    band!("blue", "Blue"),
    band!("violet", "Violet"),
    band!("magenta", "Magenta"),
];

const SIMPLE: [Control; 18] = [
    VIEW,
    PAPER,
    SURFACE,
    TONE,
    GRADE,
    CONTRAST,
    EXPOSURE,
    CYAN,
    MAGENTA,
    YELLOW,
    KEEP_BRIGHTNESS,
    WHITE,
    BLACK,
    STRENGTH,
    FINE,
    FINE_RADIUS,
    COARSE,
    COARSE_RADIUS,
];

/// All controls of the station, in the order of the bench.
pub const CONTROLS: [Control; SIMPLE.len() + CURVES.len() + 3 * BANDS] = {
    let mut list = [VIEW; SIMPLE.len() + CURVES.len() + 3 * BANDS];
    let mut i = 0;
    while i < SIMPLE.len() {
        list[i] = SIMPLE[i];
        i += 1;
    }
    let mut c = 0;
    while c < CURVES.len() {
        list[i] = CURVES[c];
        i += 1;
        c += 1;
    }
    let mut b = 0;
    while b < BANDS {
        list[i] = HUE_BANDS[b].hue;
        list[i + 1] = HUE_BANDS[b].saturation;
        list[i + 2] = HUE_BANDS[b].lightness;
        i += 3;
        b += 1;
    }
    list
};

/// Paper as chosen; `None` is the stock's own.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct PaperChoice {
    pub material: Option<String>,
    pub surface: Option<String>,
    pub tone: Option<String>,
}

/// Edge sharpness of one width.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Edge {
    pub amount: f64,
    pub radius_um: f64,
}

/// What the print does to its own tones and hues, point by point.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct FinishSettings {
    pub white_density: f64,
    /// Wanted density of black where it was set.
    pub black_density: Option<f64>,
    /// Density of black as the stock has it.
    pub own_black_density: f64,
    /// Hue in degrees, saturation and lightness in -1..1, by band.
    pub bands: [[f64; 3]; BANDS],
}

/// Points of the master, red, green and blue curve that are not straight.
pub type PrintCurves = [Option<Vec<[f64; 2]>>; 4];

/// What follows the table of the print.
#[derive(Debug, Clone, PartialEq)]
pub struct FinishedSettings {
    pub curves: PrintCurves,
    /// Fine and coarse.
    pub acutance: [Edge; 2],
    /// 0..1.
    pub strength: f64,
}

impl FinishedSettings {
    pub fn read(values: &Values) -> Self {
        let edge = |amount: &Control, radius: &Control| Edge {
            amount: values.number(amount),
            radius_um: values.number(radius),
        };
        Self {
            curves: CURVES.each_ref().map(|c| values.bent_curve(c)),
            acutance: [edge(&FINE, &FINE_RADIUS), edge(&COARSE, &COARSE_RADIUS)],
            strength: values.number(&STRENGTH) / 100.0,
        }
    }
}

/// All that acts between density and reflectance; its whole is the key of the table. What baths and years make of the
/// print's materials belongs to it.
#[derive(Debug, Clone, PartialEq)]
pub struct PrintSettings {
    pub view: View,
    pub paper: PaperChoice,
    pub exposure_stops: f64,
    pub grade: f64,
    pub contrast: f64,
    pub filtration_cc: [f64; 3],
    pub keep_brightness: bool,
    pub finish: FinishSettings,
    /// In their order.
    pub baths: Vec<BathSettings>,
    /// The pigment where it was chosen.
    pub pigment: Option<[u8; 3]>,
    pub losses: Losses,
}

impl PrintSettings {
    pub fn read(values: &Values) -> Self {
        Self::of(values, &ToneSettings::read(values), &YearsSettings::read(values))
    }

    /// With what was read of the two stations that change its materials.
    pub fn of(values: &Values, tone: &ToneSettings, years: &YearsSettings) -> Self {
        let stock = values.stock();
        let stated = |c: &Control| values.stated(c).and_then(|v| v.choice()).map(str::to_owned);
        let view = if can_be_printed(stock) { values.chosen(&VIEW) } else { View::AsMeant };
        Self {
            view,
            paper: PaperChoice { material: stated(&PAPER), surface: stated(&SURFACE), tone: stated(&TONE) },
            exposure_stops: values.number(&EXPOSURE),
            grade: values.number(&GRADE),
            contrast: values.number(&CONTRAST),
            filtration_cc: [values.number(&CYAN), values.number(&MAGENTA), values.number(&YELLOW)],
            keep_brightness: values.is_on(&KEEP_BRIGHTNESS),
            finish: FinishSettings {
                white_density: values.number(&WHITE),
                black_density: values.stated_number(&BLACK),
                own_black_density: own_black(stock),
                bands: HUE_BANDS.each_ref().map(|b| {
                    let share = |c: &Control| values.number(c) / 100.0;
                    [values.number(&b.hue), share(&b.saturation), share(&b.lightness)]
                }),
            },
            baths: tone.baths.clone(),
            pigment: tone.pigment,
            losses: years.losses,
        }
    }

    /// The stock's own values.
    pub fn own(stock: &Stock) -> Self {
        Self::read(&Values::own(stock))
    }
}
