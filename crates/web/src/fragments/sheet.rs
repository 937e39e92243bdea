//! The contact sheet in parts: the order of its frames, cells by their numbers, what is written on one, its print.

use actix_web::http::header;
use actix_web::{HttpResponse, delete, post, route, web};
use amber_lab::{Lab, PrintForm};
use amber_library::{FrameSummary, Mark, OnSheet, Order, SheetAsked, Tuning};
use askama::Template;
use serde::Deserialize;
use serde_json::json;

use super::exports::saved_as;
use crate::draw::pencil::pencil;
use crate::error::{WebError, first_upper};
use crate::{Shared, blocking};

/// Most cells of a request.
const MOST_CELLS: usize = 240;

/// One frame of the contact sheet.
#[derive(Template)]
#[template(path = "partials/frame_cell.html")]
pub struct FrameCell {
    pub id: i64,
    pub number: String,
    pub name: String,
    pub stock: String,
    /// The preset that was laid last.
    pub preset: String,
    pub tuned: usize,
    pub exported: bool,
    pub mark: &'static str,
    /// The mark as it is drawn: an SVG's inside.
    pub pencil: String,
    pub note: String,
    /// Names the picture as it is developed, for its address.
    pub version: String,
    /// Why it cannot be opened.
    pub trouble: Option<String>,
}

impl FrameCell {
    pub fn new(lab: &Lab, f: &FrameSummary) -> Self {
        let preset = f.presets.last().and_then(|id| lab.library.preset(id).ok());
        Self {
            id: f.id,
            number: format!("{:02}", f.position),
            name: f.name.clone(),
            stock: lab.library.stock_of(&f.development).map(|s| s.name()).unwrap_or_default(),
            preset: preset.map(|(preset, _)| preset.name).unwrap_or_default(),
            tuned: f.development.values.len(),
            exported: f.exported,
            mark: f.mark.id(),
            pencil: pencil(f.mark, f.id),
            note: f.note.clone(),
            version: f.version(),
            trouble: f.trouble.as_deref().map(first_upper),
        }
    }
}

/// What is asked of the sheet, as it stands in the address.
#[derive(Debug, Clone, Default, Deserialize)]
#[serde(default)]
pub struct SheetQuery {
    order: String,
    /// keep, maybe, drop; `none` for those without a mark.
    mark: String,
    stock: String,
    /// yes or no.
    tuned: String,
    preset: String,
    words: String,
}

impl SheetQuery {
    fn asked(&self) -> SheetAsked {
        let some = |text: &String| (!text.is_empty()).then(|| text.clone());
        SheetAsked {
            order: match self.order.as_str() {
                "taken" => Order::Taken,
                "name" => Order::Name,
                "mark" => Order::Mark,
                "stock" => Order::Stock,
                "tuned" => Order::Tuned,
                "preset" => Order::Preset,
                _ => Order::Loaded,
            },
            mark: match self.mark.as_str() {
                "" => None,
                "none" => Some(Mark::None),
                id => Some(Mark::named(id)),
            },
            stock: some(&self.stock),
            tuning: match self.tuned.as_str() {
                "yes" => Tuning::Tuned,
                "no" => Tuning::Untuned,
                _ => Tuning::Any,
            },
            preset: some(&self.preset),
            words: self.words.clone(),
        }
    }

    /// The numbers of the frames that lie on it, in their order.
    pub fn of(&self, mut frames: Vec<OnSheet>) -> Vec<i64> {
        let asked = self.asked();
        frames.retain(|frame| asked.takes(frame));
        asked.sort(&mut frames);
        frames.into_iter().map(|frame| frame.id).collect()
    }
}

/// The order of a roll's frames.
#[route("/rolls/{id}/order", method = "GET", method = "HEAD")]
pub async fn order(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<SheetQuery>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let order = blocking(&shared, move |lab| {
        lab.library.roll(id)?;
        let all = lab.library.on_sheet(id)?;
        let count = all.len();
        Ok(json!({ "ids": asked.of(all), "all": count }))
    })
    .await?;
    Ok(HttpResponse::Ok().json(order))
}

