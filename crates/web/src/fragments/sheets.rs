//! The sheets that lie on a frame: their list on the bench, what is to be said of the one that is chosen, and laying
//! them from their board.

use actix_web::{HttpResponse, delete, post, route, web};
use amber_core::controls::{Control, own_picture};
use amber_core::stations::surface::catalogue::{self, PRINT_LONG_UM, Place};
use amber_core::stations::surface::own::covering;
use amber_core::stations::surface::placing::Ground;
use amber_core::stations::surface::settings::{
    AMOUNT, BLEND, COVER, FIT, LOCK, SEED, SHEETS, SIZE, SheetSettings, VISIBLE, sheet_keys,
};
use amber_lab::{Lab, frame_size, name_of_sheet};
use amber_library::{Frame, KeptPicture};
use serde::Deserialize;
use serde_json::json;

use crate::error::WebError;
use crate::images::jpeg;
use crate::{Shared, blocking};

/// A line of the list.
pub struct SheetRow {
    pub key: u32,
    /// A lies lowest.
    pub letter: String,
    pub name: String,
    /// Where in the history it lies, in a word.
    pub place: &'static str,
    pub shown: bool,
    pub chosen: bool,
    /// Hash of the picture, where it is one of the user's own.
    pub picture: String,
}

/// The sheet whose controls lie on the bench.
pub struct ChosenSheet {
    pub key: u32,
    pub letter: String,
    pub name: String,
    /// Made here, so that it has accidents.
    pub made: bool,
    /// What it lies on: `film` or `print`.
    pub ground: &'static str,
    /// Width and height of a picture of the user's own; empty for what is made here.
    pub size: String,
    /// What is wrong with how it lies, in a sentence; empty for nothing.
    pub warning: String,
}

/// All of a frame's sheets, the highest first as they lie.
pub struct SheetsOnBench {
    pub rows: Vec<SheetRow>,
    pub chosen: Option<ChosenSheet>,
}

/// A for the lowest, and after Z two letters.
fn letter(index: usize) -> String {
    let of = |i: usize| char::from(b'A' + (i % 26) as u8);
    if index < 26 { of(index).to_string() } else { format!("{}{}", of(index / 26 - 1), of(index)) }
}

/// Where a sheet lies, in words.
pub fn place_words(place: Place) -> &'static str {
    match place {
        Place::Camera => "in the camera",
        Place::Negative => "on the negative",
        Place::Print => "on the print",
        Place::Own | Place::Over => "over everything",
    }
}

/// The kinds of a frame's sheets with their letters, lowest first.
pub fn letters_of(frame: &Frame) -> Vec<(String, String)> {
    let values = frame.summary.development.written(&frame.stock);
    let kind = |key: u32| SheetSettings::read(&values, key).kind;
    sheet_keys(&values).into_iter().enumerate().map(|(index, key)| (kind(key), letter(index))).collect()
}

/// How many sheets lie on a frame, in words.
pub fn on_it(count: usize) -> String {
    match count {
        0 => "Nothing lies on this picture".into(),
        1 => "1 sheet lies on this picture".into(),
        n => format!("{n} sheets lie on this picture"),
    }
}

fn place_word(place: Place) -> &'static str {
    match place {
        Place::Camera => "camera",
        Place::Negative => "negative",
        Place::Print => "print",
        Place::Own | Place::Over => "over",
    }
}

impl SheetsOnBench {
    /// `asked` is the one whose controls are wanted; the highest where that is not there.
    pub fn new(lab: &Lab, frame: &Frame, asked: Option<u32>) -> Self {
        let values = frame.summary.development.written(&frame.stock);
        let pictures = lab.library.kept_pictures().unwrap_or_default();
        let keys = sheet_keys(&values);
        let chosen = asked.filter(|key| keys.contains(key)).or_else(|| keys.last().copied());
        let row = |(index, key): (usize, &u32)| {
            let sheet = SheetSettings::read(&values, *key);
            SheetRow {
                key: *key,
                letter: letter(index),
                name: name_of_sheet(&sheet.kind, &pictures).unwrap_or_else(|| "A picture that is not here".into()),
                place: place_word(sheet.place),
                shown: values.is_on(SHEETS.member(*key, &VISIBLE)),
                chosen: chosen == Some(*key),
                picture: own_picture(&sheet.kind).unwrap_or_default().into(),
            }
        };
        let mut rows: Vec<SheetRow> = keys.iter().enumerate().map(row).collect();
        rows.reverse();
        let chosen = rows.iter().find(|row| row.chosen).map(|row| {
            let sheet = SheetSettings::read(&values, row.key);
            ChosenSheet {
                key: row.key,
                letter: row.letter.clone(),
                name: row.name.clone(),
                made: catalogue::kind(&sheet.kind).is_some(),
                ground: if sheet.place.is_on_film() { "film" } else { "print" },
                size: pictures
                    .iter()
                    .find(|p| p.hash == row.picture)
                    .map_or_else(String::new, |p| format!("{},{}", p.width, p.height)),
                warning: warning(frame, &sheet, &pictures),
            }
        });
        Self { rows, chosen }
    }
}

