//! Masks on the bench: those of the frame, the parts of one, and the local adjustments through it.

use amber_core::stations;
use std::collections::BTreeSet;

use actix_web::{HttpResponse, post, web};
use amber_core::controls::of_masks as settings;
use amber_core::controls::{self, Control, Value, mask_asked};
use amber_core::mask::{Join, Mask, Part, Shape};
use amber_core::picture::framing::Framing;
use amber_core::stations::lens::LensSettings;
use amber_core::stations::scene::local::{self, LOCALS};
use amber_core::text::shortened;
use amber_library::Frame;
use askama::Template;
use serde::Deserialize;

use crate::draw::control::ControlView;
use crate::error::WebError;
use crate::{Shared, blocking};

/// Sides of the table of places that tells the page where the frame lies in the original.
const PLACES: u32 = 25;

/// Which mask lies on the bench, which of its parts, and which of its local adjustments.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Chosen {
    pub mask: String,
    pub part: usize,
    pub local: usize,
}

impl Chosen {
    /// `masks`, `masks:ID`, `masks:ID:PART` or `masks:ID:PART:LOCAL`; what is not there is the first.
    pub fn named(station: &str) -> Option<Self> {
        let mut words = station.strip_prefix("masks")?.split(':').skip(1);
        let mask = words.next().unwrap_or_default().to_owned();
        let mut number = || words.next().and_then(|w| w.parse().ok()).unwrap_or(0);
        Some(Self { mask, part: number(), local: number() })
    }
}

struct MaskView {
    id: String,
    name: String,
    chosen: bool,
    /// What it is used by, in words.
    used: String,
}

struct PartView {
    index: usize,
    words: &'static str,
    join: &'static str,
    chosen: bool,
    first: bool,
}

struct LocalView {
    key: u32,
    number: usize,
    chosen: bool,
}

/// Two pages of a local adjustment's controls.
struct LocalPage {
    name: &'static str,
    tuned: bool,
    controls: Vec<ControlView>,
}

#[derive(Template)]
#[template(path = "partials/masks.html")]
pub struct MasksView {
    /// As [`Chosen`] is named.
    station: String,
    masks: Vec<MaskView>,
    name: String,
    inverted: bool,
    feather: Option<ControlView>,
    parts: Vec<PartView>,
    /// Kind of the chosen part: empty for none.
    kind: &'static str,
    settings: Vec<ControlView>,
    locals: Vec<LocalView>,
    pages: Vec<LocalPage>,
    /// Where places of the frame lie in the original, as JSON; empty where the frame is the original.
    places: String,
    /// The frame's masks as JSON: what the page draws and changes.
    document: String,
    swapped: bool,
}

fn kind_of(shape: &Shape) -> &'static str {
    match shape {
        Shape::Brush { .. } => "brush",
        Shape::Ellipse(_) => "ellipse",
        Shape::Linear(_) => "linear",
        Shape::Hue(_) => "hue",
        Shape::Tone(_) => "tone",
        Shape::Edge(_) => "edge",
    }
}

fn number(control: &'static Control, value: f64) -> ControlView {
    ControlView::of(control, &Value::Number((value * 1e4).round() / 1e4))
}

fn own(control: &'static Control) -> ControlView {
    ControlView::of(control, &control.own_value(&amber_core::Catalogue::first()))
}

/// What can be set of a part.
fn settings_of(shape: &Shape, aspect: f64) -> Vec<ControlView> {
    let range = |controls: &'static [Control; 4], r: &amber_core::mask::Range| {
        controls.iter().zip([r.low, r.high, r.feather[0], r.feather[1]]).map(|(c, v)| number(c, v)).collect()
    };
    match shape {
        Shape::Brush { .. } => {
            vec![
                own(&settings::BRUSH_SIZE),
                own(&settings::BRUSH_SOFTNESS),
                own(&settings::BRUSH_STRENGTH),
                own(&settings::ERASE),
            ]
        }
        Shape::Ellipse(oval) => {
            let [across, down] = &settings::DIAMETERS;
            vec![
                number(across, 200.0 * oval.radii[0]),
                number(down, 200.0 * oval.radii[1]),
                number(&settings::TURN, oval.turn),
                number(&settings::OVAL_FEATHER, 100.0 * oval.feather),
            ]
        }
        Shape::Linear(ramp) => {
            // in diagonals of the original
            let diagonal = aspect.hypot(1.0);
            let (x, y) = ((ramp.to[0] - ramp.from[0]) * aspect / diagonal, (ramp.to[1] - ramp.from[1]) / diagonal);
            vec![
                number(&settings::FALL_ANGLE, y.atan2(x).to_degrees()),
                number(&settings::FALL_LENGTH, 100.0 * x.hypot(y)),
            ]
        }
        Shape::Hue(r) => range(&settings::HUE, r),
        Shape::Tone(r) => range(&settings::TONE, r),
        Shape::Edge(grown) => {
            vec![number(&settings::EDGE_SIZE, 100.0 * grown.size), number(&settings::REACH, 100.0 * grown.reach)]
        }
    }
}

/// What a mask is used by.
fn used_by(frame: &Frame, mask: &str) -> String {
    let asks = |value: &Value| value.choice().and_then(mask_asked).is_some_and(|(id, _)| id == mask);
    let users = frame.summary.development.values.iter().filter(|(_, v)| asks(v));
    let words = users.filter_map(|(id, _)| {
        let control = stations::find(id).ok().filter(|c| c.kind == controls::Kind::Mask)?;
        Some(match LOCALS.key_of(id) {
            Some(key) => format!("dodge and burn {key}"),
            None => control.label.trim_end_matches(" in").to_lowercase(),
        })
    });
    words.collect::<Vec<_>>().join(", ")
}

