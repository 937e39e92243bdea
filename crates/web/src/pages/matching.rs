//! Matching: this frame beside a reference; grain, look and seat as proposals.

use std::sync::Arc;

use actix_web::{HttpResponse, route, web};
use amber_core::picture::reduce::Level;
use amber_lab::Lab;
use amber_library::FrameSummary;
use askama::Template;
use serde::Deserialize;

use super::html;
use crate::error::WebError;
use crate::{Shared, blocking};

/// Most pictures that are offered as references.
const MOST: usize = 60;
/// Long edge of the picture that is shown.
const LONG_EDGE: u32 = 760;

/// A picture that may be the reference.
struct Offered {
    id: i64,
    name: String,
    version: String,
    chosen: bool,
}

/// The reference.
struct Reference {
    id: i64,
    name: String,
    shown: &'static str,
    is_print: bool,
    picture: String,
    size: String,
}

#[derive(Template)]
#[template(path = "pages/match.html")]
struct MatchPage {
    version: &'static str,
    frame: i64,
    frame_name: String,
    stock_name: String,
    revision: i64,
    picture: String,
    roll: i64,
    roll_name: String,
    reference: Option<Reference>,
    offered: Vec<Offered>,
    more: usize,
}

#[derive(Deserialize)]
pub struct Asked {
    with: Option<i64>,
    #[serde(default, rename = "as")]
    shown: String,
}

#[route("/frames/{id}/match", method = "GET", method = "HEAD")]
pub async fn show(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<Asked>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    html(&blocking(&shared, move |lab| page(lab, id, &asked)).await?)
}

/// Where the picture of a frame is: as developed, or as it came.
fn picture_of(frame: &FrameSummary, is_print: bool) -> String {
    let level = Level::covering(LONG_EDGE, frame.width, frame.height).0;
    match is_print {
        true => format!("/frames/{}/standing?level={level}&v={}", frame.id, frame.version()),
        false => format!("/frames/{}/thumbnail?original=true&v={}", frame.id, frame.content),
    }
}

fn page(lab: &Arc<Lab>, id: i64, asked: &Asked) -> Result<MatchPage, WebError> {
    let frame = lab.library.frame(id)?;
    let roll = lab.library.roll(frame.summary.roll)?;
    let is_print = asked.shown != "original";
    let reference = asked.with.map(|with| lab.library.frame(with)).transpose()?.map(|of| Reference {
        id: of.summary.id,
        name: of.summary.name.clone(),
        shown: if is_print { "print" } else { "original" },
        is_print,
        picture: picture_of(&of.summary, is_print),
        size: format!("{} × {}", of.summary.width, of.summary.height),
    });
    let possible = lab.possible_references(roll.id)?;
    let more = possible.len().saturating_sub(MOST);
    let offered = possible.into_iter().take(MOST).map(|f| Offered {
        chosen: asked.with == Some(f.id),
        id: f.id,
        version: f.version(),
        name: f.name,
    });
    Ok(MatchPage {
        version: crate::assets::version(),
        frame: id,
        frame_name: frame.summary.name.clone(),
        stock_name: frame.stock.name(),
        revision: frame.summary.revision,
        picture: picture_of(&frame.summary, true),
        roll: roll.id,
        roll_name: roll.name,
        reference,
        offered: offered.collect(),
        more,
    })
}
