//! Two to four frames side by side, for an even roll.

use actix_web::{HttpResponse, route, web};
use amber_core::controls::Value;
use amber_core::stations;
use amber_lab::{Lab, frame_size};
use askama::Template;
use serde::Deserialize;

use super::html;
use crate::error::WebError;
use crate::fragments::sheet::numbers;
use crate::{Shared, blocking};

/// Most frames side by side.
const MOST: usize = 4;
/// What is evened out most: each frame's own light, and its print.
const EVENED: [&str; 4] = ["scene.exposure", "scene.temperature", "scene.tint", "print.exposure"];

/// A value that can be typed.
struct FieldView {
    id: &'static str,
    label: String,
    written: String,
    number: f64,
    step: f64,
    low: f64,
    high: f64,
}

/// One of the frames.
struct BesideView {
    id: i64,
    name: String,
    number: String,
    stock: String,
    version: String,
    width: u32,
    height: u32,
    fields: Vec<FieldView>,
}

#[derive(Template)]
#[template(path = "pages/beside.html")]
struct BesidePage {
    version: &'static str,
    roll: i64,
    roll_name: String,
    frames: Vec<BesideView>,
}

#[derive(Deserialize)]
pub struct Asked {
    ids: String,
}

#[route("/rolls/{id}/beside", method = "GET", method = "HEAD")]
pub async fn show(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<Asked>,
) -> Result<HttpResponse, WebError> {
    let (id, ids) = (id.into_inner(), numbers(&asked.ids)?);
    if ids.is_empty() || ids.len() > MOST {
        return Err(WebError::Unusable(format!("2 to {MOST} frames stand side by side; choose as many")));
    }
    let page = blocking(&shared, move |lab| {
        Ok(BesidePage {
            version: crate::assets::version(),
            roll: id,
            roll_name: lab.library.roll(id)?.name,
            frames: ids.iter().map(|id| view(lab, *id)).collect::<Result<_, _>>()?,
        })
    })
    .await?;
    html(&page)
}

fn view(lab: &Lab, id: i64) -> Result<BesideView, WebError> {
    let frame = lab.library.frame(id)?;
    let values = frame.summary.development.written(&frame.stock);
    let size = frame_size(&frame.summary, &frame.summary.development, &frame.stock);
    let field = |id: &&'static str| {
        let control = stations::find(id).ok().filter(|control| (control.applies)(&frame.stock))?;
        let amber_core::controls::Kind::Scalar { low, high, step, .. } = control.kind else { return None };
        let number = values.number(control);
        let written = control.written(&Value::Number(number));
        Some(FieldView { id, label: control.full_label(), written, number, step, low, high })
    };
    Ok(BesideView {
        id,
        name: frame.summary.name.clone(),
        number: format!("{:02}", frame.summary.position),
        stock: frame.stock.name(),
        version: frame.summary.version(),
        width: size.width,
        height: size.height,
        fields: EVENED.iter().filter_map(field).collect(),
    })
}
