//! Changing a frame's development: one step each, refused when another window was faster.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use actix_web::{HttpResponse, post, web};
use amber_core::StockName;
use amber_core::controls::Value;
use amber_core::mask::Mask;
use amber_core::text::shortened;
use amber_lab::{Lab, Stepped, Tuned};
use amber_library::{Frame, Step};
use askama::Template;
use serde::Deserialize;
use serde_json::json;

use super::bar::{PlateView, UndoView};
use super::bench::OnBench;
use super::line::LineView;
use super::prints::PrintsView;
use super::rail::RailView;
use super::sheet::numbers;
use crate::draw::declared::{self, inside_script};
use crate::error::WebError;
use crate::{Shared, blocking};

/// What comes back after a change: the parts of the page that are new, and what the page's script has to know.
pub struct Answer(String);

/// What the script has to know, as JSON in a part of the page.
#[derive(Template)]
#[template(path = "partials/kept.html")]
struct Kept {
    state: String,
}

impl Answer {
    /// `anew`: the bench's controls too, because their values were changed from elsewhere.
    ///
    /// What is answered was done: a part that cannot be drawn is left out and said, it does not turn the answer into a
    /// failure.
    pub fn new(lab: &Arc<Lab>, frame: &Frame, on_bench: &OnBench, anew: bool, message: &str) -> Self {
        let f = &frame.summary;
        let mut message = message.to_owned();
        let mut drawn = |part: Result<String, WebError>| {
            part.unwrap_or_else(|error| {
                message = format!("{message} This was kept, but could not be drawn: {error}.").trim().to_owned();
                String::new()
            })
        };
        let line = lab.compute(|| LineView::new(frame, on_bench.station(), true)).map_err(WebError::from);
        let mut parts = drawn(PlateView::new(frame, true).render().map_err(WebError::from));
        parts += &drawn(UndoView::new(frame, true).render().map_err(WebError::from));
        parts += &drawn(line.and_then(|l| Ok(l.render()?)));
        parts += &drawn(RailView::new(lab, frame, true).and_then(|r| Ok(r.render()?)));
        if anew {
            parts += &drawn(on_bench.render(lab, frame, true));
            parts += &drawn(PrintsView::new(lab, frame, true).and_then(|prints| Ok(prints.render()?)));
        }
        // what was changed from elsewhere the page has to take; what it changed itself it has
        let of_all = |there: serde_json::Value| if anew { there } else { json!(null) };
        let state = json!({
            "revision": f.revision,
            "values": f.development.values,
            "off": f.development.off,
            "masks": of_all(json!(f.development.masks)),
            "stock": f.development.stock.id,
            "anew": anew,
            "message": message,
            "own": of_all(declared::own(&frame.stock)),
        });
        let state = inside_script(&state);
        // first, so that what follows is drawn by it
        Self(Kept { state }.render().unwrap_or_default() + &parts)
    }

    pub fn respond(self) -> HttpResponse {
        HttpResponse::Ok().content_type("text/html; charset=utf-8").body(self.0)
    }
}

#[derive(Deserialize)]
pub struct Commit {
    revision: i64,
    station: String,
    #[serde(default)]
    page: usize,
    /// The tuned values as JSON.
    values: String,
    /// The masks that were changed, by id, as JSON; null for those that were deleted.
    #[serde(default)]
    masks: String,
    /// The lamps that are off, as JSON; as they were where it is empty.
    #[serde(default)]
    off: String,
    /// The bench is to be drawn anew, because its values were not changed by its own controls.
    #[serde(default)]
    anew: bool,
    /// Numbers of other frames that follow, with commas between.
    #[serde(default)]
    others: String,
}

