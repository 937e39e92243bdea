//! The rack: what a frame is compared with, as small prints; proofs kept, named, taken back, dropped.

use actix_web::{HttpResponse, delete, post, web};
use amber_core::Development;
use amber_lab::{Against, Lab, Stepped};
use amber_library::{Frame, Library, LibraryError, Proof};
use askama::Template;
use serde::Deserialize;

use super::bench::OnBench;
use super::development::Answer;
use crate::error::WebError;
use crate::{Shared, blocking};

/// A small print on the rack.
pub struct PrintView {
    /// What the page's script asks for: `original`, `stock`, `proof:3`.
    pub of: String,
    pub name: String,
    /// The address of its small picture.
    pub picture: String,
    /// What pressing it does.
    pub help: String,
    /// The proof's number; none for what is always there.
    pub proof: Option<i64>,
}

impl PrintView {
    fn new(of: String, name: String, picture: String, proof: Option<i64>) -> Self {
        let back = if proof.is_some() { "; twice to take it back" } else { "" };
        let help = format!(
            "{name}: press to compare with it, hold to see it; with Shift it stands on the picture's own side{back}"
        );
        Self { of, name, picture, help, proof }
    }
}

/// All of them.
#[derive(Template)]
#[template(path = "partials/prints.html")]
pub struct PrintsView {
    upright: bool,
    prints: Vec<PrintView>,
    swapped: bool,
}

/// Names a picture by all that it depends on, for its address.
pub fn development_version(content: &str, development: &Development) -> String {
    let both = format!("{content} {}", development.to_json());
    blake3::hash(both.as_bytes()).to_hex()[..16].to_owned()
}

impl PrintsView {
    pub fn new(lab: &Lab, frame: &Frame, swapped: bool) -> Result<Self, WebError> {
        let f = &frame.summary;
        let address = |of: &str, v: &str| format!("/frames/{}/thumbnail?{of}&v={v}", f.id);
        let plain = lab.against(frame, &f.development, Against::Stock)?;
        let proof = |proof: Proof| {
            let of = format!("proof:{}", proof.id);
            let v = development_version(&f.content, &proof.development);
            PrintView::new(of.clone(), proof.name, address(&format!("of={of}"), &v), Some(proof.id))
        };
        let always = [
            ("original", "Original".to_owned(), address("original=true", &f.content)),
            ("stock", frame.stock.name(), address("of=stock", &development_version(&f.content, &plain))),
        ];
        let always = always.map(|(of, name, picture)| PrintView::new(of.into(), name, picture, None));
        let prints = always.into_iter().chain(lab.library.proofs(f.id)?.into_iter().map(proof)).collect();
        Ok(Self { upright: f.height > f.width, prints, swapped })
    }
}

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
