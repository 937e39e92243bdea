//! Live views: the newest request of a view wins.

use std::collections::HashMap;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

use amber_core::controls::Values;
use amber_core::mask::Mask;
use amber_core::picture::FilmGeometry;
use amber_core::picture::framing::Framing;
use amber_core::picture::reduce::Level;
use amber_core::render::{Alone, Finish, GrainShown, RenderRequest, Scaled, Watch};
use amber_core::stations::film::FilmSettings;
use amber_core::stations::lens::LensSettings;
use amber_core::stations::surface::mount::{Layout, MountSettings};
use amber_core::{CoreError, Development, Region, Stock};
use amber_files::write;
use amber_library::{Frame, FrameSummary};

use crate::Lab;
use crate::error::LabError;
use crate::hands::Hands;
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
    /// Further zoom steps, at most [`COARSEST`], by which a quick pass is smaller where it would be too slow.
    pub coarser: u8,
    pub shown: Shown,
}

/// Most further steps of a quick pass.
pub const COARSEST: u8 = 2;

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
    /// The whole of the format on the film, and where in it the picture's corner lies.
    pub film: [f64; 2],
    pub corner: [f64; 2],
    /// What a mount adds to the left, above, to the right and below.
    pub mount: [f64; 4],
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
        self.view_of(&self.library.frame(request.frame)?, request)
    }

    /// [`Lab::view`] of a frame that has been read.
    pub fn view_of(&self, frame: &Frame, request: &ViewRequest) -> Result<ViewPicture, LabError> {
        if Level(request.level) > Level::SMALLEST {
            return Err(LabError::Level(request.level));
        }
        let overlay = request.overlay_mask()?;
        let newest = self.views.enter(&request.view, request.sequence);
        let waiting = Waiting::here();
        let abandoned = || newest.load(Ordering::SeqCst) > request.sequence || waiting.is_over();
        let development = &request.development;
        let stock = match development.stock.id == frame.stock.id {
            true => frame.stock.clone(),
            false => self.library.stock_of(development)?,
        };
        let scaled = self.scaled_for(&frame.summary, request, &stock, &abandoned)?;
        let region = request.region_in(scaled.source.region())?;
        let mut pixels = self.pixels(request, &scaled, &stock, region, waiting::until(&abandoned))?;
        if let Some(mask) = overlay {
            lay_over(&mut pixels, &self.renderer.mask(&scaled, mask, region));
        }
        let (bytes, media_type) = request.encoded(&pixels, region.width, region.height)?;
        let framed = frame_size(&frame.summary, development, &stock);
        let (frame_width, frame_height) = (scaled.source.width(), scaled.source.height());
        Ok(ViewPicture { bytes, media_type, region, frame_width, frame_height, framed })
    }

    /// The picture at the scale at which a view is rendered.
    fn scaled_for(
        &self,
        frame: &FrameSummary,
        request: &ViewRequest,
        stock: &Stock,
        abandoned: &(dyn Fn() -> bool + Sync),
    ) -> Result<Scaled, LabError> {
        let development = &request.development;
        let level = request.rendered_level();
        let care = if request.pass == Pass::Settled { Care::Settled } else { Care::Quick };
        let hands = Hands { pool: self.renderer.pool(), over: abandoned };
        let scaled = match request.shown {
            Shown::Original => self.original_of(frame, level, development, stock, hands)?,
            _ => self.source_of(frame, level, development, stock, care, hands)?,
        };
        if abandoned() { Err(CoreError::Abandoned.into()) } else { Ok(scaled) }
    }

    fn pixels(
        &self,
        request: &ViewRequest,
        scaled: &Scaled,
        stock: &Stock,
        region: Region,
        watch: Watch,
    ) -> Result<Vec<u8>, LabError> {
        let averaged = request.pass == Pass::Quick && request.shown == Shown::Developed;
        let grain = if averaged { GrainShown::Averaged } else { GrainShown::Full };
        let development = &request.development;
        let render =
            RenderRequest { scaled, stock, development, region, grain, keep_tiles: true, finish: Finish::SCREEN };
        Ok(match request.shown {
            Shown::Original => scaled.source.display_8_bit(region),
            Shown::Alone(alone) => self.renderer.alone_8_bit(&render, alone, watch)?,
            Shown::Developed => self.renderer.display_8_bit(&render, watch)?,
        })
    }
}