#[post("/frames/{id}/development")]
pub async fn commit(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<Commit>,
) -> Result<HttpResponse, WebError> {
    let (id, form) = (id.into_inner(), form.into_inner());
    let values: BTreeMap<String, Value> =
        serde_json::from_str(&form.values).map_err(|e| WebError::Unusable(format!("the values are not JSON: {e}")))?;
    let masks: BTreeMap<String, Option<Mask>> = match form.masks.as_str() {
        "" => BTreeMap::new(),
        text => serde_json::from_str(text).map_err(|e| WebError::Unusable(format!("the masks cannot be read: {e}")))?,
    };
    let off: Option<BTreeSet<String>> = match form.off.as_str() {
        "" => None,
        text => {
            Some(serde_json::from_str(text).map_err(|e| WebError::Unusable(format!("the lamps are not JSON: {e}")))?)
        }
    };
    let others = numbers(&form.others)?;
    blocking(&shared, move |lab| {
        let tuned = Tuned { revision: form.revision, values, masks, off };
        let (frame, followed) = match others.is_empty() {
            true => (lab.tune(id, tuned)?, 0),
            false => lab.tune_all(id, tuned, &others)?,
        };
        if followed > 0 {
            lab.thumbnails_soon(&others);
        }
        Ok(Answer::new(lab, &frame, &OnBench::named(&form.station, form.page), form.anew, ""))
    })
    .await
    .map(Answer::respond)
}

#[derive(Deserialize)]
pub struct StepForm {
    revision: i64,
    station: String,
    #[serde(default)]
    page: usize,
    step: String,
    /// The step's number, to go to one.
    #[serde(default)]
    to: i64,
    /// Frames that took the same step go back with it.
    #[serde(default)]
    together: bool,
}

#[post("/frames/{id}/step")]
pub async fn take_step(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<StepForm>,
) -> Result<HttpResponse, WebError> {
    let (id, form) = (id.into_inner(), form.into_inner());
    blocking(&shared, move |lab| {
        let step = match form.step.as_str() {
            "undo" if form.together => {
                let Stepped { frame, message } = lab.undo_all(id, form.revision)?;
                return Ok(Answer::new(lab, &frame, &OnBench::named(&form.station, form.page), true, &message));
            }
            "undo" => Step::Undo,
            "redo" => Step::Redo,
            "to" => Step::To(form.to),
            other => return Err(WebError::Unusable(format!("there is no step '{}'", shortened(other)))),
        };
        let Stepped { frame, message } = lab.step(id, form.revision, step)?;
        Ok(Answer::new(lab, &frame, &OnBench::named(&form.station, form.page), true, &message))
    })
    .await
    .map(Answer::respond)
}

#[derive(Deserialize)]
pub struct StockForm {
    revision: i64,
    #[serde(default)]
    station: String,
    #[serde(default)]
    page: usize,
    stock: String,
    /// The tuning is carried over as distances.
    #[serde(default)]
    keep: bool,
}

#[post("/frames/{id}/stock")]
pub async fn load_stock(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<StockForm>,
) -> Result<HttpResponse, WebError> {
    let (id, form) = (id.into_inner(), form.into_inner());
    blocking(&shared, move |lab| {
        let Stepped { frame, message } = lab.load_stock(id, form.revision, &form.stock, form.keep)?;
        Ok(Answer::new(lab, &frame, &OnBench::named(&form.station, form.page), true, &message))
    })
    .await
    .map(Answer::respond)
}

#[derive(Deserialize)]
pub struct KeepForm {
    revision: i64,
    station: String,
    #[serde(default)]
    page: usize,
    name: String,
    family: String,
    #[serde(default)]
    notes: String,
}

/// Keeps the tuning as a stock of one's own.
#[post("/frames/{id}/keep")]
pub async fn keep_as_stock(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<KeepForm>,
) -> Result<HttpResponse, WebError> {
    let (id, form) = (id.into_inner(), form.into_inner());
    blocking(&shared, move |lab| {
        let called = named(form.name, form.family, form.notes)?;
        let frame = lab.keep_as_stock(id, form.revision, &called)?;
        let message = format!("Kept as {}. It stands on the stock board under Mine.", frame.stock.name());
        Ok(Answer::new(lab, &frame, &OnBench::named(&form.station, form.page), true, &message))
    })
    .await
    .map(Answer::respond)
}

/// A stock's name as a person typed it.
pub fn named(name: String, family: String, notes: String) -> Result<StockName, WebError> {
    if name.trim().is_empty() {
        return Err(WebError::Unusable("a stock needs a name".into()));
    }
    let family = if family.trim().is_empty() { "mine".into() } else { family };
    Ok(StockName { name, family, notes })
}