impl MasksView {
    pub fn new(frame: &Frame, asked: &Chosen, swapped: bool) -> Self {
        let development = &frame.summary.development;
        let all = &development.masks;
        let id = all.get_key_value(&asked.mask).or_else(|| all.last_key_value()).map(|(id, _)| id.clone());
        let none = Mask::default();
        let mask = id.as_ref().and_then(|id| all.get(id)).unwrap_or(&none);
        let part = asked.part.min(mask.parts.len().saturating_sub(1));
        let chosen = mask.parts.get(part);
        let aspect = f64::from(frame.summary.width) / f64::from(frame.summary.height);
        let (keys, local) = locals_of(frame, id.as_deref().unwrap_or_default(), asked.local);
        Self {
            station: format!("masks:{}:{part}:{local}", id.clone().unwrap_or_default()),
            masks: all
                .iter()
                .map(|(i, m)| MaskView {
                    id: i.clone(),
                    name: m.name.clone(),
                    chosen: id.as_ref() == Some(i),
                    used: used_by(frame, i),
                })
                .collect(),
            name: mask.name.clone(),
            inverted: mask.inverted,
            feather: id.is_some().then(|| number(&settings::FEATHER, 100.0 * mask.feather)),
            parts: mask.parts.iter().enumerate().map(|(i, p)| PartView::new(i, p, i == part)).collect(),
            kind: chosen.map_or("", |p| kind_of(&p.shape)),
            settings: chosen.map(|p| settings_of(&p.shape, aspect)).unwrap_or_default(),
            pages: keys.get(local).map(|key| pages_of(frame, *key)).unwrap_or_default(),
            locals: keys
                .iter()
                .enumerate()
                .map(|(i, key)| LocalView { key: *key, number: i + 1, chosen: i == local })
                .collect(),
            places: places(frame),
            document: serde_json::to_string(all).unwrap_or_default(),
            swapped,
        }
    }
}

impl PartView {
    fn new(index: usize, part: &Part, chosen: bool) -> Self {
        let join = match part.join {
            Join::Add => "add",
            Join::Subtract => "subtract",
            Join::Intersect => "intersect",
        };
        Self { index, words: part.shape.words(), join, chosen, first: index == 0 }
    }
}

/// Keys of the local adjustments through a mask, and the chosen one of them.
fn locals_of(frame: &Frame, mask: &str, asked: usize) -> (Vec<u32>, usize) {
    let values = frame.summary.development.written(&frame.stock);
    let through = |key: &u32| {
        let place = values.value(LOCALS.member(*key, &local::WHERE));
        place.choice().and_then(mask_asked).is_some_and(|(id, _)| id == mask)
    };
    let keys: Vec<u32> = values.keys(&LOCALS).into_iter().filter(through).collect();
    let chosen = asked.min(keys.len().saturating_sub(1));
    (keys, chosen)
}

fn pages_of(frame: &Frame, key: u32) -> Vec<LocalPage> {
    let values = frame.summary.development.written(&frame.stock);
    let page = |name: &'static str, members: [&'static Control; 4]| {
        let controls: Vec<_> = members.into_iter().map(|m| ControlView::new(LOCALS.member(key, m), &values)).collect();
        LocalPage { name, tuned: controls.iter().any(|c| c.tuned), controls }
    };
    vec![
        page("Light", [&local::EXPOSURE, &local::WARMTH, &local::SATURATION, &local::SOFTNESS]),
        page("Tone and air", [&local::ZONE, &local::PLACED, &local::CONTRAST, &local::AIR]),
    ]
}

/// The original's places, row by row, at a table of places of the frame.
fn places(frame: &Frame) -> String {
    let settings = LensSettings::framing(&frame.summary.development.written(&frame.stock));
    if settings.is_none() {
        return String::new();
    }
    let framing = Framing::new(&settings, frame.summary.width, frame.summary.height);
    let share = |i: u32| f64::from(i) / f64::from(PLACES - 1);
    let round = |v: f64| (v * 1e5).round() / 1e5;
    let table: Vec<Vec<[f64; 2]>> = (0..PLACES)
        .map(|y| (0..PLACES).map(|x| framing.source_of([share(x), share(y)]).map(round)).collect())
        .collect();
    serde_json::to_string(&table).unwrap_or_default()
}

#[derive(Deserialize)]
pub struct CopyForm {
    /// Frames that get the mask, by id, separated by commas.
    frames: String,
}

/// Copies a mask to other frames; each gets it as a mask of its own, in one step.
#[post("/frames/{id}/masks/{mask}/copies")]
pub async fn copy(
    shared: web::Data<Shared>,
    path: web::Path<(i64, String)>,
    form: web::Form<CopyForm>,
) -> Result<HttpResponse, WebError> {
    let (id, mask) = path.into_inner();
    let wrong = |word: &str| WebError::Unusable(format!("'{}' is not a frame", shortened(word)));
    let frames: Vec<i64> = form
        .frames
        .split(',')
        .filter(|w| !w.is_empty())
        .map(|w| w.trim().parse().map_err(|_| wrong(w)))
        .collect::<Result<_, _>>()?;
    let frames: BTreeSet<i64> = frames.into_iter().collect();
    let count = blocking(&shared, move |lab| Ok(lab.copy_mask(id, &mask, &frames)?)).await?;
    let frames = if count == 1 { "1 frame".into() } else { format!("{count} frames") };
    Ok(HttpResponse::Ok().content_type("text/plain; charset=utf-8").body(format!("Copied to {frames}.")))
}
