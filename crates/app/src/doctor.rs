//! `amber-grain doctor`: whether a library is whole.

use amber_library::{Finding, Library, Weight};
use serde_json::json;

use crate::arguments::Doctor;
use crate::exit::Failure;
use crate::{output, sentence};

fn word(weight: Weight) -> &'static str {
    match weight {
        Weight::Note => "note",
        Weight::Mendable => "mendable",
        Weight::Damage => "damage",
    }
}

pub fn run(arguments: &Doctor) -> Result<(), Failure> {
    let said = |e: amber_library::LibraryError| sentence::of(&e);
    if !arguments.data.join("library.sqlite").is_file() {
        return Err(format!("{} holds no library; name its folder with --data", arguments.data.display()).into());
    }
    let library = Library::open(&arguments.data).map_err(said)?;
    let found = library.examine(&mut |_| {}).map_err(said)?;
    let mended = if arguments.mend { library.mend(&found).map_err(said)? } else { 0 };
    library.close();
    let count = |weight: Weight| found.iter().filter(|f| f.weight == weight).count();
    let (damage, mendable) = (count(Weight::Damage), count(Weight::Mendable));
    if arguments.json {
        let finding = |f: &Finding| json!({ "weight": word(f.weight), "sentence": f.sentence, "files": f.files });
        let findings: Vec<_> = found.iter().map(finding).collect();
        output::print(&format!("{:#}", json!({ "findings": findings, "mended": mended })))?;
    } else {
        let lines: Vec<String> = found.iter().map(|f| format!("{:<9} {}", word(f.weight), f.sentence)).collect();
        let verdict = match (damage, mendable, arguments.mend) {
            (0, 0, _) => "The library is whole.".to_owned(),
            (0, _, true) => format!("Mended: {mended} files were put away."),
            (0, _, false) => "The library is whole; --mend tidies it.".to_owned(),
            (some, ..) => format!("{some} things are lost or damaged."),
        };
        output::print(&[lines.join("\n"), verdict].join("\n"))?;
    }
    match damage {
        0 => Ok(()),
        some => Err(Failure::Partly(format!("{some} things are lost or damaged"))),
    }
}
