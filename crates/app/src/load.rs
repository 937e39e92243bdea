//! `amber-grain load`: a folder of the machine becomes frames of a roll, without the browser.

use std::sync::Arc;

use amber_core::Catalogue;
use amber_files::Limits;
use amber_lab::{Lab, now};
use amber_library::Library;

use crate::arguments::Load;
use crate::{files, output, sentence};

pub fn run(arguments: &Load) -> Result<(), String> {
    let files = files::pictures_in(&arguments.folder, arguments.deep)?;
    if files.is_empty() {
        return Err(format!("{} holds no picture that is read", arguments.folder.display()));
    }
    let library = Library::open(&arguments.data).map_err(|e| sentence::of(&e))?;
    let limits = Limits { megapixels: arguments.max_megapixels };
    let lab = Arc::new(Lab::new(library, limits, arguments.threads).map_err(|e| sentence::of(&e))?);
    let stock = match &arguments.stock {
        Some(id) => lab.library.find_stock(id).map_err(|e| sentence::of(&e))?,
        None => Catalogue::first(),
    };
    let roll = roll(&lab, arguments)?;
    let mut refused = Vec::new();
    for (i, file) in files.iter().enumerate() {
        if !arguments.quiet {
            eprintln!("{} of {}: {}", i + 1, files.len(), file.display());
        }
        let loaded = std::fs::read(file).map_err(|e| e.to_string()).and_then(|bytes| {
            lab.import_on(roll, &file.display().to_string(), &bytes, &stock).map_err(|e| e.to_string())
        });
        if let Err(why) = loaded {
            refused.push(format!("{}: {why}", file.display()));
        }
    }
    lab.close();
    output::print(&format!("{} of {} loaded.", files.len() - refused.len(), files.len()))?;
    match refused.as_slice() {
        [] => Ok(()),
        _ => Err(format!("{} could not be read:\n{}", refused.len(), refused.join("\n"))),
    }
}

/// The roll with the name, or a new one.
fn roll(lab: &Lab, arguments: &Load) -> Result<i64, String> {
    let said = |e: amber_library::LibraryError| sentence::of(&e);
    let there = lab.library.rolls().map_err(said)?.into_iter().find(|roll| roll.name == arguments.roll);
    match there {
        Some(roll) => Ok(roll.id),
        None => lab.library.add_roll(&arguments.roll, now()).map_err(said),
    }
}
