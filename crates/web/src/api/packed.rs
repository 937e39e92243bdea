//! Packed files, and what lies beside a picture.

use actix_multipart::Multipart;
use actix_web::{HttpResponse, get, post, web};
use amber_core::look::SIZES;
use amber_lab::{LabError, LookForm, safe_name};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::Answer;
use crate::error::WebError;
use crate::packed::streamed;
use crate::upload::one_file;
use crate::{Shared, blocking};

/// The files of a batch as one ZIP, each as soon as it is made.
#[utoipa::path(params(("batch" = i64, Path)), responses((status = 200, body = Vec<u8>)))]
#[get("/batches/{batch}/zip")]
pub async fn zip(shared: web::Data<Shared>, batch: web::Path<i64>) -> Answer {
    let batch = batch.into_inner();
    if shared.lab.exports_of(batch)?.is_empty() {
        return Err(LabError::NoExport(batch).into());
    }
    Ok(streamed(&shared.lab, "prints.zip", move |lab, out, over| lab.zip_exports(batch, out, over))?)
}

/// A whole roll as an archive.
#[utoipa::path(params(("id" = i64, Path)), responses((status = 200, body = Vec<u8>)))]
#[get("/rolls/{id}/archive")]
pub async fn archive(shared: web::Data<Shared>, id: web::Path<i64>) -> Answer {
    let id = id.into_inner();
    let name = safe_name(&shared.lab.library.roll(id)?.name)?;
    Ok(streamed(&shared.lab, &format!("{name}.zip"), move |lab, out, over| lab.archive_roll(id, out, over))?)
}

#[derive(Serialize, ToSchema)]
pub struct Unpacked {
    roll: i64,
}

/// Reads an archive onto a new roll: the one file of a form.
#[utoipa::path(
    request_body(content = String, content_type = "multipart/form-data"),
    responses((status = 201, body = Unpacked)),
)]
#[post("/archives")]
pub async fn unpack(shared: web::Data<Shared>, parts: Multipart) -> Answer {
    let most = shared.settings.upload_bytes;
    let (_, bytes) = one_file(most, parts).await?;
    let roll = blocking(&shared, move |lab| Ok(lab.read_archive(std::io::Cursor::new(bytes), most as u64)?)).await?;
    Ok(HttpResponse::Created().json(Unpacked { roll }))
}

#[derive(Deserialize, IntoParams)]
pub struct LookSize {
    /// Colours of each channel: 17, 33 or 65.
    #[serde(default = "usual_size")]
    size: u32,
}

fn usual_size() -> u32 {
    33
}

/// A frame's look as a table (.cube).
#[utoipa::path(params(("id" = i64, Path), LookSize), responses((status = 200, body = String)))]
#[get("/frames/{id}/look")]
pub async fn look(shared: web::Data<Shared>, id: web::Path<i64>, size: web::Query<LookSize>) -> Answer {
    let (id, size) = (id.into_inner(), size.size);
    if !SIZES.contains(&size) {
        return Err(WebError::Unusable("a table has 17, 33 or 65 colours a channel".into()).into());
    }
    let table = blocking(&shared, move |lab| Ok(lab.look_of(id, LookForm::Cube(size))?)).await?;
    Ok(HttpResponse::Ok().content_type("text/plain; charset=utf-8").body(table))
}

/// A frame's readings as CSV.
#[utoipa::path(params(("id" = i64, Path)), responses((status = 200, body = String)))]
#[get("/frames/{id}/readings")]
pub async fn readings(shared: web::Data<Shared>, id: web::Path<i64>) -> Answer {
    let id = id.into_inner();
    let text = blocking(&shared, move |lab| Ok(lab.readings_csv(id)?)).await?;
    Ok(HttpResponse::Ok().content_type("text/csv; charset=utf-8").body(text))
}
