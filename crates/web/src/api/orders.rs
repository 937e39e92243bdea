//! Lab orders that are kept.

use actix_web::{HttpResponse, delete, get, put, web};
use amber_lab::LabOrder;

use super::Answer;
use crate::{Shared, blocking};

/// Names of the lab orders.
#[utoipa::path(responses((status = 200, body = Vec<String>)))]
#[get("/orders")]
pub async fn list(shared: web::Data<Shared>) -> Answer {
    let orders = blocking(&shared, |lab| Ok(lab.library.orders()?)).await?;
    Ok(HttpResponse::Ok().json(orders.into_iter().map(|(name, _)| name).collect::<Vec<_>>()))
}

/// A lab order, as `amber-grain order schema` describes it.
#[utoipa::path(params(("name" = String, Path)), responses((status = 200, body = Object)))]
#[get("/orders/{name}")]
pub async fn show(shared: web::Data<Shared>, name: web::Path<String>) -> Answer {
    let order = blocking(&shared, move |lab| Ok(LabOrder::from_json(&lab.library.order(&name)?)?)).await?;
    Ok(HttpResponse::Ok().json(order))
}

/// Keeps a lab order under a name; one of that name is replaced.
#[utoipa::path(params(("name" = String, Path)), request_body = Object, responses((status = 204)))]
#[put("/orders/{name}")]
pub async fn keep(shared: web::Data<Shared>, name: web::Path<String>, order: web::Json<LabOrder>) -> Answer {
    blocking(&shared, move |lab| {
        order.check()?;
        Ok(lab.library.keep_order(&name, &order.to_json())?)
    })
    .await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Deletes a lab order.
#[utoipa::path(params(("name" = String, Path)), responses((status = 204)))]
#[delete("/orders/{name}")]
pub async fn remove(shared: web::Data<Shared>, name: web::Path<String>) -> Answer {
    blocking(&shared, move |lab| Ok(lab.library.remove_order(&name)?)).await?;
    Ok(HttpResponse::NoContent().finish())
}