/// What is wrong with how a sheet lies.
fn warning(frame: &Frame, sheet: &SheetSettings, pictures: &[KeptPicture]) -> String {
    let Some(hash) = own_picture(&sheet.kind) else { return String::new() };
    let Some(picture) = pictures.iter().find(|p| p.hash == hash) else {
        return "This picture is not in the library any more. Bring it in again, or take the sheet off.".into();
    };
    let framed = frame_size(&frame.summary, &frame.summary.development, &frame.stock);
    // how large it is in micrometres does not count: all is in shares of the ground
    let ground = match sheet.place.is_on_film() {
        true => Ground::of_film([framed.width, framed.height], framed.film, framed.corner, PRINT_LONG_UM),
        false => Ground::of_picture(PRINT_LONG_UM),
    };
    let size = [picture.width, picture.height];
    let (_, shows) = covering(size, sheet.fit, &ground, &sheet.laid, [framed.width, framed.height]);
    if shows && !sheet.cover { "An edge of it shows in the frame.".into() } else { String::new() }
}

/// Whether a member means something for a sheet as it lies.
pub fn acts(member: &Control, sheet: &SheetSettings) -> bool {
    let made = catalogue::kind(&sheet.kind).is_some();
    let is = |control: &Control| member.id == control.id;
    if [&AMOUNT, &SIZE, &SEED, &LOCK].into_iter().any(is) {
        return made;
    }
    if [&FIT, &COVER].into_iter().any(is) {
        return !made;
    }
    // light adds up and densities do: there is nothing to blend
    !is(&BLEND) || matches!(sheet.place, Place::Print | Place::Over | Place::Own)
}

#[derive(Deserialize)]
pub struct LayForm {
    revision: i64,
    kind: String,
    on: bool,
}

/// Lays a sheet of a kind, or takes those of that kind off; answers with what lies there now.
#[post("/frames/{id}/sheets")]
pub async fn lay(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    form: web::Form<LayForm>,
) -> Result<HttpResponse, WebError> {
    let (id, form) = (id.into_inner(), form.into_inner());
    let frame = blocking(&shared, move |lab| Ok(lab.lay_sheet(id, form.revision, &form.kind, form.on)?)).await?;
    let letters = letters_of(&frame);
    let on_it = on_it(letters.len());
    Ok(HttpResponse::Ok().json(json!({ "revision": frame.summary.revision, "letters": letters, "onIt": on_it })))
}

#[derive(Deserialize)]
pub struct Versioned {
    #[serde(default)]
    v: String,
}

/// The frame with only a sheet of a kind on it.
#[route("/frames/{id}/sheets/{kind}", method = "GET", method = "HEAD")]
pub async fn thumbnail(
    shared: web::Data<Shared>,
    path: web::Path<(i64, String)>,
    asked: web::Query<Versioned>,
) -> Result<HttpResponse, WebError> {
    let (id, kind) = path.into_inner();
    blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let named = asked.v == amber_lab::sheets_version(&frame.summary);
        Ok((lab.sheet_thumbnail(&frame, &kind)?, named))
    })
    .await
    .map(jpeg)
}

/// A picture of the user's own, small.
#[route("/pictures/{hash}/small", method = "GET", method = "HEAD")]
pub async fn small(shared: web::Data<Shared>, hash: web::Path<String>) -> Result<HttpResponse, WebError> {
    let known = own_picture(&format!("own:{hash}")).is_some();
    if !known {
        return Err(WebError::NoPage);
    }
    blocking(&shared, move |lab| Ok((lab.picture_thumbnail(&hash)?, true))).await.map(jpeg)
}

#[derive(Deserialize)]
pub struct NameForm {
    name: String,
}

#[post("/pictures/{hash}")]
pub async fn rename(
    shared: web::Data<Shared>,
    hash: web::Path<String>,
    form: web::Form<NameForm>,
) -> Result<HttpResponse, WebError> {
    blocking(&shared, move |lab| Ok(lab.library.rename_picture(&hash, &form.name)?)).await?;
    Ok(HttpResponse::Ok().finish())
}

#[delete("/pictures/{hash}")]
pub async fn remove(shared: web::Data<Shared>, hash: web::Path<String>) -> Result<HttpResponse, WebError> {
    blocking(&shared, move |lab| Ok(lab.library.delete_picture(&hash)?)).await?;
    Ok(HttpResponse::Ok().finish())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_go_on_after_z() {
        assert_eq!([0, 25, 26, 39].map(letter), ["A", "Z", "AA", "AN"]);
    }

    #[test]
    fn what_does_not_act_is_not_offered() {
        let stock = amber_core::Catalogue::first();
        let mut development = amber_core::Development::new(&stock);
        let mut read = |kind: &str| {
            let kind = amber_core::controls::Value::Choice(kind.into());
            development.set(&stock, "surface.sheet.1.kind", kind).unwrap();
            SheetSettings::read(&development.values(&stock), 1)
        };
        let dust = read("dust");
        assert!(acts(&AMOUNT, &dust) && !acts(&FIT, &dust) && !acts(&BLEND, &dust));
        let own = read(&format!("own:{}", "ab".repeat(32)));
        assert!(!acts(&AMOUNT, &own) && acts(&FIT, &own) && acts(&BLEND, &own));
    }
}
