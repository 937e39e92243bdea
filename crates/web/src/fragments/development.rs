//! Changing a frame's development: one step each, refused when another window was faster.

use amber_core::stations;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use actix_web::{HttpResponse, post, web};
use amber_core::controls::Value;
use amber_core::mask::Mask;
use amber_core::stock::StockName;
use amber_core::text::shortened;
use amber_core::{Development, Stock};
use amber_lab::Lab;
use amber_library::{Change, Frame, Step};
use askama::Template;
use serde::Deserialize;
use serde_json::json;

use super::bar::{PlateView, UndoView};
use super::bench::OnBench;
use super::line::LineView;
use super::rail::RailView;
use crate::draw::control::written;
use crate::error::WebError;
use crate::images::with_values;
use crate::{Shared, blocking};

/// What comes back after a change.
struct Answer {
    parts: String,
    /// Event for the page's script, as JSON.
    event: String,
}

impl Answer {
    /// `anew`: the bench's controls too, because their values were changed from elsewhere.
    ///
    /// What is answered was done: a part that cannot be drawn is left out and said, it does not turn the answer into a
    /// failure.
    fn new(lab: &Arc<Lab>, frame: &Frame, on_bench: &OnBench, anew: bool, message: &str) -> Self {
        let f = &frame.summary;
        let mut message = message.to_owned();
        let mut drawn = |part: Result<String, WebError>| {
            part.unwrap_or_else(|error| {
                message = format!("{message} This was kept, but could not be drawn: {error}.").trim().to_owned();
                String::new()
            })
        };
        let line = LineView::new(frame, on_bench.station(), true).map_err(WebError::from);
        let mut parts = drawn(PlateView::new(frame, true).render().map_err(WebError::from));
        parts += &drawn(UndoView::new(frame, true).render().map_err(WebError::from));
        parts += &drawn(line.and_then(|l| Ok(l.render()?)));
        parts += &drawn(RailView::new(lab, frame, true).and_then(|r| Ok(r.render()?)));
        if anew {
            parts += &drawn(on_bench.render(frame, true));
        }
        let state = json!({
            "revision": f.revision, "values": f.development.values, "stock": f.development.stock.id,
            "anew": anew, "message": message,
        });
        Self { parts, event: json!({ "ag:frame": state }).to_string() }
    }

    fn respond(self) -> HttpResponse {
        // header values are visible ASCII
        let event: String = self.event.chars().flat_map(ascii).collect();
        HttpResponse::Ok()
            .content_type("text/html; charset=utf-8")
            .insert_header(("HX-Trigger", event))
            .body(self.parts)
    }
}

/// A character as JSON writes it in visible ASCII.
fn ascii(c: char) -> Vec<char> {
    if (' '..='~').contains(&c) {
        return vec![c];
    }
    let mut units = [0; 2];
    c.encode_utf16(&mut units).iter().flat_map(|u| format!("\\u{u:04x}").chars().collect::<Vec<_>>()).collect()
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
    /// The bench is to be drawn anew, because its values were not changed by its own controls.
    #[serde(default)]
    anew: bool,
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
    blocking(&shared, move |lab| {
        let before = lab.library.frame(id)?;
        let stock = before.stock.clone();
        let mut all = before.summary.development.masks.clone();
        for (id, mask) in masks {
            match mask {
                Some(mask) => drop(all.insert(id, mask)),
                None => drop(all.remove(&id)),
            }
        }
        let mut development = with_values(before.summary.development.clone(), values, Some(all))?;
        // what equals the stock's own is not kept
        development.values.retain(|id, v| stations::find(id).is_ok_and(|c| c.own_value(&stock) != *v));
        let on_bench = OnBench::named(&form.station, form.page);
        if development == before.summary.development && form.revision == before.summary.revision {
            // nothing to keep: no step, and what could be done again stays
            return Ok(Answer::new(lab, &before, &on_bench, form.anew, ""));
        }
        let label = what_changed(&before.summary.development, &development, &stock);
        let change = Change { revision: form.revision, label, development };
        let frame = lab.library.commit(id, change, &stock)?;
        Ok(Answer::new(lab, &frame, &on_bench, form.anew, ""))
    })
    .await
    .map(Answer::respond)
}

