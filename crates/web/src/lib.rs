//! The screens of Amber Grain: pages, fragments, rendered pictures, assets.
//!
//! Handlers are thin: they read the request, call the lab on a blocking thread and fill a template.

mod api;
mod asked;
mod assets;
mod blocking;
mod draw;
mod error;
mod fragments;
mod guard;
mod images;
mod packed;
mod pages;
mod password;
mod proxied;
mod refusals;
mod sessions;
mod upload;

use std::net::{IpAddr, TcpListener};
use std::path::PathBuf;
use std::sync::Arc;
use std::time::Duration;

use actix_web::middleware::{Compress, from_fn};
use actix_web::{App, HttpServer, web};
use amber_lab::Lab;

use blocking::blocking;
pub use error::WebError;
pub use password::Password;

/// How the application is served.
#[derive(Debug, Clone)]
pub struct Settings {
    /// Host names, besides loopback, under which it may be reached.
    pub hosts: Vec<String>,
    /// Largest upload in bytes.
    pub upload_bytes: usize,
    /// Addresses of reverse proxies whose word on who asks is taken.
    pub proxies: Vec<IpAddr>,
    /// Folders, besides the data folder's own, into which exports may go.
    pub folders: Vec<PathBuf>,
    /// Asked for from everybody, where there is one.
    pub password: Option<Password>,
    /// How long the body of a request may stand still.
    pub patience: Duration,
}

impl Default for Settings {
    fn default() -> Self {
        let patience = Duration::from_secs(20);
        Self {
            hosts: Vec::new(),
            upload_bytes: 512 << 20,
            folders: Vec::new(),
            proxies: Vec::new(),
            password: None,
            patience,
        }
    }
}

/// What every handler shares.
pub struct Shared {
    pub lab: Arc<Lab>,
    pub settings: Settings,
    pub sessions: sessions::Sessions,
}

/// Requests wait for renders on these threads; the renders themselves run on the lab's pool.
const WORKERS: usize = 2;
/// Largest JSON or form body in bytes: the masks of a development with many thousand brush strokes.
const LARGEST_BODY: usize = 64 << 20;

/// Serves until the process is told to stop.
pub fn run(lab: Arc<Lab>, listener: TcpListener, settings: Settings) -> std::io::Result<()> {
    let shared = web::Data::new(Shared { lab, settings, sessions: sessions::Sessions::default() });
    actix_web::rt::System::new().block_on(async move {
        HttpServer::new(move || {
            App::new()
                .app_data(shared.clone())
                .configure(refusals::configure)
                .wrap(from_fn(guard::check))
                .wrap(Compress::default())
                .configure(routes)
        })
        .workers(WORKERS)
        // who closes the connection does not wait for the answer: what was asked is given up
        .h1_allow_half_closed(false)
        .shutdown_timeout(2)
        .listen(listener)?
        .run()
        .await
    })
}

