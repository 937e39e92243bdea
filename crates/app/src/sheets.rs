//! Pictures of one's own that are laid on another, from files.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use amber_core::controls::{Control, Kind, Value, Values, own_picture};
use amber_core::picture::own::{OwnPicture, OwnPictures};
use amber_core::stations::surface::settings::SheetSettings;
use amber_files::Limits;

use crate::sentence;

/// Pictures by the hash of their content.
pub struct Pictures {
    held: BTreeMap<String, Arc<OwnPicture>>,
    limits: Limits,
}

impl OwnPictures for Pictures {
    fn picture(&self, hash: &str) -> Option<Arc<OwnPicture>> {
        self.held.get(hash).cloned()
    }
}

impl Pictures {
    /// Of files that were named.
    pub fn of_files(paths: &[PathBuf], limits: Limits) -> Result<Self, String> {
        let mut pictures = Self { held: BTreeMap::new(), limits };
        for path in paths {
            pictures.read(path)?;
        }
        Ok(pictures)
    }

    /// Reads a file; gives its hash.
    fn read(&mut self, path: &Path) -> Result<String, String> {
        let shown = path.display();
        let bytes = std::fs::read(path).map_err(|e| format!("the sheet {shown} cannot be read: {e}"))?;
        let hash = amber_library::Originals::hash_of(&bytes);
        let picture = amber_files::sheet::open(&bytes, self.limits).map_err(|e| format!("{shown}: {e}"))?;
        self.held.insert(hash.clone(), Arc::new(picture));
        Ok(hash)
    }

    /// A control's value as it was typed; what a sheet is may be a file's path.
    pub fn value_of(&mut self, control: &Control, text: &str) -> Result<Value, String> {
        let value = control.parse(text);
        match (value, control.kind) {
            (Err(_), Kind::ChoiceOrPicture(_)) if Path::new(text).is_file() => {
                Ok(Value::Choice(format!("own:{}", self.read(Path::new(text))?)))
            }
            (value, _) => value.map_err(|e| sentence::of(&e)),
        }
    }

    /// Says which picture is missing.
    pub fn all_there(&self, values: &Values) -> Result<(), String> {
        let missing =
            |sheet: &SheetSettings| own_picture(&sheet.kind).is_some_and(|hash| !self.held.contains_key(hash));
        match SheetSettings::shown(values).into_iter().find(missing) {
            None => Ok(()),
            Some(sheet) => Err(format!(
                "sheet {} is a picture of your own that is not here ({}): name its file with --sheet",
                sheet.key, sheet.kind
            )),
        }
    }
}
