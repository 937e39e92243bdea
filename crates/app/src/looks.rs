//! The looks that ship with the demo: developments, each with the photograph it was made for.

use std::fs;
use std::path::{Path, PathBuf};

use amber_core::{Catalogue, Development};
use amber_files::write;
use clap::Parser;
use serde::Deserialize;

use crate::arguments::{Arguments, Command, Demo};
use crate::develop;
use crate::exit::Failure;
use crate::sentence;

/// The list of looks in their folder.
const LIST: &str = "looks.json";
/// Long edge of the rendered pictures, in pixels.
const LONG_EDGE: &str = "900";

/// A look as its list names it.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Look {
    /// Its file, without the ending.
    pub look: String,
    pub photograph: String,
    pub name: String,
    /// What it does, in a sentence.
    pub about: String,
}

impl Look {
    pub fn file(&self, folder: &Path) -> PathBuf {
        folder.join(format!("{}.json", self.look))
    }

    /// Its development, with the stock that is built in now.
    pub fn development(&self, folder: &Path) -> Result<Development, String> {
        let path = self.file(folder);
        let text = fs::read_to_string(&path).map_err(|e| format!("{} cannot be read: {e}", path.display()))?;
        let mut development = Development::from_json(&text).map_err(|e| format!("{}: {e}", path.display()))?;
        let stock = Catalogue::find(&development.stock.id).map_err(|e| format!("{}: {e}", path.display()))?;
        development.stock.hash = stock.content_hash();
        Ok(development)
    }
}

/// All looks of a folder.
pub fn read(folder: &Path) -> Result<Vec<Look>, String> {
    let path = folder.join(LIST);
    let text = fs::read_to_string(&path)
        .map_err(|e| format!("{} cannot be read: {e}. Start it from the project's folder", path.display()))?;
    serde_json::from_str(&text).map_err(|e| format!("{}: {e}", path.display()))
}

/// The pictures that looks lay on others, by name.
pub fn overlays(folder: &Path) -> Result<Vec<PathBuf>, String> {
    let all = fs::read_dir(folder)
        .map_err(|e| format!("{} cannot be read: {e}. Start it from the project's folder", folder.display()))?;
    let mut paths: Vec<PathBuf> = all.filter_map(|entry| Some(entry.ok()?.path())).collect();
    paths.retain(|path| path.extension().is_some_and(|ending| ending == "png"));
    paths.sort();
    Ok(paths)
}

/// Renders every look on its photograph, and a page that shows them.
pub fn render(demo: &Demo, target: &Path) -> Result<(), String> {
    let Demo { looks: folder, photographs, .. } = demo;
    let overlays = overlays(&demo.overlays)?;
    fs::create_dir_all(target).map_err(|e| format!("{}: {e}", target.display()))?;
    let mut page = String::from(
        "# Looks\n\nDevelopments that ship with the demo, in `demo/looks/`, rendered by `make looks` on its \
            photographs. Any of\n\
         them opens with `amber-grain develop PICTURE -o FILE --development demo/looks/NAME.json`; \
         the demo has them as a roll.\n",
    );
    for look in read(folder)? {
        look.development(folder)?;
        let picture = format!("{}.jpg", look.look);
        let text = |path: PathBuf| path.display().to_string();
        let (input, output) = (text(photographs.join(&look.photograph)), text(target.join(&picture)));
        let document = text(look.file(folder));
        let words = ["amber-grain", "develop", &input, "-o", &output, "--development", &document];
        let sheets = overlays.iter().flat_map(|path| ["--sheet".into(), text(path.clone())]);
        let all = words
            .into_iter()
            .chain(["--long-edge", LONG_EDGE, "--quality", "85", "--no-development"])
            .map(str::to_owned)
            .chain(sheets);
        let Command::Develop(arguments) = Arguments::parse_from(all).command else { continue };
        develop::run(&arguments).map_err(Failure::sentence)?;
        page += &format!("\n## {}\n\n{}\n\n![{}](looks/{picture})\n", look.name, look.about, look.name);
    }
    let beside = target.with_extension("md");
    write::save(&beside, page.as_bytes()).map_err(|e| sentence::of(&e))
}
