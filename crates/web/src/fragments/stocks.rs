//! Stocks of one's own: pinned, named, brought in, taken out, deleted.

use actix_web::{HttpResponse, delete, post, route, web};
use amber_lab::safe_name;
use serde::Deserialize;
use serde_json::json;

use super::development::named;
use super::exports::saved_as;
use crate::error::WebError;
use crate::{Shared, blocking};

#[derive(Deserialize)]
pub struct Pin {
    pub pinned: bool,
}

#[post("/stocks/{id}/pin")]
pub async fn pin(
    shared: web::Data<Shared>,
    id: web::Path<String>,
    form: web::Form<Pin>,
) -> Result<HttpResponse, WebError> {
    let pinned = blocking(&shared, move |lab| Ok(lab.library.pin_stock(&id, form.pinned)?)).await?;
    Ok(HttpResponse::Ok().json(pinned))
}

/// A stock file becomes a stock of one's own.
#[post("/stocks")]
pub async fn import(shared: web::Data<Shared>, file: web::Bytes) -> Result<HttpResponse, WebError> {
    let stock = blocking(&shared, move |lab| Ok(lab.import_stock(&file)?)).await?;
    Ok(HttpResponse::Created().json(json!({ "id": stock.id, "name": stock.name() })))
}

#[derive(Deserialize)]
pub struct OfFile {
    name: String,
}

/// A look's table becomes a stock of one's own, named as the file is.
#[post("/stocks/of-look")]
pub async fn import_look(
    shared: web::Data<Shared>,
    of: web::Query<OfFile>,
    file: web::Bytes,
) -> Result<HttpResponse, WebError> {
    let name: String = of.into_inner().name.chars().take(60).collect();
    let called = named(name, "mine".into(), "Made of a look's table.".into())?;
    let stock = blocking(&shared, move |lab| Ok(lab.import_look(&file, &called)?)).await?;
    Ok(HttpResponse::Created().json(json!({ "id": stock.id, "name": stock.name() })))
}

#[derive(Deserialize)]
pub struct Named {
    name: String,
    family: String,
    #[serde(default)]
    notes: String,
}

#[post("/stocks/{id}")]
pub async fn rename(
    shared: web::Data<Shared>,
    id: web::Path<String>,
    form: web::Form<Named>,
) -> Result<HttpResponse, WebError> {
    let form = form.into_inner();
    let called = named(form.name, form.family, form.notes)?;
    let stock = blocking(&shared, move |lab| Ok(lab.rename_stock(&id, &called)?)).await?;
    Ok(HttpResponse::Ok().json(json!({ "id": stock.id, "name": stock.name() })))
}

#[delete("/stocks/{id}")]
pub async fn remove(shared: web::Data<Shared>, id: web::Path<String>) -> Result<HttpResponse, WebError> {
    blocking(&shared, move |lab| {
        lab.library.pin_stock(&id, false)?;
        Ok(lab.library.delete_stock(&id)?)
    })
    .await?;
    Ok(HttpResponse::Ok().finish())
}

/// A stock as a file.
#[route("/stocks/{id}/file", method = "GET", method = "HEAD")]
pub async fn as_file(shared: web::Data<Shared>, id: web::Path<String>) -> Result<HttpResponse, WebError> {
    let stock = blocking(&shared, move |lab| Ok(lab.library.find_stock(&id)?)).await?;
    let name = safe_name(&stock.name()).unwrap_or_else(|_| stock.id.clone());
    let disposition = saved_as(&format!("{name}.json"));
    Ok(HttpResponse::Ok().content_type("application/json").insert_header(disposition).body(stock.to_json()))
}
