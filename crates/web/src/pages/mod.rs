//! Whole pages.

pub mod bench;
pub mod beside;
pub mod board;
pub mod charts;
pub mod guide;
pub mod matching;
pub mod metering;
pub mod presets;
pub mod roll;
pub mod sheets;
pub mod sign_in;
pub mod stocks;

use actix_web::HttpResponse;
use askama::Template;

use crate::error::WebError;

/// A page or fragment as an answer.
pub fn html(template: &impl Template) -> Result<HttpResponse, WebError> {
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(template.render()?))
}
