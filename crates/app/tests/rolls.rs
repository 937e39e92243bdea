//! A roll as one job, from outside: a folder loaded by the command line, two hundred frames changed at once, killed in
//! the middle, thousands of frames within their memory.

use std::path::Path;
use std::process::Command;
use std::time::Duration;

use amber_core::Catalogue;
use amber_library::{Library, NewFrame};

mod support;

use support::{Server, ask};

const JSON: &str = "application/json";

/// A data folder with a roll of so many frames of one small picture.
fn roll_of(data: &Path, frames: usize) -> Vec<i64> {
    let library = Library::open(data).unwrap();
    let roll = library.add_roll("Long", 0).unwrap();
    let new =
        NewFrame { name: "One".into(), format: "PNG".into(), width: 30, height: 20, taken: None, development: None };
    let png = amber_files::write::png(&[120; 3 * 600], 30, 20).unwrap();
    let one = library.add_frame(roll, &png, new, &Catalogue::first()).unwrap();
    let mut ids = vec![one];
    ids.extend(library.copy_frames(vec![one; frames - 1], roll).unwrap());
    ids
}

#[test]
fn a_folder_is_loaded_without_a_browser() {
    let folder = tempfile::tempdir().unwrap();
    let pictures = folder.path().join("pictures");
    std::fs::create_dir_all(pictures.join("deeper")).unwrap();
    for name in ["quay.png", "deeper/hill.png"] {
        let png = amber_files::write::png(&[name.len() as u8; 3 * 600], 30, 20).unwrap();
        std::fs::write(pictures.join(name), png).unwrap();
    }
    std::fs::write(pictures.join("notes.txt"), "no picture").unwrap();
    let data = folder.path().join("data");
    let load = |extra: &[&str]| {
        Command::new(env!("CARGO_BIN_EXE_amber-grain"))
            .arg("load")
            .arg(&pictures)
            .args(["--roll", "Tour", "--quiet", "--data"])
            .arg(&data)
            .args(extra)
            .output()
            .unwrap()
    };
    let done = load(&[]);
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    assert_eq!(String::from_utf8_lossy(&done.stdout), "1 of 1 loaded.\n");
    std::fs::write(pictures.join("broken.jpg"), "not a picture").unwrap();
    let done = load(&["--deep", "--stock", "juniper"]);
    let told = String::from_utf8_lossy(&done.stderr).into_owned();
    assert!(!done.status.success() && told.contains("broken.jpg") && told.contains("1 could not be read"), "{told}");
    let library = Library::open(&data).unwrap();
    let rolls = library.rolls().unwrap();
    assert_eq!((rolls.len(), rolls[0].frames), (1, 3), "the roll with the name is used again");
    assert_eq!(library.frames(rolls[0].id).unwrap()[1].development.stock.id, "juniper");
}

/// Two hundred frames are changed by one request; killed at any moment of it, all have it or none.
#[test]
fn two_hundred_frames_change_together_or_not_at_all() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("data");
    let ids = roll_of(&data, 200);
    let frames = ids.iter().map(i64::to_string).collect::<Vec<_>>().join(",");
    let body = format!(r#"{{"frames":[{frames}],"preset":"sepia-and-selenium"}}"#);
    let mut laid_before = 0;
    for wait_ms in [0, 4, 9, 16, 30, 60, 120, 2000] {
        let mut server = Server::start(&data);
        std::thread::scope(|scope| {
            let (server, body) = (&server, &body);
            scope.spawn(move || ask(&server.address, "POST", "/selection/preset", JSON, body.as_bytes()));
            std::thread::sleep(Duration::from_millis(wait_ms));
            let _ = Command::new("kill").args(["-9", &server.process.id().to_string()]).status();
        });
        server.kill();
        let library = Library::open(&data).unwrap();
        let steps: Vec<i64> = ids.iter().map(|id| library.frame(*id).unwrap().summary.revision).collect();
        assert!(steps.iter().all(|step| *step == steps[0]), "after {wait_ms} ms some have it and some do not");
        assert!(steps[0] == laid_before || steps[0] == laid_before + 1);
        laid_before = steps[0];
        library.close();
    }
    assert!(laid_before >= 1, "two seconds are enough for two hundred frames");
}

/// Opening a roll of 5,000 frames: its page, and a screenful of cells and pictures.
#[test]
#[cfg(target_os = "linux")]
fn five_thousand_frames_take_little_memory() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("data");
    let ids = roll_of(&data, 5000);
    let server = Server::start(&data);
    let idle = server.memory();
    let get = |path: &str| ask(&server.address, "GET", path, JSON, b"").unwrap();
    let page = get("/rolls/1");
    assert!(page.status == 200 && page.body.len() < 100_000, "{} bytes", page.body.len());
    for some in ids.chunks(120).take(20) {
        let asked = some.iter().map(i64::to_string).collect::<Vec<_>>().join(",");
        assert_eq!(get(&format!("/cells?ids={asked}")).status, 200);
    }
    for id in &ids[..40] {
        assert_eq!(get(&format!("/frames/{id}/thumbnail")).status, 200);
    }
    let grown = server.memory() - idle;
    assert!(grown < 200.0, "it grew by {grown:.0} MiB");
}
