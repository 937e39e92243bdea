//! Readings while a control moves: the film chart, the densitometer's plane, the hues at a place.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use actix_web::{HttpResponse, post, web};
use amber_core::Development;
use amber_core::controls::Value;
use amber_core::mask::Mask;
use amber_core::stations::scene::settings::PLACED;
use amber_lab::{CurveOf, Lab, Spot};
use amber_library::Frame;
use serde::Deserialize;
use serde_json::json;

use crate::draw::{chart, exposures, ramp};
use crate::error::WebError;
use crate::{Shared, blocking};

/// The values in force; nothing is stored.
#[derive(Deserialize)]
pub struct InForce {
    values: BTreeMap<String, Value>,
    masks: Option<BTreeMap<String, Mask>>,
    off: Option<BTreeSet<String>>,
    /// A place as shares of width and height.
    #[serde(default)]
    place: [f64; 2],
    /// Several, of pinned readings.
    #[serde(default)]
    places: Vec<[f64; 2]>,
}

/// Does lab work on a frame with the values in force.
async fn in_force<T: Send + 'static>(
    shared: &web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<InForce>,
    work: impl FnOnce(&Arc<Lab>, &Frame, Development, [f64; 2]) -> Result<T, WebError> + Send + 'static,
) -> Result<T, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    blocking(shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let development = frame.summary.development.clone().with(asked.values, asked.masks, asked.off)?;
        work(lab, &frame, development, asked.place)
    })
    .await
}

