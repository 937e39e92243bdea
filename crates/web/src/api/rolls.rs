//! Rolls and what lies on them.

use actix_multipart::Multipart;
use actix_web::{HttpResponse, get, post, web};
use amber_lab::now;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Answer;
use super::frames::FrameView;
use crate::upload::one_file;
use crate::{Shared, blocking};

#[derive(Serialize, ToSchema)]
pub struct RollView {
    id: i64,
    name: String,
    frames: i64,
}

#[derive(Deserialize, ToSchema)]
pub struct NewRoll {
    name: String,
}

#[derive(Serialize, ToSchema)]
pub struct Made {
    pub id: i64,
}

/// All rolls.
#[utoipa::path(responses((status = 200, body = Vec<RollView>)))]
#[get("/rolls")]
pub async fn list(shared: web::Data<Shared>) -> Answer {
    let rolls = blocking(&shared, |lab| Ok(lab.library.rolls()?)).await?;
    let view = |roll: amber_library::Roll| RollView { id: roll.id, name: roll.name, frames: roll.frames };
    Ok(HttpResponse::Ok().json(rolls.into_iter().map(view).collect::<Vec<_>>()))
}

/// A new roll.
#[utoipa::path(request_body = NewRoll, responses((status = 201, body = Made)))]
#[post("/rolls")]
pub async fn add(shared: web::Data<Shared>, new: web::Json<NewRoll>) -> Answer {
    let id = blocking(&shared, move |lab| Ok(lab.library.add_roll(&new.name, now())?)).await?;
    Ok(HttpResponse::Created().json(Made { id }))
}

/// The frames of a roll, in its order.
#[utoipa::path(params(("id" = i64, Path)), responses((status = 200, body = Vec<FrameView>)))]
#[get("/rolls/{id}/frames")]
pub async fn frames(shared: web::Data<Shared>, id: web::Path<i64>) -> Answer {
    let id = id.into_inner();
    let frames = blocking(&shared, move |lab| {
        lab.library.roll(id)?;
        Ok(lab.library.frames(id)?)
    })
    .await?;
    Ok(HttpResponse::Ok().json(frames.iter().map(FrameView::new).collect::<Vec<_>>()))
}

/// Loads a picture onto a roll: the one file of a form.
#[utoipa::path(
    params(("id" = i64, Path)),
    request_body(content = String, content_type = "multipart/form-data"),
    responses((status = 201, body = Made)),
)]
#[post("/rolls/{id}/frames")]
pub async fn load(shared: web::Data<Shared>, id: web::Path<i64>, parts: Multipart) -> Answer {
    let roll = id.into_inner();
    let (name, bytes) = one_file(shared.settings.upload_bytes, parts).await?;
    let id = blocking(&shared, move |lab| {
        let id = lab.import(roll, &name, &bytes)?;
        lab.thumbnails_soon(&[id]);
        Ok(id)
    })
    .await?;
    Ok(HttpResponse::Created().json(Made { id }))
}
