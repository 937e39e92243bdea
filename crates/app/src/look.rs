//! `amber-grain look`: what a development makes of every colour, as a table that other programs read.

use std::path::Path;

use amber_core::look::HALD_LEVELS;
use amber_core::render::Renderer;
use amber_core::{Catalogue, Look};
use amber_files::write;
use amber_lab::{LookForm, look_file, render_pool};

use crate::arguments::Look as Arguments;
use crate::{documents, output, sentence, stocks};

pub fn run(arguments: &Arguments) -> Result<(), String> {
    let development = documents::development(&arguments.development)?;
    let stock = match &arguments.stock {
        Some(named) => stocks::named_or_read(named)?,
        None => Catalogue::find(&development.stock.id).map_err(|e| sentence::of(&e))?,
    };
    let form = form_of(&arguments.output, arguments.size)?;
    let pool = render_pool(None).map_err(|e| sentence::of(&e))?;
    let renderer = Renderer::new(pool, 0);
    let look = Look::of(&development, &stock, form.size(), &renderer).map_err(|e| sentence::of(&e))?;
    let title = arguments.output.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default();
    let file = look_file(&look, form, &title).map_err(|e| sentence::of(&e))?;
    write::save(&arguments.output, &file).map_err(|e| sentence::of(&e))?;
    if look.left_out().is_empty() || arguments.quiet {
        return Ok(());
    }
    output::print(&format!("Not in the table, since it knows no place: {}.", look.left_out().join(", ")))
}

/// The ending of the file chooses the form.
fn form_of(output: &Path, size: Option<u32>) -> Result<LookForm, String> {
    let ending = output.extension().map(|e| e.to_string_lossy().to_lowercase()).unwrap_or_default();
    match ending.as_str() {
        "cube" => Ok(LookForm::Cube(size.unwrap_or(33))),
        "png" => {
            let level = HALD_LEVELS.into_iter().find(|level| level * level == size.unwrap_or(64));
            level.map(LookForm::Hald).ok_or_else(|| "a Hald picture has --size 16 or 64".into())
        }
        other => Err(format!("'{other}' is not an ending of a table: use .cube, or .png for a Hald picture")),
    }
}
