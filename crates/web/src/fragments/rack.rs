//! Proofs kept, named, taken back, dropped: what is done on the rack.

use actix_web::{HttpResponse, delete, post, web};
use amber_lab::Stepped;
use amber_library::{Library, LibraryError};
use askama::Template;
use serde::Deserialize;

use super::bench::OnBench;
use super::development::Answer;
use super::prints::PrintsView;
use crate::error::WebError;
use crate::{Shared, blocking};

/// Changes a frame's proofs; the rack is drawn anew.
async fn changed(
    shared: &web::Data<Shared>,
    frame: i64,
    work: impl FnOnce(&Library) -> Result<(), LibraryError> + Send + 'static,
) -> Result<HttpResponse, WebError> {
    let prints = blocking(shared, move |lab| {
        work(&lab.library)?;
        Ok(PrintsView::new(lab, &lab.library.frame(frame)?, true)?.render()?)
    });
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(prints.await?))
}

#[derive(Deserialize)]
pub struct Named {
    #[serde(default)]
    name: String,
}

/// Keeps the frame as it is kept now; without a name it gets a number.
#[post("/frames/{id}/proofs")]
pub async fn keep(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<Named>,
) -> Result<HttpResponse, WebError> {
    let (id, form) = (id.into_inner(), form.into_inner());
    changed(&shared, id, move |library| {
        library.keep_proof(id, Some(form.name.as_str()).filter(|name| !name.is_empty())).map(drop)
    })
    .await
}

#[post("/frames/{id}/proofs/{proof}/name")]
pub async fn rename(
    shared: web::Data<Shared>,
    path: web::Path<(i64, i64)>,
    form: web::Form<Named>,
) -> Result<HttpResponse, WebError> {
    let ((id, proof), form) = (path.into_inner(), form.into_inner());
    changed(&shared, id, move |library| library.rename_proof(id, proof, &form.name)).await
}

#[delete("/frames/{id}/proofs/{proof}")]
pub async fn remove(shared: web::Data<Shared>, path: web::Path<(i64, i64)>) -> Result<HttpResponse, WebError> {
    let (id, proof) = path.into_inner();
    changed(&shared, id, move |library| library.drop_proof(id, proof, true)).await
}

/// Takes a proof back that was dropped.
#[post("/frames/{id}/proofs/{proof}/back")]
pub async fn restore(shared: web::Data<Shared>, path: web::Path<(i64, i64)>) -> Result<HttpResponse, WebError> {
    let (id, proof) = path.into_inner();
    changed(&shared, id, move |library| library.drop_proof(id, proof, false)).await
}

#[derive(Deserialize)]
pub struct Taking {
    revision: i64,
    station: String,
    #[serde(default)]
    page: usize,
}

/// Takes a proof's values back.
#[post("/frames/{id}/proofs/{proof}/take")]
pub async fn take(
    shared: web::Data<Shared>,
    path: web::Path<(i64, i64)>,
    form: web::Form<Taking>,
) -> Result<HttpResponse, WebError> {
    let ((id, proof), form) = (path.into_inner(), form.into_inner());
    blocking(&shared, move |lab| {
        let Stepped { frame, message } = lab.take_proof(id, form.revision, proof)?;
        Ok(Answer::new(lab, &frame, &OnBench::named(&form.station, form.page), true, &message))
    })
    .await
    .map(Answer::respond)
}