/// A step of the history in words: "Push, pull +1.00 EV".
fn what_changed(before: &Development, after: &Development, stock: &Stock) -> String {
    let (old, new) = (before.values(stock), after.values(stock));
    let ids: BTreeSet<&str> = before.values.keys().chain(after.values.keys()).map(String::as_str).collect();
    let changed: Vec<_> = stations::in_order(&ids).filter(|c| old.value(c) != new.value(c)).collect();
    let masks: Vec<_> = after.masks.iter().filter(|(id, mask)| before.masks.get(*id) != Some(mask)).collect();
    let gone = before.masks.iter().find(|(id, _)| !after.masks.contains_key(*id));
    match changed.as_slice() {
        _ if gone.is_some() => format!("Mask {} deleted", gone.map_or("", |(_, mask)| &mask.name)),
        [] if masks.len() == 1 => format!("Mask {}", masks[0].1.name),
        [] if !masks.is_empty() => "Masks".into(),
        [] => "No change".into(),
        [one] => format!("{} {}", one.full_label(), written(one, &new.value(one))),
        several => several.iter().map(|c| c.full_label()).collect::<Vec<_>>().join(", "),
    }
}

#[derive(Deserialize)]
pub struct StepForm {
    revision: i64,
    station: String,
    #[serde(default)]
    page: usize,
    step: String,
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
            "undo" => Step::Undo,
            "redo" => Step::Redo,
            other => return Err(WebError::Unusable(format!("there is no step '{}'", shortened(other)))),
        };
        let before = lab.library.frame(id)?;
        let frame = lab.library.step(id, form.revision, step)?;
        let message = match step {
            Step::Undo => before.undo.map(|l| format!("Undone: {l}")),
            Step::Redo => before.redo.map(|l| format!("Done again: {l}")),
        };
        Ok(Answer::new(lab, &frame, &OnBench::named(&form.station, form.page), true, &message.unwrap_or_default()))
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
        let stock = lab.library.find_stock(&form.stock)?;
        let before = lab.library.frame(id)?;
        let mut development = before.summary.development;
        let message = if form.keep {
            let clipped = development.carry_to_stock(&before.stock, &stock);
            carried(&stock, &development, &clipped)
        } else {
            let replaced = development.change_stock(&stock);
            loaded(&stock, &development, &replaced)
        };
        let change = Change { revision: form.revision, label: format!("Stock {}", stock.name()), development };
        let frame = lab.library.commit(id, change, &stock)?;
        Ok(Answer::new(lab, &frame, &OnBench::named(&form.station, form.page), true, &message))
    })
    .await
    .map(Answer::respond)
}

/// What a new stock kept and what it replaced.
fn loaded(stock: &Stock, development: &Development, replaced: &[String]) -> String {
    let kept = labels(development.values.keys());
    let gone = labels(replaced.iter());
    let mut message = format!("{} loaded.", stock.name());
    if !kept.is_empty() {
        message += &format!(" Kept: {kept}.");
    }
    if !gone.is_empty() {
        message += &format!(" Back to the stock's own: {gone}.");
    }
    message
}

/// What of the tuning came along.
fn carried(stock: &Stock, development: &Development, clipped: &[String]) -> String {
    let mut message = format!("{} loaded with your tuning, {} values.", stock.name(), development.values.len());
    if !clipped.is_empty() {
        message += &format!(" At a limit or not on this stock: {}.", labels(clipped.iter()));
    }
    message
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

/// The labels of controls by id, in running text.
fn labels<'a>(ids: impl Iterator<Item = &'a String>) -> String {
    ids.filter_map(|id| stations::find(id).ok()).map(|c| c.full_label().to_lowercase()).collect::<Vec<_>>().join(", ")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_header_takes_any_name() {
        let header: String = "A\u{7f}B é \u{1F39E}\n".chars().flat_map(ascii).collect();
        assert_eq!(header, "A\\u007fB \\u00e9 \\ud83c\\udf9e\\u000a");
    }
}
