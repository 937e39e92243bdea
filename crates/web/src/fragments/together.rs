//! Frames beside the one on the bench: what a neighbour is, and where chosen frames differ.

use std::collections::BTreeMap;

use actix_web::{HttpResponse, route, web};
use amber_lab::{Differs, frame_size};
use serde::Deserialize;
use serde_json::{Value, json};

use super::sheet::numbers;
use crate::error::WebError;
use crate::{Shared, blocking};

/// What a page has to know of a frame to show it before it stands on the bench.
#[route("/frames/{id}/card", method = "GET", method = "HEAD")]
pub async fn card(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    let card = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let framed = frame_size(&frame.summary, &frame.summary.development, &frame.stock);
        Ok(json!({
            "id": id,
            "name": frame.summary.name,
            "version": frame.summary.version(),
            "width": framed.width,
            "height": framed.height,
        }))
    })
    .await?;
    Ok(HttpResponse::Ok().json(card))
}

#[derive(Deserialize)]
pub struct Which {
    ids: String,
}

/// The controls on which some frames differ: the least and the most, or nothing where it is no number.
#[route("/selection/differing", method = "GET", method = "HEAD")]
pub async fn differing(shared: web::Data<Shared>, which: web::Query<Which>) -> Result<HttpResponse, WebError> {
    let ids = numbers(&which.ids)?;
    let differing = blocking(&shared, move |lab| Ok(lab.differing(&ids)?)).await?;
    let said = |differs| match differs {
        Differs::Between(least, most) => json!([least, most]),
        Differs::Otherwise => Value::Null,
    };
    let differing: BTreeMap<String, Value> = differing.into_iter().map(|(id, how)| (id, said(how))).collect();
    Ok(HttpResponse::Ok().json(differing))
}
