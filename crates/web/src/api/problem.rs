//! Errors of the interface for scripts: problem details (RFC 9457).

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError, web};
use serde::Serialize;
use utoipa::ToSchema;

use crate::LARGEST_BODY;
use crate::error::{WebError, first_upper};
use crate::refusals;

/// What went wrong.
#[derive(Debug, thiserror::Error)]
#[error(transparent)]
pub struct Problem(pub WebError);

/// As it is sent.
#[derive(Serialize, ToSchema)]
pub struct Details {
    /// Always `about:blank`: the status says the kind.
    r#type: &'static str,
    title: String,
    status: u16,
    /// What is wrong and what to do, in a sentence.
    detail: String,
}

impl<E: Into<WebError>> From<E> for Problem {
    fn from(error: E) -> Self {
        Self(error.into())
    }
}

/// The answer to a problem of a status.
pub fn answer(status: StatusCode, detail: &str) -> HttpResponse {
    let details = Details {
        r#type: "about:blank",
        title: status.canonical_reason().unwrap_or("Problem").into(),
        status: status.as_u16(),
        detail: first_upper(detail),
    };
    HttpResponse::build(status).content_type("application/problem+json").json(details)
}

impl ResponseError for Problem {
    fn status_code(&self) -> StatusCode {
        match &self.0 {
            // somebody who asks for a picture that was given up gets no picture
            WebError::Lab(error) if error.is_abandoned() => StatusCode::SERVICE_UNAVAILABLE,
            error => error.status_code(),
        }
    }

    fn error_response(&self) -> HttpResponse {
        if self.status_code().is_server_error() {
            tracing::error!("{self}");
        }
        answer(self.status_code(), &self.0.to_string())
    }
}

/// Requests that cannot be read are problems too.
pub fn configure(config: &mut web::ServiceConfig) {
    config
        .app_data(
            web::JsonConfig::default().limit(LARGEST_BODY).error_handler(|e, _| Problem(refusals::json(&e)).into()),
        )
        .app_data(
            web::QueryConfig::default().error_handler(|e, _| Problem(refusals::unreadable(&e.to_string())).into()),
        )
        .app_data(web::PathConfig::default().error_handler(|_, _| Problem(WebError::NoPage).into()));
}
