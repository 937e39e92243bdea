//! Rendered pictures.

use actix_web::http::header;
use actix_web::{HttpResponse, post, route, web};
use amber_core::Region;
use amber_core::controls::Value;
use amber_core::mask::Mask;
use amber_core::render::Alone;
use amber_core::text::shortened;
use amber_lab::{
    Against, FrameSize, Pass, Shown, ThumbnailSize, ViewRequest, development_version, preset_version, stock_version,
};
use serde::Deserialize;
use std::collections::{BTreeMap, BTreeSet};

use crate::error::WebError;
use crate::fragments::selection::{share, whole};
use crate::{Shared, blocking};

/// A view as the page asks for it.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Asked {
    view: String,
    sequence: u64,
    /// The values in force while a control moves; nothing is stored.
    values: BTreeMap<String, Value>,
    /// The masks in force while one of them is drawn; the frame's own otherwise.
    masks: Option<BTreeMap<String, Mask>>,
    /// The lamps that are off; the frame's own where there is none.
    off: Option<BTreeSet<String>>,
    /// A mask that is laid over the picture.
    overlay: Option<String>,
    level: u8,
    region: Option<[u32; 4]>,
    pass: String,
    /// How many further steps smaller a quick pass is to be.
    #[serde(default)]
    coarser: u8,
    /// `developed`, `original`, or one effect alone: `bloom`, `halation`, `grain`.
    #[serde(default = "developed")]
    shown: String,
    /// Another version of the frame: `stock`, `kept`, `proof:3`, or itself on its way, `after:bath`; the values that
    /// are given where it is empty.
    #[serde(default)]
    of: String,
}

fn developed() -> String {
    "developed".into()
}

const LONGEST_VIEW_NAME: usize = 64;

#[post("/frames/{id}/view")]
pub async fn view(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<Asked>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    if asked.view.len() > LONGEST_VIEW_NAME {
        return Err(WebError::Unusable("the view's name is too long".into()));
    }
    let picture = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let mut development = frame.summary.development.clone().with(asked.values, asked.masks, asked.off)?;
        let mut shown = match asked.shown.as_str() {
            "developed" => Shown::Developed,
            "original" => Shown::Original,
            "bloom" => Shown::Alone(Alone::Bloom),
            "halation" => Shown::Alone(Alone::Halation),
            "grain" => Shown::Alone(Alone::Grain),
            other => return Err(WebError::Unusable(format!("there is no view '{other}'"))),
        };
        if !asked.of.is_empty() {
            let of = version(&asked.of)?;
            development = lab.against(&frame, &development, of)?;
            shown = of.shown(&frame.stock);
        }
        let pass = match asked.pass.as_str() {
            "quick" => Pass::Quick,
            "grain" => Pass::QuickGrain,
            "settled" => Pass::Settled,
            other => return Err(WebError::Unusable(format!("there is no pass '{other}'"))),
        };
        let request = ViewRequest {
            frame: id,
            view: asked.view,
            sequence: asked.sequence,
            development,
            overlay: asked.overlay,
            level: asked.level,
            region: asked.region.map(|[x, y, width, height]| Region::new(x, y, width, height)),
            pass,
            coarser: asked.coarser,
            shown,
        };
        let picture = lab.view_of(&frame, &request)?;
        if request.pass == Pass::Settled {
            lab.read_ahead(&frame, &request.development);
        }
        Ok(picture)
    })
    .await?;
    let (r, full) = (picture.region, picture.framed);
    Ok(HttpResponse::Ok()
        .content_type(picture.media_type)
        .insert_header(("x-region", format!("{},{},{},{}", r.x, r.y, r.width, r.height)))
        .insert_header(("x-frame", format!("{},{}", picture.frame_width, picture.frame_height)))
        .insert_header(("x-full", size_of(&full)))
        .body(picture.bytes))
}

/// The version of a frame with a name.
fn version(named: &str) -> Result<Against, WebError> {
    Against::named(named)
        .ok_or_else(|| WebError::Unusable(format!("there is no version '{}' of a frame", shortened(named))))
}

/// What a mount is asked for with.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MountAsked {
    values: BTreeMap<String, Value>,
    off: Option<BTreeSet<String>>,
    /// Pixels that the picture in it is wide.
    width: u32,
}

/// The mount of a frame alone, clear where the picture is seen.
#[post("/frames/{id}/mount")]
pub async fn mount_alone(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Json<MountAsked>,
) -> Result<HttpResponse, WebError> {
    let (id, asked) = (id.into_inner(), asked.into_inner());
    let png = blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let development = frame.summary.development.clone().with(asked.values, None, asked.off)?;
        Ok(lab.mount_alone(&frame, &development, asked.width.max(1))?)
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("image/png").body(png))
}

/// The framed picture in full pixels: its size, what is left over, the format on the film, the corner within that.
fn size_of(full: &FrameSize) -> String {
    let FrameSize { width, height, slack, film, corner, mount } = full;
    let pairs = [slack, film, corner].map(|[x, y]| format!("{x:.1},{y:.1}"));
    let mount = mount.map(|side| side.to_string());
    format!("{width},{height},{},{}", pairs.join(","), mount.join(","))
}

#[derive(Deserialize)]
pub struct Which {
    #[serde(default)]
    original: bool,
    /// Another version of the frame, as a view is asked for.
    #[serde(default)]
    of: String,
    /// What the address says that the picture depends on.
    #[serde(default)]
    v: String,
}

