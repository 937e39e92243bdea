//! A roll as one job, from outside: a folder loaded by the command line, two hundred frames changed at once, killed in
//! the middle, thousands of frames within their memory.

use std::io::{BufRead, Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use amber_core::Catalogue;
use amber_library::{Library, NewFrame};

/// The application on a data folder, as a process of its own.
struct Server {
    process: Child,
    address: String,
}

impl Server {
    fn start(data: &Path) -> Self {
        let mut process = Command::new(env!("CARGO_BIN_EXE_amber-grain"))
            .args(["serve", "--port", "0", "--data"])
            .arg(data)
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let mut line = String::new();
        std::io::BufReader::new(process.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let address = line.split("http://").nth(1).and_then(|t| t.split('/').next()).expect("it prints its address");
        Self { address: address.to_string(), process }
    }

    /// One request; `None` where the connection broke.
    fn ask(&self, method: &str, path: &str, body: &str) -> Option<Vec<u8>> {
        let mut stream = TcpStream::connect(&self.address).ok()?;
        stream.set_read_timeout(Some(Duration::from_secs(60))).ok()?;
        let head = format!(
            "{method} {path} HTTP/1.1\r\nHost: {0}\r\nOrigin: http://{0}\r\nContent-Type: application/json\r\n\
             Content-Length: {1}\r\nConnection: close\r\n\r\n",
            self.address,
            body.len()
        );
        stream.write_all(head.as_bytes()).ok()?;
        stream.write_all(body.as_bytes()).ok()?;
        let mut all = Vec::new();
        stream.read_to_end(&mut all).ok()?;
        (!all.is_empty()).then_some(all)
    }

    fn kill(&mut self) {
        let _ = self.process.kill();
        let _ = self.process.wait();
    }

    /// Resident memory in MiB.
    #[cfg(target_os = "linux")]
    fn memory(&self) -> f64 {
        let status = std::fs::read_to_string(format!("/proc/{}/status", self.process.id())).unwrap();
        let line = status.lines().find(|l| l.starts_with("VmRSS")).unwrap();
        line.split_whitespace().nth(1).unwrap().parse::<f64>().unwrap() / 1024.0
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        self.kill();
    }
}

/// A data folder with a roll of so many frames of one small picture.
fn roll_of(data: &Path, frames: usize) -> Vec<i64> {
    let library = Library::open(data).unwrap();
    let roll = library.add_roll("Long", 0).unwrap();
    let new = NewFrame { name: "One".into(), format: "PNG".into(), width: 30, height: 20, taken: None };
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
            scope.spawn(move || server.ask("POST", "/selection/preset", body));
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
    let page = server.ask("GET", "/rolls/1", "").unwrap();
    assert!(page.starts_with(b"HTTP/1.1 200") && page.len() < 300_000, "{} bytes", page.len());
    for some in ids.chunks(120).take(20) {
        let asked = some.iter().map(i64::to_string).collect::<Vec<_>>().join(",");
        let cells = server.ask("GET", &format!("/cells?ids={asked}"), "").unwrap();
        assert!(cells.starts_with(b"HTTP/1.1 200"));
    }
    for id in &ids[..40] {
        assert!(server.ask("GET", &format!("/frames/{id}/thumbnail"), "").unwrap().starts_with(b"HTTP/1.1 200"));
    }
    let grown = server.memory() - idle;
    assert!(grown < 200.0, "it grew by {grown:.0} MiB");
}
