//! Removing frames.

use actix_web::{HttpResponse, delete, web};

use crate::error::WebError;
use crate::{Shared, blocking};

/// Takes a frame off its roll; its cell is swapped for nothing.
#[delete("/frames/{id}")]
pub async fn remove(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    blocking(&shared, move |lab| Ok(lab.library.remove_frame(id)?)).await?;
    Ok(HttpResponse::Ok().finish())
}
