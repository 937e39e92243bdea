//! Matches by their number: how far they are, what was found, given up.

use actix_web::{HttpResponse, delete, get, web};
use amber_lab::JobState;
use askama::Template;

use super::charts::FitView;
use super::matching::LooksView;
use super::running::RunningView;
use crate::Shared;
use crate::error::WebError;

/// How far it is, or what was found.
#[get("/matches/{job}")]
pub async fn state(shared: web::Data<Shared>, job: web::Path<u64>) -> Result<HttpResponse, WebError> {
    let id = job.into_inner();
    let job = shared.lab.found(id)?;
    let html = match job.state() {
        JobState::Running(done, all) => RunningView::at(id, 100 * done / all).render()?,
        JobState::Failed(why) => return Err(WebError::Unusable(why.into())),
        JobState::Done(_) => match (job.look(), job.frame, job.fit()) {
            (Some(found), Some(_), _) => LooksView::new(id, found).render()?,
            (_, _, Some(fit)) => FitView::new(id, fit).render()?,
            _ => return Err(WebError::NoPage),
        },
    };
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(html))
}

/// Gives a match up.
#[delete("/matches/{job}")]
pub async fn cancel_match(shared: web::Data<Shared>, job: web::Path<u64>) -> Result<HttpResponse, WebError> {
    shared.lab.found(job.into_inner())?.cancel();
    Ok(HttpResponse::Ok().finish())
}
