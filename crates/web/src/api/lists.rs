//! What there is to develop with.

use actix_web::{HttpResponse, get, web};
use amber_core::{Catalogue, ShippedPresets, stations};
use serde::Serialize;
use utoipa::ToSchema;

use super::Answer;
use crate::{Shared, blocking};

#[derive(Serialize, ToSchema)]
pub struct Listed {
    id: String,
    name: String,
    notes: String,
    /// Of the user's own, not one that ships.
    own: bool,
}

#[derive(Serialize, ToSchema)]
pub struct ControlView {
    id: &'static str,
    label: String,
    station: &'static str,
    help: &'static str,
}

/// Stocks: those that ship, then one's own.
#[utoipa::path(responses((status = 200, body = Vec<Listed>)))]
#[get("/stocks")]
pub async fn stocks(shared: web::Data<Shared>) -> Answer {
    let own = blocking(&shared, |lab| Ok(lab.library.own_stocks()?)).await?;
    let listed = |stock: &amber_core::Stock, own: bool| Listed {
        id: stock.id.clone(),
        name: stock.name(),
        notes: stock.notes.clone().unwrap_or_default(),
        own,
    };
    let shipped = Catalogue::all().iter().map(|stock| listed(stock, false));
    Ok(HttpResponse::Ok().json(shipped.chain(own.iter().map(|stock| listed(stock, true))).collect::<Vec<_>>()))
}

/// Presets: those that ship, then one's own.
#[utoipa::path(responses((status = 200, body = Vec<Listed>)))]
#[get("/presets")]
pub async fn presets(shared: web::Data<Shared>) -> Answer {
    let own = blocking(&shared, |lab| Ok(lab.library.own_presets()?)).await?;
    let listed = |preset: &amber_core::Preset, own: bool| Listed {
        id: preset.id.clone(),
        name: preset.name.clone(),
        notes: preset.notes.clone(),
        own,
    };
    let shipped = ShippedPresets::all().iter().map(|preset| listed(preset, false));
    Ok(HttpResponse::Ok().json(shipped.chain(own.iter().map(|preset| listed(preset, true))).collect::<Vec<_>>()))
}

/// Controls: what a development can set.
#[utoipa::path(responses((status = 200, body = Vec<ControlView>)))]
#[get("/controls")]
pub async fn controls() -> Answer {
    let view = |control: &'static amber_core::controls::Control| ControlView {
        id: control.id,
        label: control.full_label(),
        station: control.station.id(),
        help: control.help,
    };
    Ok(HttpResponse::Ok().json(stations::all().map(view).collect::<Vec<_>>()))
}
