//! A file that lies in no library, developed: what the command line, orders and hand-off folders share.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use amber_core::controls::Value;
use amber_core::render::{GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::{Development, Region, Stock};
use amber_files::encode::Place;
use amber_files::{Limits, Metadata, Opened, Travelling};

use super::output::Output;
use super::rendering::{develop_into, sized};
use super::size::Size;
use crate::error::LabError;
use crate::mounting::in_its_mount;

/// A file and how it is to be developed.
#[derive(Debug, Clone, Copy)]
pub struct Undeveloped<'a> {
    /// Content hash (BLAKE3, hexadecimal) of the file.
    pub hash: &'a str,
    /// What it is called, as the development that travels says.
    pub name: &'a str,
    pub development: &'a Development,
    pub stock: &'a Stock,
    pub output: &'a Output,
}

/// A file decoded, framed, and at the size at which it leaves.
pub struct AtSize {
    pub scaled: Scaled,
    /// Pixels before it was made smaller.
    pub whole: [u32; 2],
    metadata: Metadata,
}

/// Opens a file on the render threads.
pub fn opened(bytes: &[u8], limits: Limits, renderer: &Renderer) -> Result<Opened, LabError> {
    Ok(renderer.pool().install(|| amber_files::open(bytes, limits))?)
}

/// [`opened`], while the tables that it will need and the first of its grain are made beside it: one thread decodes.
pub fn opened_beside_tables(
    bytes: &[u8],
    limits: Limits,
    renderer: &Renderer,
    (development, stock): (&Development, &Stock),
    size: &Size,
) -> Result<Opened, LabError> {
    let decoding = AtomicBool::new(true);
    let go_on = || decoding.load(Ordering::Relaxed);
    let make_beforehand = || {
        // what goes wrong here is said by what follows
        let [width, height] = amber_files::size_of(bytes).ok().filter(|size| !size.contains(&0))?;
        limits.check(width, height).ok()?;
        renderer.make_beforehand(stock, development, [width, height], |framed| size.pixels(framed), &go_on).ok()
    };
    std::thread::scope(|scope| {
        scope.spawn(make_beforehand);
        let opened = opened(bytes, limits, renderer);
        decoding.store(false, Ordering::Relaxed);
        opened
    })
}

/// A development for a picture whose samples are light itself, which was darkened by some stops to have room: nothing
/// of a camera's rendering is taken back, and the stops are given to it.
pub fn for_light(development: &mut Development, stock: &Stock, stops: u32) -> Result<(), LabError> {
    let exposure = development.values.get("scene.exposure").and_then(Value::as_number).unwrap_or(0.0);
    for (id, value) in
        [("scene.exposure", exposure + f64::from(stops)), ("scene.headroom", 0.0), ("scene.rendering", 1.0)]
    {
        development.set(stock, id, Value::Number(value))?;
    }
    Ok(())
}

impl Undeveloped<'_> {
    /// The picture at the size at which it leaves.
    pub fn at_size(&self, opened: Opened, renderer: &Renderer) -> Result<AtSize, LabError> {
        let pool = renderer.pool();
        let full = pool.install(|| {
            let full = Scaled::unmeasured(Arc::new(opened.source), self.hash);
            full.for_development(self.development, self.stock, &|| false)
        })?;
        let whole = [full.full_width, full.full_height];
        Ok(AtSize { scaled: sized(full, &self.output.size, pool), whole, metadata: opened.metadata })
    }

    /// Renders and encodes it: the whole in its mount, or a region without one.
    pub fn develop_into(
        &self,
        picture: AtSize,
        region: Option<Region>,
        renderer: &Renderer,
        watch: Watch,
        out: &mut dyn Place,
    ) -> Result<(), LabError> {
        let AtSize { scaled, whole, metadata } = picture;
        let (scaled, mount) = match region {
            None => in_its_mount(renderer, scaled, self.stock, self.development)?,
            Some(_) => (scaled, None),
        };
        let request = RenderRequest {
            scaled: &scaled,
            stock: self.stock,
            development: self.development,
            region: region.unwrap_or_else(|| scaled.source.region()),
            grain: GrainShown::Full,
            keep_tiles: false,
            finish: self.output.finish(whole),
        };
        let travelling = Travelling {
            original: self.hash.into(),
            name: self.name.into(),
            development: self.development.clone(),
            stock: Some(self.stock.clone()),
            proofs: Vec::new(),
        };
        let attached = self.output.attached(&metadata, Some(travelling), whole);
        let developed = develop_into(out, renderer, &request, mount, (&self.output.encoding, &attached), watch);
        renderer.let_go_ahead();
        developed
    }
}
