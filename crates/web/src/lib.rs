//! The screens of Amber Grain: pages, fragments, rendered pictures, assets.
//!
//! Handlers are thin: they read the request, call the lab on a blocking thread and fill a template.

mod assets;
mod draw;
mod error;
mod fragments;
mod guard;
mod images;
mod pages;
mod upload;

use std::net::TcpListener;
use std::sync::Arc;

use actix_web::middleware::from_fn;
use actix_web::{App, HttpServer, web};
use amber_lab::Lab;

pub use error::WebError;

/// How the application is served.
#[derive(Debug, Clone, Default)]
pub struct Settings {
    /// Host names, besides loopback, under which it may be reached.
    pub hosts: Vec<String>,
    /// Largest upload in bytes.
    pub upload_bytes: usize,
}

/// What every handler shares.
pub struct Shared {
    pub lab: Arc<Lab>,
    pub settings: Settings,
}

/// Requests wait for renders on these threads; the renders themselves run on the lab's pool.
const WORKERS: usize = 2;
/// Largest JSON or form body in bytes: a development with many brush strokes.
const SMALL_BODY: usize = 4 << 20;

/// Serves until the process is told to stop.
pub fn run(lab: Arc<Lab>, listener: TcpListener, settings: Settings) -> std::io::Result<()> {
    let shared = web::Data::new(Shared { lab, settings });
    actix_web::rt::System::new().block_on(async move {
        HttpServer::new(move || {
            App::new()
                .app_data(shared.clone())
                .app_data(web::JsonConfig::default().limit(SMALL_BODY))
                .app_data(web::FormConfig::default().limit(SMALL_BODY))
                .wrap(from_fn(guard::check))
                .configure(routes)
        })
        .workers(WORKERS)
        .shutdown_timeout(2)
        .listen(listener)?
        .run()
        .await
    })
}

fn routes(config: &mut web::ServiceConfig) {
    config
        .service(pages::roll::home)
        .service(pages::roll::show)
        .service(pages::roll::add)
        .service(pages::roll::rename)
        .service(pages::bench::show)
        .service(fragments::bench::open_station)
        .service(fragments::development::commit)
        .service(fragments::development::take_step)
        .service(fragments::development::load_stock)
        .service(fragments::development::keep_as_stock)
        .service(fragments::readings::film_chart)
        .service(fragments::readings::tone_ramp)
        .service(fragments::readings::plane)
        .service(fragments::readings::hues)
        .service(fragments::readings::zones)
        .service(fragments::readings::neutral)
        .service(fragments::readings::range)
        .service(fragments::masks::copy)
        .service(fragments::metering::propose)
        .service(pages::stocks::show)
        .service(pages::stocks::close_look)
        .service(fragments::stocks::pin)
        .service(fragments::stocks::import)
        .service(fragments::stocks::as_file)
        .service(fragments::stocks::rename)
        .service(fragments::stocks::remove)
        .service(fragments::frames::remove)
        .service(fragments::exports::start)
        .service(fragments::exports::list)
        .service(fragments::exports::cancel)
        .service(fragments::exports::file)
        .service(upload::add_frame)
        .service(images::view)
        .service(images::thumbnail)
        .service(images::stock_thumbnail)
        .service(assets::asset)
        .default_service(web::to(pages::missing));
}

/// Runs lab work on a blocking thread.
async fn blocking<T: Send + 'static>(
    shared: &web::Data<Shared>,
    work: impl FnOnce(&Arc<Lab>) -> Result<T, WebError> + Send + 'static,
) -> Result<T, WebError> {
    let lab = shared.lab.clone();
    web::block(move || work(&lab)).await.map_err(|_| WebError::Busy)?
}
