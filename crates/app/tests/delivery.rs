//! Delivery as scripts and other programs use it: many files, streams, lab orders and their shares, the queue under
//! `kill -9`, the hand-off folder, a picture edited for somebody else.

mod support;

use std::collections::BTreeMap;
use std::io::{BufRead, Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};
use std::time::{Duration, Instant};

use amber_core::colour::difference::ciede2000;
use amber_core::colour::lab::from_linear_srgb;
use amber_core::colour::transfer::decode_srgb;
use amber_files::Limits;
use amber_library::{Library, Stage};
use support::{Server, ask};

const FORM: &str = "application/x-www-form-urlencoded";
const JSON: &str = "application/json";

fn amber_grain(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_amber-grain")).args(arguments).output().unwrap()
}

fn succeeded(output: Output) -> String {
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8_lossy(&output.stdout).into_owned()
}

fn picture(salt: usize) -> Vec<u8> {
    let pixel = |i: usize| [(i * 7 + salt * 31) % 256, (i / 90 * 2) % 256, (i + salt) % 256].map(|v| v as u8);
    let pixels: Vec<u8> = (0..90 * 60).flat_map(pixel).collect();
    amber_files::write::jpeg(&pixels, 90, 60, 94, None).unwrap()
}

/// A folder with so many pictures.
fn pictures(folder: &Path, count: usize) -> Vec<String> {
    std::fs::create_dir_all(folder).unwrap();
    let write = |i: usize| {
        let path = folder.join(format!("frame-{i:02}.jpg"));
        std::fs::write(&path, picture(i)).unwrap();
        path.display().to_string()
    };
    (0..count).map(write).collect()
}

/// Names and contents of a folder's pictures.
fn contents(folder: &Path) -> BTreeMap<String, Vec<u8>> {
    let entries = std::fs::read_dir(folder).unwrap().map(|e| e.unwrap().path()).filter(|p| p.is_file());
    entries.map(|p| (p.file_name().unwrap().to_string_lossy().into_owned(), std::fs::read(p).unwrap())).collect()
}

fn until(what: &str, mut done: impl FnMut() -> bool) {
    let start = Instant::now();
    while !done() {
        assert!(start.elapsed() < Duration::from_secs(90), "{what}");
        std::thread::sleep(Duration::from_millis(50));
    }
}

#[test]
fn many_files_streams_and_lines_of_json() {
    let place = tempfile::tempdir().unwrap();
    let inputs = pictures(&place.path().join("in"), 3);
    let path = |name: &str| place.path().join(name).display().to_string();
    std::fs::write(path("in/broken.png"), "nothing").unwrap();
    let out = path("out/");
    let done = amber_grain(&["develop", &path("in"), "-o", &out, "--format", "png", "--json"]);
    assert_eq!(done.status.code(), Some(1), "some of them could not be done");
    let lines: Vec<serde_json::Value> =
        String::from_utf8_lossy(&done.stdout).lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert_eq!(lines.len(), 4);
    assert!(lines[0]["state"] == "failed" && lines[0]["why"].as_str().unwrap().contains("not a picture"));
    let made = std::fs::read(lines[1]["output"].as_str().unwrap()).unwrap();
    assert_eq!(lines[1]["hash"], blake3::hash(&made).to_hex().as_str());
    assert!(made.starts_with(b"\x89PNG"));
    let several = amber_grain(&["develop", &inputs[0], &inputs[1], "-o", &path("one.jpg")]);
    assert!(String::from_utf8_lossy(&several.stderr).contains("need a folder"));

    // through pipes, and to a reader that has soon seen enough
    let run = |enough: usize| {
        let mut process = Command::new(env!("CARGO_BIN_EXE_amber-grain"))
            .args(["develop", "-", "-o", "-", "--format", "tif"])
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        process.stdin.take().unwrap().write_all(&picture(0)).unwrap();
        let mut seen = vec![0; enough];
        let mut out = process.stdout.take().unwrap();
        let count = out.read(&mut seen).unwrap();
        let mut rest = Vec::new();
        if enough > 100 {
            out.read_to_end(&mut rest).unwrap();
        }
        drop(out);
        let ended = process.wait_with_output().unwrap();
        assert!(ended.status.success() && ended.stderr.is_empty(), "{}", String::from_utf8_lossy(&ended.stderr));
        [&seen[..count], &rest].concat()
    };
    let file = path("same.tif");
    succeeded(amber_grain(&["develop", &inputs[0], "-o", &file, "--no-development"]));
    let (whole, straight) = (run(4096), std::fs::read(&file).unwrap());
    let pixels = |bytes: &[u8]| amber_files::open(bytes, Limits::default()).unwrap().source.pixels().to_vec();
    assert_eq!(pixels(&whole), pixels(&straight));
    run(8);
}

