//! Long tests of what must not break: `cargo test --release -p amber-grain --test soak -- --ignored --nocapture`.
//!
//! They take minutes, so they do not run with the others. `SOAK` is a factor on their length (0.1 for a look).

use std::collections::BTreeMap;
use std::io::{BufRead, Read, Write};
use std::net::TcpStream;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;

fn times(count: usize) -> usize {
    let factor: f64 = std::env::var("SOAK").ok().and_then(|v| v.parse().ok()).unwrap_or(1.0);
    ((count as f64 * factor) as usize).max(1)
}

/// The application on a data folder, as a process of its own.
struct Server {
    process: Child,
    address: String,
}

struct Answer {
    status: u16,
    body: Vec<u8>,
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

    fn kill(&mut self) {
        let _ = self.process.kill();
        let _ = self.process.wait();
    }

    /// Resident memory in MiB.
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

/// One request; `None` where the connection broke.
fn ask(address: &str, method: &str, path: &str, kind: &str, body: &[u8]) -> Option<Answer> {
    let mut stream = TcpStream::connect(address).ok()?;
    stream.set_read_timeout(Some(Duration::from_secs(60))).ok()?;
    let head = format!(
        "{method} {path} HTTP/1.1\r\nHost: {address}\r\nOrigin: http://{address}\r\nContent-Type: {kind}\r\n\
         Content-Length: {}\r\nConnection: close\r\n\r\n",
        body.len()
    );
    stream.write_all(head.as_bytes()).ok()?;
    stream.write_all(body).ok()?;
    let mut all = Vec::new();
    stream.read_to_end(&mut all).ok()?;
    let end = all.windows(4).position(|w| w == b"\r\n\r\n")?;
    let head = String::from_utf8_lossy(&all[..end]).into_owned();
    let status = head.split(' ').nth(1)?.parse().ok()?;
    Some(Answer { status, body: all[end + 4..].to_vec() })
}

fn upload(address: &str, bytes: &[u8]) -> Option<i64> {
    let mut body = Vec::new();
    body.extend_from_slice(b"--cut\r\nContent-Disposition: form-data; name=\"picture\"; filename=\"a.png\"\r\n");
    body.extend_from_slice(b"Content-Type: image/png\r\n\r\n");
    body.extend_from_slice(bytes);
    body.extend_from_slice(b"\r\n--cut--\r\n");
    let answer = ask(address, "POST", "/rolls/1/frames", "multipart/form-data; boundary=cut", &body)?;
    let told: serde_json::Value = serde_json::from_slice(&answer.body).ok()?;
    let id = told["id"].as_i64()?;
    (answer.status == 201).then_some(id)
}

/// Keeps a value of a frame that stands at a revision; the status.
fn keep(address: &str, frame: i64, revision: i64, exposure: f64) -> Option<u16> {
    let body = format!("revision={revision}&station=scene&values=%7B%22scene.exposure%22%3A{exposure:.2}%7D");
    let kind = "application/x-www-form-urlencoded";
    ask(address, "POST", &format!("/frames/{frame}/development"), kind, body.as_bytes()).map(|a| a.status)
}

/// A small picture that no other is equal to.
fn picture(seed: u32) -> Vec<u8> {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("a.png");
    let pixels: Vec<u8> = (0..24 * 16 * 3u32)
        .map(|i| {
            let mixed = (i ^ seed.wrapping_mul(0x9E37_79B1)).wrapping_mul(0x85EB_CA6B);
            (mixed >> 24) as u8
        })
        .collect();
    image::save_buffer(&path, &pixels, 24, 16, image::ExtendedColorType::Rgb8).unwrap();
    std::fs::read(path).unwrap()
}

fn files_below(folder: &Path) -> Vec<PathBuf> {
    let Ok(entries) = std::fs::read_dir(folder) else { return Vec::new() };
    let paths = entries.flatten().map(|e| e.path());
    paths.flat_map(|p| if p.is_dir() { files_below(&p) } else { vec![p] }).collect()
}

/// A hundred times: uploads and changes by three writers, `kill -9` at any moment, a start. What was acknowledged is
/// there, nothing half written is left.
#[test]
#[ignore = "minutes"]
fn kill_9_loses_nothing_that_was_acknowledged() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("data");
    let acknowledged: Mutex<BTreeMap<i64, i64>> = Mutex::default();
    let seeds = AtomicUsize::new(1);
    let rounds = times(100);
    for round in 0..rounds {
        let mut server = Server::start(&data);
        let address = server.address.clone();
        if round == 0 {
            ask(&address, "POST", "/rolls", "application/x-www-form-urlencoded", b"name=Soak").unwrap();
        }
        for (id, revision) in acknowledged.lock().unwrap().iter() {
            let page = ask(&address, "GET", &format!("/frames/{id}/stocks"), "text/plain", b"").expect("it answers");
            let text = String::from_utf8_lossy(&page.body);
            let kept = text.split("data-revision=\"").nth(1).and_then(|t| t.split('"').next()?.parse::<i64>().ok());
            assert_eq!(page.status, 200, "frame {id} of round {round}");
            assert!(kept.is_some_and(|k| k >= *revision), "frame {id}: {kept:?} for {revision}");
        }
        let (last, _) = acknowledged.lock().unwrap().last_key_value().map_or((0, 0), |(a, b)| (*a, *b));
        if last > 0 {
            let small = ask(&address, "GET", &format!("/frames/{last}/thumbnail"), "text/plain", b"").unwrap();
            assert_eq!(small.status, 200, "the original of frame {last} is there");
        }
        let left: Vec<_> =
            files_below(&data).into_iter().filter(|p| p.to_string_lossy().contains(".amber-part-")).collect();
        assert!(left.is_empty(), "{left:?}");
        std::thread::scope(|scope| {
            for _ in 0..3 {
                scope.spawn(|| {
                    // until the connection breaks
                    while let Some(id) = upload(&address, &picture(seeds.fetch_add(1, Ordering::Relaxed) as u32)) {
                        acknowledged.lock().unwrap().insert(id, 0);
                        for revision in 0..3 {
                            if keep(&address, id, revision, 0.05 * (revision + 1) as f64) != Some(200) {
                                return;
                            }
                            acknowledged.lock().unwrap().insert(id, revision + 1);
                        }
                    }
                });
            }
            std::thread::sleep(Duration::from_millis(60 + (round as u64 * 37) % 400));
            server.kill();
        });
    }
    let acknowledged = acknowledged.into_inner().unwrap();
    println!("{rounds} rounds, {} frames acknowledged, none lost", acknowledged.len());
    assert!(acknowledged.len() > rounds);
}

