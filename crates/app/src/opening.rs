//! A picture and the development with which a command begins.

use std::path::Path;
use std::sync::Arc;

use amber_core::picture::reduce::size_for_long_edge;
use amber_core::render::{Renderer, Scaled};
use amber_core::{Catalogue, Development, Source, Stock};
use amber_files::{Limits, write};
use amber_lab::{for_light, opened, render_pool};

use crate::{documents, files, sentence, stocks};

/// Long edge at which a picture is measured.
const SMALL: u32 = 720;

/// A picture opened, with the development that it begins with.
pub struct Begun {
    pub renderer: Renderer,
    pub development: Development,
    pub stock: Arc<Stock>,
    /// As the development frames it.
    pub full: Scaled,
    pub small: Scaled,
}

/// The stock and the development that options name: the document first, then the stock.
fn development_of(document: Option<&Path>, stock: Option<&str>) -> Result<(Development, Arc<Stock>), String> {
    let development = document.map(documents::development).transpose()?;
    let stock = match (stock, &development) {
        (Some(named), _) => stocks::named_or_read(named)?,
        (None, Some(development)) => Catalogue::find(&development.stock.id).map_err(|e| sentence::of(&e))?,
        (None, None) => Catalogue::first(),
    };
    let mut development = development.unwrap_or_else(|| Development::new(&stock));
    if development.stock.hash != stock.content_hash() {
        development.change_stock(&stock);
    }
    Ok((development, stock))
}

/// Opens a picture.
pub fn picture(file: &Path, limits: Limits, renderer: &Renderer) -> Result<(Source, Option<u32>, String), String> {
    let bytes = files::bytes_of(file)?;
    let hash = amber_library::Originals::hash_of(&bytes);
    let opened = opened(&bytes, limits, renderer).map_err(|e| format!("{}: {e}", file.display()))?;
    Ok((opened.source, opened.light_stops, hash))
}

impl Begun {
    pub fn with(file: &Path, document: Option<&Path>, stock: Option<&str>, limits: Limits) -> Result<Self, String> {
        let (mut development, stock) = development_of(document, stock)?;
        let pool = render_pool(None).map_err(|e| sentence::of(&e))?;
        let renderer = Renderer::new(pool, 0);
        let (source, light, hash) = picture(file, limits, &renderer)?;
        if document.is_none() {
            development.seed = amber_library::seed_of(&hash);
        }
        if let Some(stops) = light {
            for_light(&mut development, &stock, stops).map_err(|e| sentence::of(&e))?;
        }
        let framed = renderer.pool().install(|| {
            let full = Scaled::full(Arc::new(source), &hash).for_development(&development, &stock, &|| false)?;
            let (width, height) = size_for_long_edge(SMALL, full.full_width, full.full_height);
            Ok::<_, amber_core::CoreError>((full.reduced(width, height), full))
        });
        let (small, full) = framed.map_err(|e| sentence::of(&e))?;
        Ok(Self { renderer, development, stock, full, small })
    }
}

/// Writes a document to a file, or to standard output.
pub fn written(output: &Path, text: &str) -> Result<(), String> {
    if files::is_stream(output) {
        return crate::output::print(text);
    }
    write::save(output, text.as_bytes()).map_err(|e| sentence::of(&e))
}
