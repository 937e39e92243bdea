//! The application for scripts: the same actions under `/api/1/`, as JSON, described by an OpenAPI document that is
//! made of this code. Errors are problems (RFC 9457).

mod exports;
mod frames;
mod lists;
mod matches;
mod orders;
mod packed;
mod problem;
mod rolls;

use actix_web::{HttpResponse, get, web};
use utoipa::OpenApi;

pub use problem::{Problem, answer};

/// Where it is.
pub const ROOT: &str = "/api/1";

type Answer = Result<HttpResponse, Problem>;

#[derive(OpenApi)]
#[openapi(
    info(
        title = "Amber Grain",
        description = "The application for scripts. Where a password is asked for, sign in first: POST /sign-in with \
            the form field `password`, and send the cookie that comes back. Errors are application/problem+json.",
    ),
    servers((url = "/api/1")),
    paths(
        rolls::list, rolls::add, rolls::frames, rolls::load,
        frames::show, frames::describe, frames::set, frames::lay, frames::undo,
        packed::zip, packed::archive, packed::unpack, packed::look, packed::readings,
        exports::list, exports::order, exports::show, exports::file, exports::cancel, exports::retry, exports::pause,
        orders::list, orders::show, orders::keep, orders::remove,
        matches::begin, matches::fit_stock, matches::show, matches::cancel, matches::take, matches::keep,
        matches::grain, matches::seat,
        lists::stocks, lists::presets, lists::controls,
    ),
)]
struct Document;

/// The OpenAPI document.
#[get("/openapi.json")]
async fn document() -> Answer {
    Ok(HttpResponse::Ok().json(Document::openapi()))
}

async fn missing() -> Answer {
    Err(Problem(crate::WebError::NoPage))
}

/// All of it, with errors of its own form.
pub fn configure(config: &mut web::ServiceConfig) {
    let scope = web::scope(ROOT)
        .configure(problem::configure)
        .service(document)
        .service(rolls::list)
        .service(rolls::add)
        .service(rolls::frames)
        .service(rolls::load)
        .service(frames::show)
        .service(frames::describe)
        .service(frames::undo)
        .service(packed::zip)
        .service(packed::archive)
        .service(packed::unpack)
        .service(packed::look)
        .service(packed::readings)
        .service(frames::set)
        .service(frames::lay)
        .service(exports::list)
        .service(exports::order)
        .service(exports::pause)
        .service(exports::show)
        .service(exports::file)
        .service(exports::cancel)
        .service(exports::retry)
        .service(orders::list)
        .service(orders::show)
        .service(orders::keep)
        .service(orders::remove)
        .service(matches::begin)
        .service(matches::fit_stock)
        .service(matches::take)
        .service(matches::keep)
        .service(matches::show)
        .service(matches::cancel)
        .service(matches::grain)
        .service(matches::seat)
        .service(lists::stocks)
        .service(lists::presets)
        .service(lists::controls)
        .default_service(web::to(missing));
    config.service(scope);
}