impl Lab {
    /// The whole frame at rest at a zoom step, as it is kept: a JPEG, kept on disk.
    pub fn standing(&self, frame: &Frame, level: u8) -> Result<Vec<u8>, LabError> {
        let development = frame.summary.development.clone();
        self.standing_kept(frame, level, || {
            let request = ViewRequest {
                view: format!("standing {}", frame.summary.id),
                level: level.max(1),
                ..ViewRequest::whole(frame.summary.id, development)
            };
            Ok(self.view_of(frame, &request)?.bytes)
        })
    }
}

impl ViewRequest {
    /// The whole frame at full size, at rest: what a program asks for, once.
    pub fn whole(frame: i64, development: Development) -> Self {
        Self {
            frame,
            view: "whole".into(),
            sequence: 1,
            development,
            overlay: None,
            level: 0,
            region: None,
            pass: Pass::Settled,
            coarser: 0,
            shown: Shown::Developed,
        }
    }

    /// The zoom step that is rendered. A step is the square root of two: two steps are half the size.
    fn rendered_level(&self) -> Level {
        match self.pass {
            Pass::Quick => Level((self.level + 2 + self.coarser.min(COARSEST)).min(Level::SMALLEST.0)),
            _ => Level(self.level),
        }
    }

    /// The rectangle that is rendered, of the whole at its scale.
    fn region_in(&self, whole: Region) -> Result<Region, CoreError> {
        let asked = match self.region {
            None => whole,
            Some(region) => smaller(region, self.rendered_level().0 - self.level),
        };
        asked.intersect(&whole).ok_or(CoreError::RegionOutside {
            x: asked.x,
            y: asked.y,
            width: asked.width,
            height: asked.height,
            frame_width: whole.width,
            frame_height: whole.height,
        })
    }

    fn overlay_mask(&self) -> Result<Option<&Mask>, CoreError> {
        let find = |id: &String| {
            let unknown = || CoreError::UnknownMask { label: "The overlay".into(), id: id.clone() };
            self.development.masks.get(id).ok_or_else(unknown)
        };
        self.overlay.as_ref().map(find).transpose()
    }

    /// Lossless at rest at full size.
    fn encoded(&self, pixels: &[u8], width: u32, height: u32) -> Result<(Vec<u8>, &'static str), LabError> {
        Ok(match self.pass {
            Pass::Settled if Level(self.level) == Level::FULL => (write::png(pixels, width, height)?, "image/png"),
            Pass::Settled => (write::jpeg(pixels, width, height, 93, None)?, "image/jpeg"),
            _ => (write::jpeg(pixels, width, height, 85, None)?, "image/jpeg"),
        })
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
    FrameSize {
        width: framing.width,
        height: framing.height,
        slack: framing.slack,
        film: framing.film.map(f64::from),
        corner: framing.corner.map(f64::from),
        mount: mount_of(&development.values(stock), &framing),
    }
}

/// What a mount adds to a picture.
fn mount_of(values: &Values, framing: &Framing) -> [f64; 4] {
    let (settings, gate) = (MountSettings::read(values), FilmSettings::read(values).gate);
    let pitch_um = FilmGeometry::filling(gate, framing.film[0], framing.film[1]).pitch_um;
    let Some(layout) = Layout::new(&settings, [framing.width, framing.height], pitch_um, gate) else { return [0.0; 4] };
    let (inner, [width, height]) = (layout.picture, layout.whole);
    [inner.x, inner.y, width - inner.right(), height - inner.bottom()].map(f64::from)
}

/// The rectangle, so many zoom steps smaller, that covers `region`.
fn smaller(region: Region, steps: u8) -> Region {
    let scale = 0.5f64.powf(f64::from(steps) / 2.0);
    let [x, y] = [region.x, region.y].map(|v| (f64::from(v) * scale + 1e-6).floor() as u32);
    let [right, bottom] = [region.right(), region.bottom()].map(|v| (f64::from(v) * scale - 1e-6).ceil() as u32);
    Region::new(x, y, (right - x).max(1), (bottom - y).max(1))
}
