//! Styles, scripts and fonts, embedded in the binary.

use std::sync::LazyLock;

use actix_web::http::header;
use actix_web::{HttpResponse, route, web};
use rust_embed::Embed;

use crate::error::WebError;

#[derive(Embed)]
#[folder = "assets"]
struct Assets;

/// Names all of them by what they hold: a part of their addresses, so that a browser keeps each for good.
pub fn version() -> &'static str {
    static VERSION: LazyLock<String> = LazyLock::new(|| {
        let mut hash = blake3::Hasher::new();
        for path in Assets::iter() {
            hash.update(path.as_bytes());
            if let Some(file) = Assets::get(&path) {
                hash.update(&file.metadata.sha256_hash());
            }
        }
        hash.finalize().to_hex()[..12].to_owned()
    });
    &VERSION
}

#[route("/assets/{version}/{path:.*}", method = "GET", method = "HEAD")]
pub async fn asset(path: web::Path<(String, String)>) -> Result<HttpResponse, WebError> {
    let (asked, path) = path.into_inner();
    let file = Assets::get(&path).ok_or(WebError::NoPage)?;
    let media_type = match path.rsplit('.').next() {
        Some("css") => "text/css; charset=utf-8",
        Some("js") => "text/javascript; charset=utf-8",
        Some("woff2") => "font/woff2",
        Some("svg") => "image/svg+xml",
        Some("jpg") => "image/jpeg",
        _ => "text/plain; charset=utf-8",
    };
    let named = asked == version();
    let caching = if named { "public, max-age=31536000, immutable" } else { "no-cache" };
    Ok(HttpResponse::Ok()
        .content_type(media_type)
        .insert_header((header::CACHE_CONTROL, caching))
        .body(file.data.into_owned()))
}
