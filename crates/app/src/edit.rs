//! `amber-grain edit`: a picture opened on the bench, as another program calls an editor: it waits until the picture is
//! exported, and lays it where it was asked for.

use std::collections::HashSet;
use std::net::{Ipv4Addr, TcpListener};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Duration;

use amber_files::{Limits, write};
use amber_lab::{ExportState, Lab, free_path, now};
use amber_library::Library;
use amber_web::Settings;

use crate::arguments::Edit;
use crate::exit::Failure;
use crate::{output, sentence};

/// The roll on which such pictures lie.
const ROLL: &str = "Edited";
/// How often it is looked whether the picture is exported.
const TICK: Duration = Duration::from_millis(300);

pub fn run(arguments: &Edit) -> Result<(), Failure> {
    let shown = arguments.file.display();
    let bytes = std::fs::read(&arguments.file).map_err(|e| format!("{shown} cannot be read: {e}"))?;
    let library = Library::open(&arguments.data).map_err(|e| sentence::of(&e))?;
    let lab = Arc::new(Lab::new(library, Limits::default(), None).map_err(|e| sentence::of(&e))?);
    let frame = frame_of(&lab, &arguments.file, &bytes)?;
    let place = (Ipv4Addr::LOCALHOST, arguments.port);
    let listener = TcpListener::bind(place).map_err(|e| format!("it cannot listen on {}: {e}", place.0))?;
    let address = listener.local_addr().map_err(|e| sentence::of(&e))?;
    let address = format!("http://{address}/frames/{frame}");
    let mut before = ended(&lab, frame)?;
    lab.resume_exports().map_err(|e| sentence::of(&e))?;
    let served = lab.clone();
    let serve = move || amber_web::run(served, listener, Settings::default());
    std::thread::Builder::new().name("server".into()).spawn(serve).map_err(|e| sentence::of(&e))?;
    output::print(&format!("{shown} is on the bench at {address}; export it there to go on"))?;
    if !arguments.no_browser
        && let Err(error) = open::that_detached(&address)
    {
        eprintln!("amber-grain: no browser could be opened ({error}); open {address} yourself");
    }
    let made = loop {
        std::thread::sleep(TICK);
        let now = ended(&lab, frame)?;
        let Some(id) = now.difference(&before).next() else { continue };
        let made = lab.export_file(*id).map_err(|e| sentence::of(&e))?;
        match &arguments.output {
            Some(wanted) if kind_of(wanted) != kind_of(&made) => {
                let [wanted, made] = [wanted, &made].map(|path| path.display().to_string());
                eprintln!("amber-grain: {made} was exported, but {wanted} is another format; export it again as that");
                before = now;
            }
            _ => break made,
        }
    };
    let target = target(arguments, &made);
    let bytes = std::fs::read(&made).map_err(|e| format!("{} cannot be read: {e}", made.display()))?;
    write::save(&target, &bytes).map_err(|e| sentence::of(&e))?;
    lab.close();
    Ok(output::print(&target.display().to_string())?)
}

/// The picture's frame: that of before, with its development, where it was here already.
fn frame_of(lab: &Lab, file: &Path, bytes: &[u8]) -> Result<i64, String> {
    let said = |e: amber_library::LibraryError| sentence::of(&e);
    let roll = match lab.library.rolls().map_err(said)?.into_iter().find(|roll| roll.name == ROLL) {
        Some(roll) => roll.id,
        None => lab.library.add_roll(ROLL, now()).map_err(said)?,
    };
    let hash = amber_library::Originals::hash_of(bytes);
    let known = lab.library.frames(roll).map_err(said)?.into_iter().find(|frame| frame.content == hash);
    match known {
        Some(frame) => Ok(frame.id),
        None => lab.import(roll, &file.display().to_string(), bytes).map_err(|e| format!("{}: {e}", file.display())),
    }
}

/// Finished exports of a frame.
fn ended(lab: &Lab, frame: i64) -> Result<HashSet<i64>, String> {
    let queue = lab.exports().map_err(|e| sentence::of(&e))?;
    let is_done = |state: &ExportState| matches!(state, ExportState::Done { .. });
    Ok(queue.exports.into_iter().filter(|e| e.frame == frame && is_done(&e.state)).map(|e| e.id).collect())
}

/// The ending that names a file's format.
fn kind_of(path: &Path) -> Option<&'static str> {
    let ending = path.extension()?.to_string_lossy();
    amber_files::Encoding::of_ending(&ending).map(|encoding| encoding.ending())
}

/// Where the finished picture goes.
fn target(arguments: &Edit, made: &Path) -> PathBuf {
    let ending = made.extension().map(|e| e.to_string_lossy().into_owned()).unwrap_or_default();
    arguments.output.clone().unwrap_or_else(|| {
        let stem = arguments.file.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default();
        free_path(arguments.file.parent().unwrap_or(Path::new("")), &format!("{stem} developed"), &ending)
    })
}