/// A picture that may be kept for good where its address names all that it depends on.
pub fn jpeg((bytes, named): (Vec<u8>, bool)) -> HttpResponse {
    let caching = if named { "private, max-age=31536000, immutable" } else { "no-store" };
    HttpResponse::Ok().content_type("image/jpeg").insert_header((header::CACHE_CONTROL, caching)).body(bytes)
}

#[route("/frames/{id}/thumbnail", method = "GET", method = "HEAD")]
pub async fn thumbnail(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    which: web::Query<Which>,
) -> Result<HttpResponse, WebError> {
    let (id, Which { original, of, v }) = (id.into_inner(), which.into_inner());
    let shown = if original { Shown::Original } else { Shown::Developed };
    blocking(&shared, move |lab| {
        let kept = lab.library.frame(id)?;
        if !of.is_empty() {
            let development = lab.against(&kept, &kept.summary.development, version(&of)?)?;
            let stock = lab.library.stock_of(&development)?;
            let named = v == development_version(&kept.summary.content, &development);
            return Ok((lab.thumbnail_of(&kept.summary, &development, &stock, ThumbnailSize::Sheet)?, named));
        }
        let frame = kept.summary;
        let named = v == if original { frame.content.clone() } else { frame.version() };
        Ok((lab.thumbnail(id, shown)?, named))
    })
    .await
    .map(jpeg)
}

#[derive(Deserialize)]
pub struct Large {
    #[serde(default)]
    close: bool,
    #[serde(default)]
    v: String,
}

/// The frame as it would be on another stock.
#[route("/frames/{id}/stocks/{stock}", method = "GET", method = "HEAD")]
pub async fn stock_thumbnail(
    shared: web::Data<Shared>,
    path: web::Path<(i64, String)>,
    asked: web::Query<Large>,
) -> Result<HttpResponse, WebError> {
    let (id, stock) = path.into_inner();
    let Large { close, v } = asked.into_inner();
    let size = if close { ThumbnailSize::Close } else { ThumbnailSize::Tile };
    blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let mut development = frame.summary.development.clone();
        // the stock in force is shown as it is tuned
        let stock = if stock == frame.stock.id { frame.stock.clone() } else { lab.library.find_stock(&stock)? };
        if stock.id != frame.stock.id {
            development.change_stock(&stock);
        }
        let named = v == stock_version(&frame.summary, &stock);
        Ok((lab.thumbnail_of(&frame.summary, &development, &stock, size)?, named))
    })
    .await
    .map(jpeg)
}

#[derive(Deserialize)]
pub struct Laid {
    #[serde(default)]
    close: bool,
    /// Per cent of the way.
    #[serde(default = "whole")]
    strength: f64,
    #[serde(default)]
    v: String,
}

/// The frame as it would be under a preset.
#[route("/frames/{id}/presets/{preset}", method = "GET", method = "HEAD")]
pub async fn preset_thumbnail(
    shared: web::Data<Shared>,
    path: web::Path<(i64, String)>,
    asked: web::Query<Laid>,
) -> Result<HttpResponse, WebError> {
    let (id, preset) = path.into_inner();
    let Laid { close, strength, v } = asked.into_inner();
    let strength = share(strength)?;
    let size = if close { ThumbnailSize::Close } else { ThumbnailSize::Tile };
    blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let (preset, _) = lab.library.preset(&preset)?;
        let laid = lab.with_preset(&frame.summary, &frame.stock, &preset, strength)?;
        let named = v == preset_version(&frame.summary, &preset, strength);
        Ok((lab.thumbnail_of(&frame.summary, &laid.development, &laid.stock, size)?, named))
    })
    .await
    .map(jpeg)
}

#[derive(Deserialize)]
pub struct Tuned {
    /// Values by control as JSON, over those that are kept.
    values: String,
    /// What the address says that the picture depends on, beside the values.
    #[serde(default)]
    v: String,
}

/// The frame as it would be with some values changed.
#[route("/frames/{id}/tuned", method = "GET", method = "HEAD")]
pub async fn tuned_thumbnail(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<Tuned>,
) -> Result<HttpResponse, WebError> {
    let (id, Tuned { values, v }) = (id.into_inner(), asked.into_inner());
    let values: BTreeMap<String, Value> =
        serde_json::from_str(&values).map_err(|e| WebError::Unusable(format!("the values are not JSON: {e}")))?;
    blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let mut development = frame.summary.development.clone();
        for (id, value) in values {
            development.set(&frame.stock, &id, value)?;
        }
        let named = v == frame.summary.version();
        Ok((lab.thumbnail_of(&frame.summary, &development, &frame.stock, ThumbnailSize::Sheet)?, named))
    })
    .await
    .map(jpeg)
}

#[derive(Deserialize)]
pub struct Standing {
    /// The zoom step.
    level: u8,
    #[serde(default)]
    v: String,
}

/// The whole frame at rest at a zoom step, as it is kept: what stands on the screen first when a frame is walked to.
#[route("/frames/{id}/standing", method = "GET", method = "HEAD")]
pub async fn standing(
    shared: web::Data<Shared>,
    id: web::Path<i64>,
    asked: web::Query<Standing>,
) -> Result<HttpResponse, WebError> {
    let (id, Standing { level, v }) = (id.into_inner(), asked.into_inner());
    blocking(&shared, move |lab| {
        let frame = lab.library.frame(id)?;
        let named = v == frame.summary.version();
        let picture = lab.standing(&frame, level)?;
        // who asks for it may walk to the frame next: its page shows these
        lab.kept_readings(&frame)?;
        Ok((picture, named))
    })
    .await
    .map(jpeg)
}