#[test]
fn an_order_is_done_again_and_again_with_the_same_result() {
    let place = tempfile::tempdir().unwrap();
    let path = |name: &str| place.path().join(name).display().to_string();
    let files = pictures(&place.path().join("in"), 5);
    let order = path("order.json");
    succeeded(amber_grain(&[
        "order",
        "new",
        "--preset",
        "blue-print",
        "--crop",
        "1x1",
        "--format",
        "jpg",
        "--long-edge",
        "48",
        "--name",
        "{roll} {number:02}",
        "--copyright",
        "Ada",
        "-o",
        &order,
    ]));
    assert!(succeeded(amber_grain(&["order", "check", &order])).contains("can be used"));
    let run = |out: &str, more: &[&str]| {
        let files: Vec<&str> = files.iter().map(String::as_str).collect();
        amber_grain(&[&["order", "run", &order, "--out", out, "--json"], &files[..], more].concat())
    };
    let states = |output: Output| -> Vec<String> {
        let lines = succeeded(output);
        let state = |line: &str| serde_json::from_str::<serde_json::Value>(line).unwrap()["state"].to_string();
        lines.lines().map(state).collect()
    };
    let whole = path("whole");
    assert_eq!(states(run(&whole, &["--jobs", "2"])), ["\"made\""; 5]);
    let first = contents(Path::new(&whole));
    assert_eq!(first.keys().collect::<Vec<_>>(), ["in 01.jpg", "in 02.jpg", "in 03.jpg", "in 04.jpg", "in 05.jpg"]);
    assert_eq!(states(run(&whole, &[])), ["\"there\""; 5]);
    assert_eq!(states(run(&whole, &["--resume"])), ["\"there\""; 5]);
    // one was damaged, one was lost: they are made again, to the last bit
    std::fs::write(Path::new(&whole).join("in 02.jpg"), "damaged").unwrap();
    std::fs::remove_file(Path::new(&whole).join("in 04.jpg")).unwrap();
    assert_eq!(states(run(&whole, &[])), ["\"there\"", "\"made\"", "\"there\"", "\"made\"", "\"there\""]);
    assert_eq!(contents(Path::new(&whole)), first);
    // in shares, in any order, by several
    let shared = path("shared");
    for share in ["2/3", "1/3", "3/3"] {
        states(run(&shared, &["--shard", share]));
    }
    assert_eq!(contents(Path::new(&shared)), first);
    let merged = |folder: &str| succeeded(amber_grain(&["order", "merge", folder]));
    assert_eq!(merged(&whole), merged(&shared));
    assert_eq!(merged(&whole).matches("output_hash").count(), 5);
    // what is somebody else's stays
    std::fs::create_dir(path("theirs")).unwrap();
    std::fs::write(Path::new(&path("theirs")).join("in 03.jpg"), "theirs").unwrap();
    let refused = run(&path("theirs"), &[]);
    assert_eq!(refused.status.code(), Some(1));
    assert!(String::from_utf8_lossy(&refused.stdout).contains("is there already"));
    assert_eq!(std::fs::read(Path::new(&path("theirs")).join("in 03.jpg")).unwrap(), b"theirs");
}

