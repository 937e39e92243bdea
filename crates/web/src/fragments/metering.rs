//! Metering: the proposal on the bench, before and after.

use amber_core::stations;
use std::collections::{BTreeMap, BTreeSet};

use actix_web::{HttpResponse, post, web};
use amber_core::controls::Value;
use amber_core::{CoreError, Stock};
use amber_lab::Metering;
use askama::Template;
use serde::Deserialize;

use crate::draw::exposures::{self, Beside};
use crate::error::WebError;

use crate::{Shared, blocking};

/// Foot of the exposure axis in the two drawings.
const FOOT: f64 = 112.0;

/// One value, before and after.
struct ProposedValue {
    label: &'static str,
    before: String,
    after: String,
    moved: bool,
}

/// The proposal, in the place of the bench.
#[derive(Template)]
#[template(path = "partials/metering.html")]
struct MeteringView {
    frame: i64,
    before: String,
    after: String,
    values: Vec<ProposedValue>,
    /// The proposed values by control, as JSON.
    proposed: String,
    any: bool,
}

impl MeteringView {
    fn new(
        frame: i64,
        metering: &Metering,
        before: &BTreeMap<String, Value>,
        stock: &Stock,
    ) -> Result<Self, CoreError> {
        let drawn = |reading| {
            let beside = Beside { straight: Some(metering.straight_line), named: true, ..Beside::default() };
            exposures::wide(reading, FOOT, &beside)
        };
        let mut values = Vec::new();
        let mut proposed = BTreeMap::new();
        for id in &metering.controls {
            let control = stations::find(id)?;
            let value =
                |tuned: &BTreeMap<String, Value>| tuned.get(*id).cloned().unwrap_or_else(|| control.own_value(stock));
            let (old, new) = (value(before), value(&metering.proposed.values));
            values.push(ProposedValue {
                label: control.label,
                before: control.written(&old),
                after: control.written(&new),
                moved: old != new,
            });
            proposed.insert(*id, new);
        }
        Ok(Self {
            frame,
            before: drawn(&metering.before),
            after: drawn(&metering.after),
            any: values.iter().any(|v| v.moved),
            values,
            proposed: serde_json::to_string(&proposed).unwrap_or_default(),
        })
    }
}

#[derive(Deserialize)]
pub struct Asked {
    values: BTreeMap<String, Value>,
    off: Option<BTreeSet<String>>,
}

/// What metering proposes for the values in force; nothing is stored.
#[post("/frames/{id}/metering")]
pub async fn propose(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<Asked>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let html = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let development = frame.summary.development.with(asked.values, None, asked.off)?;
        let metering = lab.metering(id, &development)?;
        Ok(MeteringView::new(id, &metering, &development.values, &frame.stock)?.render()?)
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(html))
}
