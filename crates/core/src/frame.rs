//! A picture and the stages between it and a print, for programs that use this crate as a library.
//!
//! ```
//! use amber_core::controls::Value;
//! use amber_core::{Catalogue, Development, Frame, Source};
//!
//! # fn main() -> Result<(), amber_core::CoreError> {
//! let source = Source::from_linear_srgb(60, 40, |x, _| [0.01 * f64::from(x); 3]);
//! let frame = Frame::new(source)?;
//! let stock = Catalogue::find("plover")?;
//! let mut development = Development::new(&stock);
//! development.set(&stock, "lens.crop.size", Value::Number(50.0))?;
//! let print = frame.render(&stock, &development)?;
//! assert_eq!(print.size(), [30, 20]);
//! assert_eq!(print.display_8_bit()?.len(), 3 * 30 * 20);
//! # Ok(())
//! # }
//! ```

use std::sync::Arc;

use rayon::{ThreadPool, ThreadPoolBuilder};

use crate::development::Development;
use crate::error::CoreError;
use crate::picture::buffer::{LayerDensity, LayerExposure, Reflectance, SceneLight};
use crate::picture::reduce::size_for_long_edge;
use crate::picture::{Picture, Region, Source};
use crate::render::{Finish, GrainShown, Memory, RenderRequest, Renderer, Scaled, Watch};
use crate::stock::Stock;

/// A picture of which developments are rendered.
pub struct Frame {
    full: Scaled,
    renderer: Renderer,
}

impl Frame {
    /// A picture rendered on as many threads as the machine has cores.
    pub fn new(source: Source) -> Result<Self, CoreError> {
        let pool = ThreadPoolBuilder::new().build().map_err(|e| CoreError::Threads { why: e.to_string() })?;
        Ok(Self::on(source, Arc::new(pool)))
    }

    /// A picture rendered on a pool of the caller's. Nothing that was rendered is kept.
    pub fn on(source: Source, pool: Arc<ThreadPool>) -> Self {
        let renderer = Renderer::within(pool, Memory { tiles: 0, mosaics: 0, ..Memory::of(KEPT) });
        // names the picture where things are kept; this frame's renderer knows no other
        Self { full: Scaled::full(Arc::new(source), "the only one"), renderer }
    }

    /// A development of it at full size: framed, turned and smoothed as it asks for.
    pub fn render<'a>(&'a self, stock: &'a Stock, development: &'a Development) -> Result<Rendering<'a>, CoreError> {
        let prepare = || self.full.for_development(development, stock, &|| false);
        let scaled = self.renderer.pool().install(prepare)?;
        let region = scaled.source.region();
        Ok(Rendering { renderer: &self.renderer, stock, development, scaled, region, grain: GrainShown::Full })
    }
}

/// What is prepared once for a frame: planes of spread light, tables, masks.
const KEPT: usize = 512 << 20;

/// A development of a frame at one size: any quantity of any rectangle.
pub struct Rendering<'a> {
    renderer: &'a Renderer,
    stock: &'a Stock,
    development: &'a Development,
    scaled: Scaled,
    region: Region,
    grain: GrainShown,
}

impl Rendering<'_> {
    /// The same reduced, so that its longer side has `pixels`; it is never enlarged.
    pub fn long_edge(self, pixels: u32) -> Self {
        let (width, height) = size_for_long_edge(pixels.max(1), self.scaled.full_width, self.scaled.full_height);
        let scaled = self.renderer.pool().install(|| self.scaled.reduced(width, height));
        Self { region: scaled.source.region(), scaled, ..self }
    }

    /// Only a rectangle of it, in pixels of its size: a crop of the whole, bit for bit.
    pub fn region(self, region: Region) -> Self {
        Self { region, ..self }
    }

    /// With grain as it is asked for.
    pub fn grain(self, grain: GrainShown) -> Self {
        Self { grain, ..self }
    }

    /// Width and height in pixels.
    pub fn size(&self) -> [u32; 2] {
        [self.scaled.source.width(), self.scaled.source.height()]
    }

    fn request(&self) -> RenderRequest<'_> {
        RenderRequest {
            scaled: &self.scaled,
            stock: self.stock,
            development: self.development,
            region: self.region,
            grain: self.grain,
            keep_tiles: false,
            finish: Finish::SCREEN,
        }
    }

    /// Linear scene light at the film, in the working space.
    pub fn scene_light(&self) -> Result<Picture<SceneLight>, CoreError> {
        self.renderer.scene_light(&self.request(), Watch::NONE)
    }

    /// Linear exposure of each layer, halation included.
    pub fn exposure(&self) -> Result<Picture<LayerExposure>, CoreError> {
        self.renderer.exposure(&self.request(), Watch::NONE)
    }

    /// Density of each layer, grain included.
    pub fn density(&self) -> Result<Picture<LayerDensity>, CoreError> {
        self.renderer.density(&self.request(), Watch::NONE)
    }

    /// Linear reflectance of the print in the working space.
    pub fn reflectance(&self) -> Result<Picture<Reflectance>, CoreError> {
        self.renderer.reflectance(&self.request(), Watch::NONE)
    }

    /// Encoded sRGB in 8 bits, interleaved.
    pub fn display_8_bit(&self) -> Result<Vec<u8>, CoreError> {
        self.renderer.display_8_bit(&self.request(), Watch::NONE)
    }

    /// Encoded sRGB in 16 bits, interleaved.
    pub fn display_16_bit(&self) -> Result<Vec<u16>, CoreError> {
        self.renderer.display_16_bit(&self.request(), Watch::NONE)
    }
}
