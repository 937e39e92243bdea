//! Uploads, bounded in bytes; the pixels are bounded when the file is opened.

use actix_multipart::Multipart;
use actix_web::{HttpResponse, post, web};
use askama::Template;
use futures_util::TryStreamExt;

use crate::error::WebError;
use crate::pages::roll::FrameCell;
use crate::{Shared, blocking};

/// One file a request. Answers with the new frame's cell of the contact sheet.
#[post("/rolls/{id}/frames")]
pub async fn add_frame(
    shared: web::Data<Shared>,
    roll: web::Path<i64>,
    mut parts: Multipart,
) -> Result<HttpResponse, WebError> {
    let limit = shared.settings.upload_bytes;
    let mut file: Option<(String, Vec<u8>)> = None;
    while let Some(mut part) = parts.try_next().await.map_err(|_| WebError::CutOff)? {
        let name = part.content_disposition().and_then(|d| d.get_filename()).map(str::to_owned);
        let mut bytes = Vec::new();
        while let Some(chunk) = part.try_next().await.map_err(|_| WebError::CutOff)? {
            if bytes.len() + chunk.len() > limit {
                return Err(WebError::TooLarge(limit >> 20));
            }
            bytes.extend_from_slice(&chunk);
        }
        if let Some(name) = name {
            file = Some((name, bytes));
        }
    }
    let (name, bytes) = file.ok_or_else(|| WebError::Unusable("no file came with the upload".into()))?;
    let roll = roll.into_inner();
    let cell = blocking(&shared, move |lab| {
        let id = lab.import(roll, &name, &bytes)?;
        Ok(FrameCell::new(&lab.library.frame(id)?))
    })
    .await?;
    Ok(HttpResponse::Created().content_type("text/html; charset=utf-8").body(cell.render()?))
}
