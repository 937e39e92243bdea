//! Naming and removing frames.

use actix_web::{HttpResponse, delete, post, web};
use serde::Deserialize;

use crate::error::WebError;
use crate::{Shared, blocking};

#[derive(Deserialize)]
pub struct Named {
    name: String,
}

#[post("/frames/{id}/name")]
pub async fn rename(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<Named>,
) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    blocking(&shared, move |lab| Ok(lab.library.rename_frame(id, &form.name)?)).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Takes a frame off its roll; its cell is swapped for nothing.
#[delete("/frames/{id}")]
pub async fn remove(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    blocking(&shared, move |lab| Ok(lab.library.remove_frame(id)?)).await?;
    Ok(HttpResponse::Ok().finish())
}