/// Four windows keep a change of the same revision at once, three hundred times: one is kept, three are told.
#[test]
#[ignore = "a minute"]
fn races_have_one_winner() {
    let folder = tempfile::tempdir().unwrap();
    let server = Server::start(&folder.path().join("data"));
    ask(&server.address, "POST", "/rolls", "application/x-www-form-urlencoded", b"name=Races").unwrap();
    let id = upload(&server.address, &picture(1)).unwrap();
    let races = times(300);
    for race in 0..races {
        let statuses: Vec<Option<u16>> = std::thread::scope(|scope| {
            let one = |k: usize| {
                let address = &server.address;
                scope.spawn(move || keep(address, id, race as i64, 0.05 * (1 + (4 * race + k) % 40) as f64))
            };
            (0..4).map(one).collect::<Vec<_>>().into_iter().map(|t| t.join().unwrap()).collect()
        });
        let won = statuses.iter().filter(|s| **s == Some(200)).count();
        let told = statuses.iter().filter(|s| **s == Some(409)).count();
        assert_eq!((won, told), (1, 3), "race {race}: {statuses:?}");
    }
    println!("{races} races");
}

/// Memory after ten thousand views is what it was after a thousand.
#[test]
#[ignore = "minutes"]
fn memory_is_flat_over_views() {
    let folder = tempfile::tempdir().unwrap();
    let server = Server::start(&folder.path().join("data"));
    ask(&server.address, "POST", "/rolls", "application/x-www-form-urlencoded", b"name=Views").unwrap();
    let frames: Vec<i64> = (0..6).map(|i| upload(&server.address, &picture(i)).unwrap()).collect();
    let views = times(10_000);
    let mut early = 0.0;
    for i in 0..views {
        let exposure = (i % 200) as f64 * 0.01 - 1.0;
        let body = format!(
            r#"{{"view":"v{}","sequence":{i},"values":{{"scene.exposure":{exposure:.2}}},"level":0,"pass":"settled"}}"#,
            i % 50
        );
        let path = format!("/frames/{}/view", frames[i % frames.len()]);
        let answer = ask(&server.address, "POST", &path, "application/json", body.as_bytes()).unwrap();
        assert_eq!(answer.status, 200, "{}", String::from_utf8_lossy(&answer.body));
        if i == views / 10 {
            early = server.memory();
        }
    }
    let late = server.memory();
    println!("{views} views: {early:.0} MiB after a tenth of them, {late:.0} MiB at the end");
    assert!(late < early + 48.0, "{early:.0} MiB, {late:.0} MiB");
}
