//! Styles, scripts and fonts, embedded in the binary.

use actix_web::http::header;
use actix_web::{HttpResponse, route, web};
use rust_embed::Embed;

use crate::error::WebError;

#[derive(Embed)]
#[folder = "assets"]
struct Assets;

#[route("/assets/{path:.*}", method = "GET", method = "HEAD")]
pub async fn asset(path: web::Path<String>) -> Result<HttpResponse, WebError> {
    let file = Assets::get(&path).ok_or(WebError::NoPage)?;
    let media_type = match path.rsplit('.').next() {
        Some("css") => "text/css; charset=utf-8",
        Some("js") => "text/javascript; charset=utf-8",
        Some("woff2") => "font/woff2",
        Some("svg") => "image/svg+xml",
        _ => "text/plain; charset=utf-8",
    };
    // addressed with the version in the query, so a new one is fetched; fonts never change
    let caching = if path.starts_with("vendor/") { "public, max-age=604800" } else { "no-cache" };
    Ok(HttpResponse::Ok()
        .content_type(media_type)
        .insert_header((header::CACHE_CONTROL, caching))
        .body(file.data.into_owned()))
}