fn routes(config: &mut web::ServiceConfig) {
    config
        .service(pages::sign_in::show)
        .service(pages::sign_in::sign_in)
        .service(pages::sign_in::sign_out)
        .service(pages::roll::home)
        .service(pages::roll::show)
        .service(pages::roll::add)
        .service(pages::roll::rename)
        .service(pages::beside::show)
        .service(pages::metering::show)
        .service(fragments::sheet::order)
        .service(fragments::sheet::cells)
        .service(fragments::sheet::taken_off)
        .service(fragments::sheet::remove)
        .service(fragments::sheet::write_note)
        .service(fragments::sheet::rename)
        .service(fragments::sheet::print_sheet)
        .service(fragments::selection::lay)
        .service(fragments::selection::copy_parts)
        .service(fragments::selection::back_to_stock)
        .service(fragments::selection::set_values)
        .service(fragments::selection::undo)
        .service(fragments::selection::mark)
        .service(fragments::selection::take_off)
        .service(fragments::selection::to_roll)
        .service(fragments::selection::rename)
        .service(fragments::selection::give_names)
        .service(fragments::selection::export)
        .service(fragments::selection::names_of_exports)
        .service(fragments::selection::keep_order)
        .service(fragments::selection::order_file)
        .service(fragments::selection::remove_order)
        .service(pages::presets::show)
        .service(pages::presets::close_look)
        .service(fragments::presets::parts_of)
        .service(fragments::presets::keep)
        .service(fragments::presets::update)
        .service(fragments::presets::changes)
        .service(fragments::presets::import)
        .service(fragments::presets::bundle)
        .service(fragments::presets::pin)
        .service(fragments::presets::as_file)
        .service(fragments::presets::rename)
        .service(fragments::presets::remove)
        .service(fragments::presets::restore)
        .service(pages::bench::show)
        .service(fragments::bench::open_station)
        .service(fragments::development::commit)
        .service(fragments::development::take_step)
        .service(fragments::development::load_stock)
        .service(fragments::development::keep_as_stock)
        .service(fragments::readings::film_chart)
        .service(fragments::readings::tone_ramp)
        .service(fragments::readings::plane)
        .service(fragments::readings::spots)
        .service(fragments::readings::pin)
        .service(fragments::readings::hues)
        .service(fragments::readings::zones)
        .service(fragments::readings::tones)
        .service(fragments::readings::neutral)
        .service(fragments::readings::range)
        .service(fragments::masks::copy)
        .service(fragments::metering::propose)
        .service(pages::matching::show)
        .service(pages::charts::show)
        .service(fragments::matching::add_reference)
        .service(fragments::matching::begin)
        .service(fragments::matches::state)
        .service(fragments::matches::cancel_match)
        .service(fragments::matching::print_of_proposal)
        .service(fragments::matching::take_proposal)
        .service(fragments::matching::grain)
        .service(fragments::matching::seat_frame)
        .service(fragments::charts::read_chart)
        .service(fragments::charts::chart_file)
        .service(fragments::charts::fit_chart)
        .service(fragments::charts::patches)
        .service(fragments::charts::wedge)
        .service(fragments::charts::keep_fitted)
        .service(pages::guide::show)
        .service(pages::guide::first)
        .service(pages::stocks::show)
        .service(pages::stocks::close_look)
        .service(fragments::stocks::pin)
        .service(fragments::stocks::import_look)
        .service(fragments::stocks::import)
        .service(fragments::stocks::as_file)
        .service(fragments::stocks::rename)
        .service(fragments::stocks::remove)
        .service(pages::sheets::show)
        .service(fragments::sheets::lay)
        .service(fragments::sheets::thumbnail)
        .service(fragments::sheets::small)
        .service(fragments::sheets::rename)
        .service(fragments::sheets::remove)
        .service(fragments::rack::keep)
        .service(fragments::rack::rename)
        .service(fragments::rack::remove)
        .service(fragments::rack::restore)
        .service(fragments::rack::take)
        .service(fragments::beside::look)
        .service(fragments::beside::csv)
        .service(fragments::beside::sidecar)
        .service(fragments::exports::start)
        .service(fragments::exports::list)
        .service(fragments::exports::pause)
        .service(fragments::exports::cancel_all)
        .service(fragments::exports::forget)
        .service(fragments::exports::cancel)
        .service(fragments::exports::retry)
        .service(fragments::exports::place)
        .service(fragments::exports::file)
        .service(upload::add_frame)
        .service(upload::take_up)
        .service(packed::exports)
        .service(packed::archive)
        .service(packed::read)
        .service(upload::add_picture)
        .service(images::view)
        .service(images::mount_alone)
        .service(images::thumbnail)
        .service(images::stock_thumbnail)
        .service(images::preset_thumbnail)
        .service(images::tuned_thumbnail)
        .service(images::standing)
        .service(fragments::together::card)
        .service(fragments::together::differing)
        .service(assets::asset)
        .configure(api::configure)
        .default_service(web::to(refusals::missing));
}
