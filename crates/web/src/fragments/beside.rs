//! Files beside a frame's picture: its look as a table, its readings, its development.

use actix_web::{HttpResponse, route, web};
use amber_core::look::{HALD_LEVELS, SIZES};
use amber_lab::{LookForm, safe_name};
use serde::Deserialize;

use super::exports::saved_as;
use crate::error::WebError;
use crate::{Shared, blocking};

#[derive(Deserialize)]
pub struct Asked {
    form: String,
    size: u32,
}

/// The look of a frame as a table.
#[route("/frames/{id}/look", method = "GET", method = "HEAD")]
pub async fn look(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<Asked>,
) -> Result<HttpResponse, WebError> {
    let (id, Asked { form, size }) = (id.into_inner(), asked.into_inner());
    let (form, ending, kind) = match form.as_str() {
        "cube" if SIZES.contains(&size) => (LookForm::Cube(size), "cube", "text/plain; charset=utf-8"),
        "hald" if HALD_LEVELS.contains(&size) => (LookForm::Hald(size), "png", "image/png"),
        _ => {
            return Err(WebError::Unusable(
                "a table is a cube of 17, 33 or 65, or a Hald picture of level 4 or 8".into(),
            ));
        }
    };
    let (name, bytes) = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let name = safe_name(&format!("{} {}", frame.summary.name, frame.stock.name()))?;
        Ok((format!("{name}.{ending}"), lab.look_of(id, form)?))
    })
    .await?;
    Ok(HttpResponse::Ok().content_type(kind).insert_header(saved_as(&name)).body(bytes))
}

/// The readings of a frame as CSV.
#[route("/frames/{id}/readings.csv", method = "GET", method = "HEAD")]
pub async fn csv(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    let (name, text) = blocking(&shared, move |lab| {
        let name = safe_name(&lab.library.frame(id)?.summary.name)?;
        Ok((format!("{name} readings.csv"), lab.readings_csv(id)?))
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("text/csv; charset=utf-8").insert_header(saved_as(&name)).body(text))
}

/// The development of a frame as a sidecar file, to lie beside its original.
#[route("/frames/{id}/sidecar", method = "GET", method = "HEAD")]
pub async fn sidecar(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    let (name, text) = blocking(&shared, move |lab| {
        let name = safe_name(&lab.library.frame(id)?.summary.name)?;
        Ok((format!("{name}.xmp"), lab.sidecar(id)?))
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("application/rdf+xml").insert_header(saved_as(&name)).body(text))
}
