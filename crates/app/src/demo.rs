//! The demo roll: the invented photographs of a travelling puppet theatre, loaded once.

use std::path::Path;

use amber_core::Catalogue;
use amber_core::controls::{self};
use amber_lab::Lab;
use amber_library::Change;

const LOADED: &str = "demo roll";
const ROLL: &str = "Lantern & Thread, summer tour";

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

/// Loads the roll when this data folder has never had it.
pub fn load_once(lab: &Lab, photographs: &Path) -> Result<(), String> {
    let say = |e: &dyn std::fmt::Display| e.to_string();
    if lab.library.fact(LOADED).map_err(|e| say(&e))?.is_some() {
        return Ok(());
    }
    let roll = lab.library.add_roll(ROLL, 0).map_err(|e| say(&e))?;
    for (file, stock, tuned) in FRAMES {
        let path = photographs.join(file);
        let bytes = std::fs::read(&path).map_err(|e| {
            format!("the demo photograph {} cannot be read: {e}. Start it from the project's folder", path.display())
        })?;
        let stock = Catalogue::find(stock).map_err(|e| say(&e))?;
        let id = lab.import_on(roll, file, &bytes, &stock).map_err(|e| say(&e))?;
        for (control, text) in tuned {
            let frame = lab.library.frame(id).map_err(|e| say(&e))?.summary;
            let control = controls::find(control).map_err(|e| say(&e))?;
            let mut development = frame.development;
            development.set(&stock, control.id, control.parse(text).map_err(|e| say(&e))?).map_err(|e| say(&e))?;
            let change = Change { revision: frame.revision, label: format!("{} {text}", control.label), development };
            lab.library.commit(id, change, &stock).map_err(|e| say(&e))?;
        }
    }
    lab.library.remember(LOADED, "loaded").map_err(|e| say(&e))
}