/// An engine that knows nothing of us spreads the work: GNU parallel, two workers.
#[test]
fn gnu_parallel_spreads_an_order() {
    let place = tempfile::tempdir().unwrap();
    let path = |name: &str| place.path().join(name).display().to_string();
    pictures(&place.path().join("in"), 6);
    let order = path("order.json");
    succeeded(amber_grain(&["order", "new", "--stock", "juniper", "--format", "png", "-o", &order]));
    let program = env!("CARGO_BIN_EXE_amber-grain");
    let (whole, shared, input) = (path("whole"), path("shared"), path("in"));
    succeeded(amber_grain(&["order", "run", &order, &input, "--out", &whole, "--quiet"]));
    let spread = Command::new("parallel")
        .args(["--will-cite", "-j", "2", program, "order", "run", &order, &input, "--out", &shared, "--quiet"])
        .args(["--shard", "{}/2", ":::", "1", "2"])
        .output()
        .expect("GNU parallel is installed");
    assert!(spread.status.success(), "{}", String::from_utf8_lossy(&spread.stderr));
    assert_eq!(contents(Path::new(&whole)), contents(Path::new(&shared)));
}

/// A roll of so many small frames.
fn library(data: &Path, frames: usize) -> Vec<i64> {
    let input = data.with_extension("in");
    pictures(&input, frames);
    let [input, data] = [&input, data].map(|p| p.display().to_string());
    succeeded(amber_grain(&["load", &input, "--data", &data, "--roll", "Tour", "--quiet"]));
    let library = Library::open(Path::new(&data)).unwrap();
    let ids = library.frames(1).unwrap().iter().map(|frame| frame.id).collect();
    library.close();
    ids
}

