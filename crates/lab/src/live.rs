//! Live views: the newest request of a view wins.

use std::collections::HashMap;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

use amber_core::picture::framing::Framing;
use amber_core::picture::reduce::Level;
use amber_core::render::{Alone, GrainShown, RenderRequest};
use amber_core::stations::lens::LensSettings;
use amber_core::{CoreError, Development, Region, Stock};
use amber_files::write;
use amber_library::FrameSummary;

use crate::Lab;
use crate::error::LabError;
use crate::sources::Care;
use crate::waiting::{self, Waiting};

/// How carefully a view is rendered.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Pass {
    /// While a control moves: half size, grain averaged, JPEG.
    Quick,
    /// While a control moves whose effect is the grain itself.
    QuickGrain,
    /// At rest: every pixel; lossless at full size.
    Settled,
}

/// What a view shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shown {
    Developed,
    Original,
    /// One effect by itself.
    Alone(Alone),
}

/// A request for a rectangle of a frame at a zoom step.
#[derive(Debug, Clone)]
pub struct ViewRequest {
    pub frame: i64,
    /// Names the view (one per window); its newest sequence number wins.
    pub view: String,
    pub sequence: u64,
    pub development: Development,
    /// The id of a mask that is laid over the picture.
    pub overlay: Option<String>,
    pub level: u8,
    /// In pixels of the zoom step; the whole frame when absent.
    pub region: Option<Region>,
    pub pass: Pass,
    pub shown: Shown,
}

/// An encoded picture and where it lies in the frame at its own scale.
#[derive(Debug)]
pub struct ViewPicture {
    pub bytes: Vec<u8>,
    pub media_type: &'static str,
    pub region: Region,
    pub frame_width: u32,
    pub frame_height: u32,
    /// The framed picture at full size.
    pub framed: FrameSize,
}

/// Size of a framed picture, and what is left over of the original to move in, in full pixels.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FrameSize {
    pub width: u32,
    pub height: u32,
    pub slack: [f64; 2],
}

/// The newest sequence number of every view.
#[derive(Default)]
pub struct Views {
    newest: Mutex<HashMap<String, Arc<AtomicU64>>>,
}

/// Views remembered; a window that was closed long ago is forgotten.
const MOST_VIEWS: usize = 256;

impl Views {
    fn enter(&self, view: &str, sequence: u64) -> Arc<AtomicU64> {
        let mut newest = self.newest.lock().unwrap_or_else(PoisonError::into_inner);
        if newest.len() >= MOST_VIEWS && !newest.contains_key(view) {
            newest.clear();
        }
        let slot = newest.entry(view.to_owned()).or_default().clone();
        slot.fetch_max(sequence, Ordering::SeqCst);
        slot
    }
}

impl Lab {
    /// Renders and encodes a view; [`LabError::is_abandoned`] when a newer request came.
    pub fn view(&self, request: &ViewRequest) -> Result<ViewPicture, LabError> {
        if Level(request.level) > Level::SMALLEST {
            return Err(LabError::Level(request.level));
        }
        let overlay = match &request.overlay {
            None => None,
            Some(id) => {
                let mask = request.development.masks.get(id);
                Some(mask.ok_or_else(|| CoreError::UnknownMask { label: "The overlay".into(), id: id.clone() })?)
            }
        };
        let newest = self.views.enter(&request.view, request.sequence);
        let waiting = Waiting::here();
        let abandoned = || newest.load(Ordering::SeqCst) > request.sequence || waiting.is_over();
        let frame = self.library.frame(request.frame)?.summary;
        let stock = self.library.stock_of(&request.development)?;
        let full_size = Level(request.level) == Level::FULL;
        // a step is the square root of two: two steps are half the size
        let level = match request.pass {
            Pass::Quick => Level(request.level.saturating_add(2).min(Level::SMALLEST.0)),
            _ => Level(request.level),
        };
        let care = if request.pass == Pass::Settled { Care::Settled } else { Care::Quick };
        let scaled = match request.shown {
            Shown::Original => self.original_of(&frame, level, &request.development, &stock, &abandoned)?,
            _ => self.source_of(&frame, level, &request.development, &stock, care, &abandoned)?,
        };
        if abandoned() {
            return Err(CoreError::Abandoned.into());
        }
        let whole = scaled.source.region();
        let asked = match request.region {
            None => whole,
            Some(region) if level.0 != request.level => halved(region),
            Some(region) => region,
        };
        let region = asked.intersect(&whole).ok_or(CoreError::RegionOutside {
            x: asked.x,
            y: asked.y,
            width: asked.width,
            height: asked.height,
            frame_width: whole.width,
            frame_height: whole.height,
        })?;
        let watch = waiting::until(&abandoned);
        let mut pixels = match request.shown {
            Shown::Original => scaled.source.display_8_bit(region),
            Shown::Developed | Shown::Alone(_) => {
                let grain = if request.pass == Pass::Quick && request.shown == Shown::Developed {
                    GrainShown::Averaged
                } else {
                    GrainShown::Full
                };
                let render = RenderRequest {
                    scaled: &scaled,
                    stock: &stock,
                    development: &request.development,
                    region,
                    grain,
                    keep_tiles: true,
                };
                match request.shown {
                    Shown::Alone(alone) => self.renderer.alone_8_bit(&render, alone, watch)?,
                    _ => self.renderer.display_8_bit(&render, watch)?,
                }
            }
        };
        if let Some(mask) = overlay {
            lay_over(&mut pixels, &self.renderer.mask(&scaled, mask, region));
        }
        let (width, height) = (region.width, region.height);
        let (bytes, media_type) = match request.pass {
            Pass::Settled if full_size => (write::png(&pixels, width, height)?, "image/png"),
            Pass::Settled => (write::jpeg(&pixels, width, height, 93, None)?, "image/jpeg"),
            _ => (write::jpeg(&pixels, width, height, 85, None)?, "image/jpeg"),
        };
        let framed = frame_size(&frame, &request.development, &stock);
        Ok(ViewPicture { bytes, media_type, region, frame_width: whole.width, frame_height: whole.height, framed })
    }
}

/// Colour of a mask that lies over a picture, and how much of it at full strength.
const OVERLAY: ([f32; 3], f32) = ([226.0, 48.0, 78.0], 0.62);

/// Lays a mask over display pixels.
fn lay_over(pixels: &mut [u8], mask: &[f32]) {
    let (colour, share) = OVERLAY;
    for (pixel, m) in pixels.chunks_exact_mut(3).zip(mask) {
        for (v, c) in pixel.iter_mut().zip(colour) {
            let plain = f32::from(*v);
            *v = (plain + share * m * (c - plain)).round() as u8;
        }
    }
}

/// How a development frames a picture.
pub fn frame_size(frame: &FrameSummary, development: &Development, stock: &Stock) -> FrameSize {
    let settings = LensSettings::framing(&development.values(stock));
    let framing = Framing::new(&settings, frame.width, frame.height);
    FrameSize { width: framing.width, height: framing.height, slack: framing.slack }
}

/// The rectangle at half the size that covers `region`.
fn halved(region: Region) -> Region {
    let (x, y) = (region.x / 2, region.y / 2);
    Region::new(x, y, region.right().div_ceil(2) - x, region.bottom().div_ceil(2) - y)
}
