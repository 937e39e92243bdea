//! The roll as a contact sheet.

use actix_web::http::header;
use actix_web::{HttpResponse, post, route, web};
use amber_lab::Lab;
use amber_library::{FrameSummary, Roll};
use askama::Template;
use serde::Deserialize;

use super::html;
use crate::error::{WebError, first_upper};
use crate::{Shared, blocking};

/// One frame of the contact sheet.
#[derive(Template)]
#[template(path = "partials/frame_cell.html")]
pub struct FrameCell {
    pub id: i64,
    pub number: String,
    pub name: String,
    pub stock: String,
    pub tuned: usize,
    pub exported: bool,
    pub upright: bool,
    /// Names the picture as it is developed, for its address.
    pub version: String,
    /// Why it cannot be opened.
    pub trouble: Option<String>,
}

impl FrameCell {
    pub fn new(lab: &Lab, f: &FrameSummary) -> Self {
        Self {
            id: f.id,
            number: format!("{:02}", f.position),
            name: f.name.clone(),
            stock: lab.library.stock_of(&f.development).map(|s| s.name()).unwrap_or_default(),
            tuned: f.development.values.len(),
            exported: f.exported,
            upright: f.height > f.width,
            version: f.version(),
            trouble: f.trouble.as_deref().map(first_upper),
        }
    }
}

#[derive(Template)]
#[template(path = "pages/roll.html")]
struct RollPage {
    version: &'static str,
    rolls: Vec<Roll>,
    roll: Roll,
    cells: Vec<String>,
    upload_mib: usize,
    /// A password is asked for: one can sign out.
    guarded: bool,
}

#[route("/", method = "GET", method = "HEAD")]
pub async fn home(shared: web::Data<Shared>) -> Result<HttpResponse, WebError> {
    let roll = blocking(&shared, |lab| {
        if let Some(roll) = lab.library.rolls()?.first() {
            return Ok(roll.id);
        }
        Ok(lab.library.add_roll("First roll", now())?)
    })
    .await?;
    Ok(to_roll(roll))
}

fn now() -> i64 {
    std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |d| d.as_secs() as i64)
}

fn to_roll(id: i64) -> HttpResponse {
    HttpResponse::SeeOther().insert_header((header::LOCATION, format!("/rolls/{id}"))).finish()
}

#[route("/rolls/{id}", method = "GET", method = "HEAD")]
pub async fn show(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    let upload_mib = shared.settings.upload_bytes >> 20;
    let guarded = shared.settings.password.is_some();
    let page = blocking(&shared, move |lab| {
        let frames = lab.library.frames(id)?;
        let cells = frames.iter().map(|f| FrameCell::new(lab, f).render()).collect::<Result<_, _>>()?;
        Ok(RollPage {
            version: amber_core::development::ENGINE,
            rolls: lab.library.rolls()?,
            roll: lab.library.roll(id)?,
            cells,
            upload_mib,
            guarded,
        })
    })
    .await?;
    html(&page)
}

#[derive(Deserialize)]
pub struct Named {
    name: String,
}

#[post("/rolls")]
pub async fn add(shared: web::Data<Shared>, form: web::Form<Named>) -> Result<HttpResponse, WebError> {
    let id = blocking(&shared, move |lab| Ok(lab.library.add_roll(&form.name, now())?)).await?;
    Ok(to_roll(id))
}

#[post("/rolls/{id}/name")]
pub async fn rename(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<Named>,
) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    blocking(&shared, move |lab| Ok(lab.library.rename_roll(id, &form.name)?)).await?;
    Ok(to_roll(id))
}
