//! The demo's rolls: the invented photographs of a travelling puppet theatre, and looks made of them; loaded once.

use amber_core::Catalogue;
use amber_core::stations;
use amber_lab::Lab;
use amber_library::Change;

use crate::arguments::Demo;
use crate::looks;

const LOADED: &str = "demo roll";
const ROLL: &str = "Lantern & Thread, summer tour";
const LOOKS: &str = "Looks of the tour";

/// File, stock, and what was tuned.
type DemoFrame = (&'static str, &'static str, &'static [(&'static str, &'static str)]);

const FRAMES: [DemoFrame; 8] = [
    (
        "hill-road.jpg",
        "plover",
        &[
            ("scene.exposure", "0.3"),
            ("scene.zone.2", "0.25"),
            ("scene.zone.3", "0.5"),
            ("scene.zone.4", "0.25"),
            ("scene.zone.7", "-0.3"),
            ("scene.air", "-0.3"),
        ],
    ),
    ("marionette-portrait.jpg", "juniper", &[]),
    ("noon-meadow.jpg", "oriole", &[]),
    ("lantern-street.jpg", "nightjar", &[("scene.exposure", "0.5")]),
    ("paint-shelf.jpg", "feldspar", &[]),
    ("grey-quay.jpg", "alder", &[("film.push", "1"), ("scene.air", "-0.4")]),
    ("rehearsal.jpg", "sirocco", &[("film.push", "1"), ("film.grain.granularity", "16")]),
    ("flash-backstage.jpg", "celestine", &[("bath.chemistry", "crossed")]),
];

/// Loads the rolls when this data folder has never had them.
pub fn load_once(lab: &Lab, folders: &Demo) -> Result<(), String> {
    let say = |e: &dyn std::fmt::Display| e.to_string();
    if lab.library.fact(LOADED).map_err(|e| say(&e))?.is_some() {
        return Ok(());
    }
    let roll = lab.library.add_roll(ROLL, 0).map_err(|e| say(&e))?;
    for (file, stock, tuned) in FRAMES {
        let bytes = photograph(folders, file)?;
        let stock = Catalogue::find(stock).map_err(|e| say(&e))?;
        let id = lab.import_on(roll, file, &bytes, &stock).map_err(|e| say(&e))?;
        for (control, text) in tuned {
            let frame = lab.library.frame(id).map_err(|e| say(&e))?.summary;
            let control = stations::find(control).map_err(|e| say(&e))?;
            let mut development = frame.development;
            development.set(&stock, control.id, control.parse(text).map_err(|e| say(&e))?).map_err(|e| say(&e))?;
            let change = Change { revision: frame.revision, label: format!("{} {text}", control.label), development };
            lab.library.commit(id, change, &stock).map_err(|e| say(&e))?;
        }
    }
    load_looks(lab, folders)?;
    lab.library.remember(LOADED, "loaded").map_err(|e| say(&e))
}

fn photograph(folders: &Demo, file: &str) -> Result<Vec<u8>, String> {
    let path = folders.photographs.join(file);
    std::fs::read(&path).map_err(|e| {
        format!("the demo photograph {} cannot be read: {e}. Start it from the project's folder", path.display())
    })
}

/// The looks as a roll, each on its photograph.
fn load_looks(lab: &Lab, folders: &Demo) -> Result<(), String> {
    let say = |e: &dyn std::fmt::Display| e.to_string();
    for path in looks::overlays(&folders.overlays)? {
        let bytes = std::fs::read(&path).map_err(|e| format!("{} cannot be read: {e}", path.display()))?;
        lab.add_picture(&path.display().to_string(), &bytes).map_err(|e| say(&e))?;
    }
    let roll = lab.library.add_roll(LOOKS, 0).map_err(|e| say(&e))?;
    for look in looks::read(&folders.looks)? {
        let mut development = look.development(&folders.looks)?;
        let stock = Catalogue::find(&development.stock.id).map_err(|e| say(&e))?;
        let bytes = photograph(folders, &look.photograph)?;
        let id = lab.import_on(roll, &look.photograph, &bytes, &stock).map_err(|e| say(&e))?;
        lab.library.rename_frame(id, &look.name).map_err(|e| say(&e))?;
        let frame = lab.library.frame(id).map_err(|e| say(&e))?.summary;
        development.seed = frame.development.seed;
        let change = Change { revision: frame.revision, label: format!("Look {}", look.name), development };
        lab.library.commit(id, change, &stock).map_err(|e| say(&e))?;
    }
    Ok(())
}