/// The film chart as SVG.
#[post("/frames/{id}/chart")]
pub async fn film_chart(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<InForce>,
) -> Result<HttpResponse, WebError> {
    let svg = in_force(&shared, id, asked, |lab, frame, development, _| {
        let reading = lab.film_reading(frame.summary.id, &development)?;
        Ok(chart::film(&reading, &development.values(&frame.stock)))
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(svg))
}

/// Tones of the ramp.
const RAMP_TONES: usize = 96;

/// The print of a grey scale as SVG.
#[post("/frames/{id}/ramp")]
pub async fn tone_ramp(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<InForce>,
) -> Result<HttpResponse, WebError> {
    let svg = in_force(&shared, id, asked, |lab, _, development, _| {
        Ok(ramp::ramp(&lab.grey_ramp(&development, RAMP_TONES)?))
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(svg))
}

/// The plane of readings: 16-bit integers, little endian, plane after plane.
#[post("/frames/{id}/plane")]
pub async fn plane(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<InForce>,
) -> Result<HttpResponse, WebError> {
    let plane =
        in_force(&shared, id, asked, |lab, frame, development, _| Ok(lab.plane(frame.summary.id, &development)?))
            .await?;
    let bytes: Vec<u8> = plane.values.iter().flat_map(|v| v.to_le_bytes()).collect();
    Ok(HttpResponse::Ok()
        .content_type("application/octet-stream")
        .insert_header(("x-plane", format!("{},{},{}", plane.width, plane.height, plane.layers)))
        .body(bytes))
}

/// How much each hue band has of the colour at a place.
#[post("/frames/{id}/hues")]
pub async fn hues(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<InForce>,
) -> Result<HttpResponse, WebError> {
    let shares = in_force(&shared, id, asked, |lab, frame, development, place| {
        Ok(lab.hues_at(frame.summary.id, &development, place)?)
    })
    .await?;
    let list: Vec<_> = shares.iter().map(|s| json!({ "id": s.id, "label": s.label, "share": s.share })).collect();
    Ok(HttpResponse::Ok().json(list))
}

/// The tones that the curves of a station bend: shares of the picture for the master, red, green and blue.
#[post("/frames/{id}/tones/{station}")]
pub async fn tones(
    shared: web::Data<Shared>,
    path: web::Path<(i64, String)>,
    asked: web::Json<InForce>,
) -> Result<HttpResponse, WebError> {
    let (id, station) = path.into_inner();
    let of = match station.as_str() {
        "scene" => CurveOf::Scene,
        "print" => CurveOf::Print,
        _ => return Err(WebError::NoPage),
    };
    let spread = in_force(&shared, web::Path::from(id), asked, move |lab, frame, development, _| {
        Ok(lab.tones_before(frame.summary.id, &development, of)?)
    })
    .await?;
    Ok(HttpResponse::Ok().json(spread))
}

/// Foot of the exposure axis in the drawing of zone placement.
const ZONES_FOOT: f64 = 58.0;

/// The exposure axis for zone placement: the film's curve, the picture as metered (filled) and as placed (outline), and
/// the share of the picture that was metered in each zone.
#[post("/frames/{id}/zones")]
pub async fn zones(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<InForce>,
) -> Result<HttpResponse, WebError> {
    let (drawing, shares) = in_force(&shared, id, asked, |lab, frame, placed, _| {
        let id = frame.summary.id;
        let mut metered = placed.clone();
        metered.values.retain(|id, _| PLACED.iter().all(|zone| zone.id != id));
        let reading = lab.film_reading(id, &metered)?;
        let outline = if metered == placed { None } else { Some(lab.film_reading(id, &placed)?.exposures) };
        let beside = exposures::Beside { outline: outline.as_deref(), ..exposures::Beside::default() };
        Ok((exposures::wide(&reading, ZONES_FOOT, &beside), reading.zones))
    })
    .await?;
    Ok(HttpResponse::Ok().json(json!({ "drawing": drawing, "shares": shares })))
}

/// Hue and zone of a place in the decoded picture, for masks.
#[post("/frames/{id}/range")]
pub async fn range(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<InForce>,
) -> Result<HttpResponse, WebError> {
    let found = in_force(&shared, id, asked, |lab, frame, development, place| {
        Ok(lab.range_at(frame.summary.id, &development, place)?)
    })
    .await?;
    let found = json!({ "hue": found.hue_degrees, "colour": found.colourfulness, "zone": found.zone });
    Ok(HttpResponse::Ok().json(found))
}

/// Temperature and tint that make a place neutral.
#[post("/frames/{id}/neutral")]
pub async fn neutral(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<InForce>,
) -> Result<HttpResponse, WebError> {
    let (kelvin, tint) = in_force(&shared, id, asked, |lab, frame, development, place| {
        Ok(lab.neutral_at(frame.summary.id, &development, place)?)
    })
    .await?;
    Ok(HttpResponse::Ok().json(json!({ "scene.temperature": kelvin, "scene.tint": tint })))
}

/// Most places whose readings are pinned.
const MOST_PINS: usize = 4;

/// The readings of the places that are pinned: stops from mid grey, densities now and in the stock.
#[post("/frames/{id}/spots")]
pub async fn spots(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<InForce>,
) -> Result<HttpResponse, WebError> {
    let places = checked(asked.places.clone())?;
    let spots = in_force(&shared, id, asked, move |lab, frame, development, _| {
        let readings = lab.plane(frame.summary.id, &development)?;
        Ok(places.iter().map(|place| readings.spot(*place)).map(spot_json).collect::<Vec<_>>())
    })
    .await?;
    Ok(HttpResponse::Ok().json(spots))
}

fn spot_json(spot: Spot) -> serde_json::Value {
    serde_json::json!({ "stops": spot.stops, "now": spot.density, "stock": spot.stock_density })
}

/// Places within the picture, as many as can be pinned.
fn checked(places: Vec<[f64; 2]>) -> Result<Vec<[f64; 2]>, WebError> {
    let inside = places.iter().flatten().all(|v| (0.0..=1.0).contains(v));
    match inside && places.len() <= MOST_PINS {
        true => Ok(places),
        false => Err(WebError::Unusable(format!("up to {MOST_PINS} places can be pinned, each within the picture"))),
    }
}

/// Keeps the places with the frame.
#[post("/frames/{id}/pins")]
pub async fn pin(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    places: web::Json<Vec<[f64; 2]>>,
) -> Result<HttpResponse, WebError> {
    let (id, places) = (id.into_inner(), checked(places.into_inner())?);
    blocking(&shared, move |lab| Ok(lab.library.pin(id, &places)?)).await?;
    Ok(HttpResponse::NoContent().finish())
}
