//! The board of sheets: every kind, and the user's own pictures, on this very picture.

use std::sync::Arc;

use actix_web::{HttpResponse, route, web};
use amber_core::controls::Choices;
use amber_core::stations::surface::catalogue::{Family, Kind, Place};
use amber_lab::Lab;
use askama::Template;

use super::html;
use crate::error::WebError;
use crate::fragments::sheets::{letters_of, on_it, place_words};
use crate::{Shared, blocking};

/// A sheet on the board.
pub struct TileView {
    /// As documents name it.
    pub kind: String,
    /// Hash of a picture of the user's own; empty for what is made here.
    pub hash: String,
    pub name: String,
    pub place: &'static str,
    pub help: String,
    /// Letters of those of its kind that lie on the frame.
    pub letters: Vec<String>,
}

/// The sheets of a family.
pub struct FamilyView {
    pub name: &'static str,
    pub tiles: Vec<TileView>,
    /// Columns that it takes.
    pub columns: usize,
}

/// Tiles in a row.
const COLUMNS: usize = 6;

#[derive(Template)]
#[template(path = "pages/sheets.html")]
struct SheetsPage {
    version: &'static str,
    frame: i64,
    frame_name: String,
    frame_version: String,
    /// Names the picture that the tiles are made from.
    picture_version: String,
    roll: i64,
    roll_name: String,
    upright: bool,
    revision: i64,
    on_it: String,
    families: Vec<FamilyView>,
    own: Vec<TileView>,
}

#[route("/frames/{id}/sheets", method = "GET", method = "HEAD")]
pub async fn show(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    html(&blocking(&shared, move |lab| page(lab, id)).await?)
}

fn page(lab: &Arc<Lab>, id: i64) -> Result<SheetsPage, WebError> {
    let frame = lab.library.frame(id)?;
    let roll = lab.library.roll(frame.summary.roll)?;
    let letters = letters_of(&frame);
    let of = |kind: &str| letters.iter().filter(|(k, _)| k == kind).map(|(_, letter)| letter.clone()).collect();
    let family = |family: &Family| {
        let tile = |kind: &'static Kind| TileView {
            kind: kind.id.into(),
            hash: String::new(),
            name: kind.label.into(),
            place: place_words(kind.place),
            help: kind.help.into(),
            letters: of(kind.id),
        };
        let tiles: Vec<TileView> = family.kinds().map(tile).collect();
        FamilyView { name: family.label(), columns: tiles.len().min(COLUMNS), tiles }
    };
    let own = lab.library.kept_pictures()?.into_iter().map(|picture| {
        let kind = format!("own:{}", picture.hash);
        TileView {
            letters: of(&kind),
            kind,
            hash: picture.hash,
            place: place_words(Place::Over),
            help: format!("{}, {} x {} pixels", picture.name, picture.width, picture.height),
            name: picture.name,
        }
    });
    Ok(SheetsPage {
        version: crate::assets::version(),
        frame: id,
        frame_name: frame.summary.name.clone(),
        frame_version: frame.summary.version(),
        picture_version: amber_lab::sheets_version(&frame.summary),
        roll: roll.id,
        roll_name: roll.name,
        upright: frame.summary.height > frame.summary.width,
        revision: frame.summary.revision,
        on_it: on_it(letters.len()),
        families: Family::ALL.iter().map(family).collect(),
        own: own.collect(),
    })
}
