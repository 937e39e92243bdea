//! Metering a roll: what is proposed for the chosen frames, before and after, to be taken one by one or together.

use std::collections::BTreeMap;

use actix_web::{HttpResponse, route, web};
use amber_core::controls::Value;
use amber_lab::{FrameMetering, Lab};
use askama::Template;
use serde::Deserialize;

use super::html;
use crate::error::WebError;
use crate::fragments::sheet::numbers;
use crate::{Shared, blocking};

/// Most frames that are metered at once: each has to be opened.
const MOST: usize = 200;

/// A value before and after.
struct ChangeView {
    label: String,
    before: String,
    after: String,
    moved: bool,
}

/// A frame's row.
struct RowView {
    id: i64,
    name: String,
    number: String,
    version: String,
    series: usize,
    /// It is the first of its series.
    begins: bool,
    changes: Vec<ChangeView>,
    moved: bool,
    /// The proposed values by control, as JSON.
    proposed: String,
    /// The same in an address.
    query: String,
}

#[derive(Template)]
#[template(path = "pages/metering.html")]
struct MeteringPage {
    version: &'static str,
    roll: i64,
    roll_name: String,
    ids: String,
    held: bool,
    seated: bool,
    rows: Vec<RowView>,
    moved: usize,
}

#[derive(Deserialize)]
pub struct Asked {
    ids: String,
    #[serde(default)]
    hold: bool,
    /// Contrast, zones and filtration too.
    #[serde(default)]
    seat: bool,
}

#[route("/rolls/{id}/metering", method = "GET", method = "HEAD")]
pub async fn show(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<Asked>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let ids = numbers(&asked.ids)?;
    if ids.is_empty() || ids.len() > MOST {
        return Err(WebError::Unusable(format!("1 to {MOST} frames are metered at once; choose fewer")));
    }
    let page = blocking(&shared, move |lab| page(lab, id, &ids, &asked)).await?;
    html(&page)
}

fn page(lab: &Lab, roll: i64, ids: &[i64], asked: &Asked) -> Result<MeteringPage, WebError> {
    let metered = lab.meter_roll(ids, asked.hold, asked.seat)?;
    let mut before = 0;
    let rows: Vec<RowView> = metered
        .iter()
        .map(|metering| {
            let begins = metering.series != before;
            before = metering.series;
            row(metering, begins)
        })
        .collect();
    Ok(MeteringPage {
        version: crate::assets::version(),
        roll,
        roll_name: lab.library.roll(roll)?.name,
        ids: asked.ids.clone(),
        held: asked.hold,
        seated: asked.seat,
        moved: rows.iter().filter(|row| row.moved).count(),
        rows,
    })
}

fn row(metering: &FrameMetering, begins: bool) -> RowView {
    let frame = &metering.frame;
    let change = |v: &amber_lab::Metered| ChangeView {
        label: v.label.clone(),
        before: v.words[0].clone(),
        after: v.words[1].clone(),
        moved: v.before != v.after,
    };
    let proposed: BTreeMap<&str, &Value> = metering.values.iter().map(|v| (v.id, &v.after)).collect();
    let proposed = serde_json::to_string(&proposed).unwrap_or_default();
    let changes: Vec<ChangeView> = metering.values.iter().map(change).collect();
    RowView {
        id: frame.id,
        name: frame.name.clone(),
        number: format!("{:02}", frame.position),
        version: frame.version(),
        series: metering.series,
        begins,
        moved: changes.iter().any(|change| change.moved),
        changes,
        query: escaped(&proposed),
        proposed,
    }
}

/// Text within an address: what is not plain is written as its bytes.
pub fn escaped(text: &str) -> String {
    let letter = |b: u8| match b {
        b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' | b'.' | b'-' | b'_' => char::from(b).to_string(),
        other => format!("%{other:02X}"),
    };
    text.bytes().map(letter).collect()
}
