//! Uploads, bounded in bytes; the pixels are bounded when the file is opened.

use actix_multipart::{Field, Multipart, MultipartError};
use actix_web::{HttpResponse, post, web};
use futures_util::TryStreamExt;
use serde_json::json;

use crate::error::WebError;
use crate::refusals::payload;
use crate::{Shared, blocking};

fn unreadable(error: MultipartError) -> WebError {
    match error {
        MultipartError::Payload(e) => payload(&e),
        MultipartError::Incomplete => WebError::CutOff,
        _ => WebError::Unusable("this upload cannot be read: its headers are not those of a form with a file".into()),
    }
}

/// The file's name as it is on the sender's machine: forms write a quote as %22, and line ends as %0D and %0A.
fn name_of(part: &Field) -> Option<String> {
    let name = part.content_disposition()?.get_filename()?;
    Some(name.replace("%22", "\"").replace("%0D", " ").replace("%0A", " "))
}

/// The one file of a request: its name and its bytes.
pub async fn one_file(limit: usize, mut parts: Multipart) -> Result<(String, Vec<u8>), WebError> {
    let mut file: Option<(String, Vec<u8>)> = None;
    let mut taken = 0;
    while let Some(mut part) = parts.try_next().await.map_err(unreadable)? {
        let name = name_of(&part);
        let mut bytes = Vec::new();
        while let Some(chunk) = part.try_next().await.map_err(unreadable)? {
            taken += chunk.len();
            if taken > limit {
                return Err(WebError::TooLarge(limit >> 20));
            }
            if name.is_some() {
                bytes.extend_from_slice(&chunk);
            }
        }
        match name {
            Some(_) if file.is_some() => {
                return Err(WebError::Unusable("two files came at once; send one a request".into()));
            }
            Some(name) => file = Some((name, bytes)),
            None => {}
        }
    }
    file.ok_or_else(|| WebError::Unusable("no file came with the upload".into()))
}

/// One file a request. Answers with the new frame's number.
#[post("/rolls/{id}/frames")]
pub async fn add_frame(
    shared: web::Data<Shared>,
    roll: web::Path<i64>,
    parts: Multipart,
) -> Result<HttpResponse, WebError> {
    let (name, bytes) = one_file(shared.settings.upload_bytes, parts).await?;
    let roll = roll.into_inner();
    let answer = blocking(&shared, move |lab| {
        let id = lab.import(roll, &name, &bytes)?;
        lab.thumbnails_soon(&[id]);
        let brought = lab.brought(&bytes)?;
        let brought = brought.map(|b| json!({ "name": b.name, "stock": b.stock, "original": b.original_here }));
        Ok(json!({ "id": id, "brought": brought }))
    })
    .await?;
    Ok(HttpResponse::Created().json(answer))
}

/// Takes up the development that a frame's file brought along. Answers with the new frame's number.
#[post("/frames/{id}/take-up")]
pub async fn take_up(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    let taken = blocking(&shared, move |lab| {
        let taken = lab.take_up(id)?;
        lab.thumbnails_soon(&[taken]);
        Ok(taken)
    })
    .await?;
    Ok(HttpResponse::Created().json(json!({ "id": taken })))
}

/// A picture to be laid on others. Answers with its hash and its name.
#[post("/pictures")]
pub async fn add_picture(shared: web::Data<Shared>, parts: Multipart) -> Result<HttpResponse, WebError> {
    let (name, bytes) = one_file(shared.settings.upload_bytes, parts).await?;
    let kept = blocking(&shared, move |lab| Ok(lab.add_picture(&name, &bytes)?)).await?;
    Ok(HttpResponse::Created().json(json!({ "hash": kept.hash, "name": kept.name })))
}