/// Killed at twenty moments of a queue of forty: nothing is lost, nothing is there twice, no file is half.
#[test]
fn a_queue_survives_twenty_kills() {
    let place = tempfile::tempdir().unwrap();
    let data = place.path().join("data");
    let ids = library(&data, 40);
    let ids = ids.iter().map(i64::to_string).collect::<Vec<_>>().join(",");
    {
        let server = Server::start(&data);
        let paused = ask(&server.address, "POST", "/exports/pause", FORM, b"paused=true").unwrap();
        assert_eq!(paused.status, 200);
        let body = format!(r#"{{"frames":[{ids}],"pattern":"Print {{number:02}}","format":"jpeg"}}"#);
        assert_eq!(ask(&server.address, "POST", "/selection/exports", JSON, body.as_bytes()).unwrap().status, 200);
        ask(&server.address, "POST", "/exports/pause", FORM, b"paused=false").unwrap();
    }
    let mut kills = 0;
    for moment in 0..200u64 {
        let mut server = Server::start(&data);
        // moments that have nothing to do with the pictures' pace
        std::thread::sleep(Duration::from_millis(5 + moment.wrapping_mul(2_654_435_761) % 180));
        server.kill();
        kills += 1;
        let library = Library::open(&data).unwrap();
        let [going, _] = library.exports_counted().unwrap();
        library.close();
        if going == 0 || kills == 20 {
            break;
        }
    }
    let server = Server::start(&data);
    until("the rest is made", || {
        let list = ask(&server.address, "GET", "/exports", JSON, b"").unwrap();
        String::from_utf8_lossy(&list.body).contains("All done")
    });
    drop(server);
    let library = Library::open(&data).unwrap();
    let all = library.exports_queued(100, 100).unwrap();
    assert!(all.len() == 40 && all.iter().all(|export| export.stage == Stage::Done), "after {kills} kills");
    let files = contents(&data.join("exports"));
    let wanted: Vec<String> = (1..=40).map(|n| format!("Print {n:02}.jpg")).collect();
    assert_eq!(files.keys().collect::<Vec<_>>(), wanted.iter().collect::<Vec<_>>());
    for export in &all {
        let bytes = &files[&export.file];
        assert_eq!(blake3::hash(bytes).to_hex().as_str(), export.hash, "{}", export.file);
        assert!(bytes.ends_with(&[0xFF, 0xD9]));
    }
}

#[test]
fn what_settles_in_the_hand_off_folder_is_developed() {
    let place = tempfile::tempdir().unwrap();
    let path = |name: &str| place.path().join(name).display().to_string();
    pictures(&place.path().join("hand"), 1);
    succeeded(amber_grain(&["order", "new", "--stock", "juniper", "--long-edge", "40", "-o", &path("order.json")]));
    let [from, order, to] = ["hand", "order.json", "out"].map(path);
    let more = ["--hand-off", &from, "--hand-off-order", &order, "--hand-off-out", &to];
    let _server = Server::start_with(&place.path().join("data"), &more);
    let out = PathBuf::from(&to);
    until("what lay there is developed", || out.join("frame-00 Juniper.jpg").is_file());
    // one that is written slowly, and one of the same name that comes from elsewhere later
    let mut slow = std::fs::File::create(Path::new(&from).join("slow.jpg")).unwrap();
    for part in picture(7).chunks(400) {
        slow.write_all(part).unwrap();
        std::thread::sleep(Duration::from_millis(60));
    }
    drop(slow);
    std::fs::write(Path::new(&from).join("notes.txt"), "nothing").unwrap();
    until("what was written slowly is developed", || out.join("slow Juniper.jpg").is_file());
    std::fs::rename(Path::new(&from).join("slow.jpg"), Path::new(&from).join("gone.jpg")).unwrap();
    std::fs::write(Path::new(&from).join("slow.JPEG"), picture(9)).unwrap();
    until("no picture takes another's place", || out.join("slow Juniper 2.jpg").is_file());
    for (name, bytes) in contents(&out) {
        let opened = amber_files::open(&bytes, amber_files::Limits::default()).unwrap();
        assert_eq!(opened.source.long_edge(), 40, "{name}");
    }
}

#[test]
fn a_picture_is_edited_for_somebody_else() {
    let place = tempfile::tempdir().unwrap();
    let path = |name: &str| place.path().join(name).display().to_string();
    std::fs::write(path("quay.jpg"), picture(1)).unwrap();
    let mut process = Command::new(env!("CARGO_BIN_EXE_amber-grain"))
        .args(["edit", &path("quay.jpg"), "--no-browser", "-o", &path("done.jpg"), "--data", &path("data")])
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let mut out = std::io::BufReader::new(process.stdout.take().unwrap());
    let mut line = String::new();
    out.read_line(&mut line).unwrap();
    let address = line.split("http://").nth(1).and_then(|rest| rest.split(';').next()).unwrap();
    let (address, frame) = address.split_once('/').unwrap();
    let export = |format: &str| {
        let body = format!("name=Quay&format={format}");
        ask(address, "POST", &format!("/{frame}/exports"), FORM, body.as_bytes()).unwrap().status
    };
    assert_eq!(export("tiff"), 200);
    std::thread::sleep(Duration::from_millis(1500));
    assert!(process.try_wait().unwrap().is_none(), "a TIFF is not what was asked for");
    assert_eq!(export("jpeg"), 200);
    let mut rest = String::new();
    out.read_to_string(&mut rest).unwrap();
    assert!(process.wait().unwrap().success());
    assert!(rest.contains("done.jpg"), "{rest}");
    assert!(std::fs::read(path("done.jpg")).unwrap().starts_with(&[0xFF, 0xD8]));
    assert_eq!(std::fs::read(path("quay.jpg")).unwrap(), picture(1), "the original stays as it is");
}

#[test]
fn the_doctor_finds_what_is_wrong_and_mends_what_can_be() {
    let place = tempfile::tempdir().unwrap();
    let data = place.path().join("data");
    library(&data, 2);
    let shown = data.display().to_string();
    let doctor = |more: &[&str]| amber_grain(&[&["doctor", "--data", &shown], more].concat());
    assert!(succeeded(doctor(&[])).contains("The library is whole."));
    let orphan = data.join("originals").join("ab".repeat(32));
    std::fs::write(&orphan, "nobody's").unwrap();
    assert!(succeeded(doctor(&[])).contains("belong to no frame"));
    assert!(succeeded(doctor(&["--mend"])).contains("1 files were put away"));
    assert!(!orphan.exists() && data.join("orphaned").join("ab".repeat(32)).exists(), "nothing is deleted");
    let library = Library::open(&data).unwrap();
    let content = library.frames(1).unwrap()[0].content.clone();
    drop(library);
    let original = data.join("originals").join(content);
    std::fs::remove_file(&original).unwrap();
    std::fs::write(&original, "damaged").unwrap();
    let damaged = doctor(&["--json"]);
    assert_eq!(damaged.status.code(), Some(1));
    let said: serde_json::Value = serde_json::from_slice(&damaged.stdout).unwrap();
    assert!(said["findings"][0]["weight"] == "damage", "{said}");
    assert_eq!(amber_grain(&["doctor", "--data", &place.path().display().to_string()]).status.code(), Some(2));
}

/// Another program (ImageMagick) lays a frame's look on the original and comes to our own print, where nothing depends
/// on the place: within 1.0 CIEDE2000 in the mean.
#[test]
fn a_look_is_laid_by_another_program() {
    let place = tempfile::tempdir().unwrap();
    let path = |name: &str| place.path().join(name).display().to_string();
    // soft colours, none at the gamut's edge, and every grey
    let pixel = |i: usize| [60 + i % 120, 40 + i / 120 * 2, 200 - (i % 120 + i / 120) / 2].map(|v| v as u8);
    let pixels: Vec<u8> = (0..120 * 80).flat_map(pixel).collect();
    std::fs::write(path("in.png"), amber_files::write::png(&pixels, 120, 80).unwrap()).unwrap();
    for stock in ["plover", "juniper", "celestine"] {
        let document = format!(r#"{{"version":1,"stock":{{"id":"{stock}"}},"values":{{"scene.exposure":0.5}}}}"#);
        std::fs::write(path("d.json"), document).unwrap();
        let told = succeeded(amber_grain(&["look", &path("d.json"), "-o", &path("hald.png")]));
        assert!(told.contains("Grain"), "{told}");
        succeeded(amber_grain(&["look", &path("d.json"), "-o", &path("look.cube"), "--size", "17", "--quiet"]));
        let lines = std::fs::read_to_string(path("look.cube")).unwrap();
        assert_eq!(lines.lines().filter(|line| line.starts_with(|c: char| c.is_ascii_digit())).count(), 17 * 17 * 17);
        let off = ["film.grain", "film.halation", "lens", "surface", "print.acutance", "bath.uneven", "tone.coating"];
        let off: Vec<&str> = off.iter().flat_map(|lamp| ["--off", lamp]).collect();
        let [input, ours, document] = ["in.png", "ours.png", "d.json"].map(path);
        let words = [&["develop", &input, "-o", &ours, "--development", &document][..], &off].concat();
        succeeded(amber_grain(&words));
        let laid = Command::new("convert")
            .args([&path("in.png"), &path("hald.png"), "-hald-clut", "-depth", "8", &path("theirs.png")])
            .output()
            .unwrap();
        assert!(laid.status.success(), "{}", String::from_utf8_lossy(&laid.stderr));
        let lab = |file: &str| -> Vec<[f64; 3]> {
            let (pixels, _, _) = amber_files::plain::decoded(&std::fs::read(path(file)).unwrap()).unwrap();
            let colour = |p: &[u8; 3]| from_linear_srgb(p.map(|v| decode_srgb(f64::from(v) / 255.0)));
            pixels.as_chunks().0.iter().map(colour).collect()
        };
        let pairs = lab("ours.png").into_iter().zip(lab("theirs.png"));
        let differences: Vec<f64> = pairs.map(|(a, b)| ciede2000(a, b)).collect();
        let mean = differences.iter().sum::<f64>() / differences.len() as f64;
        assert!(mean < 1.0, "{stock}: {mean}");
    }
}

#[test]
fn shells_and_the_manual_know_the_commands() {
    let place = tempfile::tempdir().unwrap();
    for shell in ["bash", "zsh", "fish"] {
        assert!(succeeded(amber_grain(&["completions", shell])).contains("develop"), "{shell}");
    }
    succeeded(amber_grain(&["manual", "-o", &place.path().display().to_string()]));
    let page = std::fs::read_to_string(place.path().join("amber-grain-develop.1")).unwrap();
    assert!(page.contains("quality"), "{page}");
}
