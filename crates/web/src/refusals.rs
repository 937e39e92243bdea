//! Requests that cannot be read, in sentences.

use actix_web::error::{JsonPayloadError, PayloadError, UrlencodedError};
use actix_web::http::Method;
use actix_web::{HttpRequest, HttpResponse, web};
use amber_core::text::shortened_to;

use crate::LARGEST_BODY;
use crate::error::WebError;

/// Most characters of what a reader of JSON or of a form complains about.
const LONGEST: usize = 160;

pub fn configure(config: &mut web::ServiceConfig) {
    config
        .app_data(web::JsonConfig::default().limit(LARGEST_BODY).error_handler(|e, _| json(&e).into()))
        .app_data(web::FormConfig::default().limit(LARGEST_BODY).error_handler(|e, _| form(&e).into()))
        .app_data(web::PayloadConfig::default().limit(LARGEST_BODY))
        .app_data(web::QueryConfig::default().error_handler(|e, _| unreadable(&e.to_string()).into()))
        .app_data(web::PathConfig::default().error_handler(|_, _| WebError::NoPage.into()));
}

pub fn unreadable(why: &str) -> WebError {
    WebError::Unusable(format!("this request cannot be read: {}", shortened_to(why, LONGEST)))
}

pub fn json(error: &JsonPayloadError) -> WebError {
    match error {
        JsonPayloadError::Overflow { .. } | JsonPayloadError::OverflowKnownLength { .. } => too_large(),
        JsonPayloadError::ContentType => WebError::WrongKind("JSON"),
        JsonPayloadError::Deserialize(e) => unreadable(&e.to_string()),
        JsonPayloadError::Payload(e) => payload(e),
        _ => unreadable("it is no JSON"),
    }
}

fn form(error: &UrlencodedError) -> WebError {
    match error {
        UrlencodedError::Overflow { .. } => too_large(),
        UrlencodedError::ContentType => WebError::WrongKind("a form"),
        UrlencodedError::Parse(e) => unreadable(&e.to_string()),
        UrlencodedError::Payload(e) => payload(e),
        _ => unreadable("it is no form"),
    }
}

fn too_large() -> WebError {
    WebError::TooLarge(LARGEST_BODY >> 20)
}

/// What went wrong while a body came in.
pub fn payload(error: &PayloadError) -> WebError {
    match error {
        PayloadError::Io(e) if e.kind() == std::io::ErrorKind::TimedOut => WebError::Stalled,
        PayloadError::Overflow => too_large(),
        _ => WebError::CutOff,
    }
}

/// Any address that leads nowhere, or is asked in a way that it does not answer.
pub async fn missing(request: HttpRequest) -> Result<HttpResponse, WebError> {
    if !request.resource_map().has_resource(request.path()) {
        return Err(WebError::NoPage);
    }
    let answers = if matches!(*request.method(), Method::GET | Method::HEAD) { "POST, DELETE" } else { "GET, HEAD" };
    Err(WebError::WrongMethod(answers))
}
