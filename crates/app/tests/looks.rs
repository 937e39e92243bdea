//! The looks that ship with the demo: each can be read and makes a picture of its own.

use std::path::Path;
use std::process::Command;

#[test]
fn every_look_is_rendered() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let folder = tempfile::tempdir().unwrap();
    let output = folder.path().join("looks");
    let done = Command::new(env!("CARGO_BIN_EXE_amber-grain"))
        .current_dir(&root)
        .args(["looks", "-o", output.to_str().unwrap()])
        .output()
        .unwrap();
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    let list: serde_json::Value =
        serde_json::from_str(&std::fs::read_to_string(root.join("demo/looks/looks.json")).unwrap()).unwrap();
    let page = std::fs::read_to_string(folder.path().join("looks.md")).unwrap();
    let mut seen = std::collections::BTreeSet::new();
    for look in list.as_array().unwrap() {
        let name = format!("{}.jpg", look["look"].as_str().unwrap());
        let bytes = std::fs::read(output.join(&name)).unwrap();
        assert!(bytes.len() > 10_000 && seen.insert(bytes), "{name}");
        assert!(page.contains(&name) && page.contains(look["name"].as_str().unwrap()));
        assert!(root.join("docs/looks").join(&name).exists(), "docs/looks lacks {name}: run make looks");
    }
    // no look lies about without being listed
    let files = std::fs::read_dir(root.join("demo/looks")).unwrap().count();
    assert_eq!(files, seen.len() + 1);
}