#[derive(Deserialize)]
pub struct Wanted {
    /// Numbers with commas between.
    ids: String,
}

/// Numbers from outside.
pub fn numbers(text: &str) -> Result<Vec<i64>, WebError> {
    let number = |word: &str| {
        let said = || WebError::Unusable(format!("'{}' is no frame's number", amber_core::text::shortened(word)));
        word.trim().parse().map_err(|_| said())
    };
    text.split(',').filter(|word| !word.trim().is_empty()).map(number).collect()
}

/// Cells by their frames' numbers; those that are gone are left out.
#[route("/cells", method = "GET", method = "HEAD")]
pub async fn cells(shared: web::Data<Shared>, wanted: web::Query<Wanted>) -> Result<HttpResponse, WebError> {
    let ids = numbers(&wanted.ids)?;
    if ids.len() > MOST_CELLS {
        return Err(WebError::Unusable(format!("{MOST_CELLS} cells are the most at once; ask for fewer")));
    }
    let cells = blocking(&shared, move |lab| {
        let cell = |frame: &FrameSummary| Ok(FrameCell::new(lab, frame).render()?);
        lab.library.some_frames(&ids)?.iter().map(cell).collect::<Result<String, WebError>>()
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(cells))
}

/// Frames that were taken off a roll.
#[derive(Template)]
#[template(path = "partials/taken_off.html")]
pub struct OffView {
    frames: Vec<OnSheet>,
}

impl OffView {
    pub fn new(lab: &Lab, roll: i64) -> Result<Self, WebError> {
        Ok(Self { frames: lab.library.taken_off(roll)? })
    }
}

#[route("/rolls/{id}/off", method = "GET", method = "HEAD")]
pub async fn taken_off(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    let view = blocking(&shared, move |lab| Ok(OffView::new(lab, id)?.render()?)).await?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(view))
}

/// Deletes a frame for good; its original goes when no other frame has it.
#[delete("/frames/{id}")]
pub async fn remove(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    blocking(&shared, move |lab| Ok(lab.library.remove_frame(id)?)).await?;
    Ok(HttpResponse::Ok().finish())
}

#[derive(Deserialize)]
pub struct Written {
    text: String,
}

/// A note beside a frame.
#[post("/frames/{id}/note")]
pub async fn write_note(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<Written>,
) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    blocking(&shared, move |lab| Ok(lab.library.write_note(id, &form.text)?)).await?;
    Ok(HttpResponse::NoContent().finish())
}

#[post("/frames/{id}/name")]
pub async fn rename(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<Written>,
) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    blocking(&shared, move |lab| Ok(lab.library.rename_frame(id, &form.text)?)).await?;
    Ok(HttpResponse::NoContent().finish())
}

#[derive(Deserialize)]
pub struct PrintAsked {
    form: String,
    #[serde(default)]
    ids: String,
    #[serde(flatten)]
    sheet: SheetQuery,
}

/// The contact sheet as a picture or a document: the frames that are named, or all that lie on it.
#[route("/rolls/{id}/print", method = "GET", method = "HEAD")]
pub async fn print_sheet(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<PrintAsked>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let (form, ending) = match asked.form.as_str() {
        "pdf" => (PrintForm::Pdf, "pdf"),
        "jpeg" => (PrintForm::Jpeg, "jpg"),
        other => {
            let shown = amber_core::text::shortened(other);
            return Err(WebError::Unusable(format!("a contact sheet is printed as jpeg or pdf, not as '{shown}'")));
        }
    };
    let named = numbers(&asked.ids)?;
    let (name, print) = blocking(&shared, move |lab| {
        let roll = lab.library.roll(id)?;
        let ids = if named.is_empty() { asked.sheet.of(lab.library.on_sheet(id)?) } else { named };
        Ok((roll.name.clone(), lab.contact_print(&roll.name, &ids, form)?))
    })
    .await?;
    let name = amber_lab::safe_name(&format!("{name} contact sheet"))?;
    Ok(HttpResponse::Ok()
        .content_type(print.media_type)
        .insert_header((header::CONTENT_DISPOSITION, saved_as(&format!("{name}.{ending}"))))
        .body(print.bytes))
}
