//! Long tests of what must not break: `cargo test --release -p amber-grain --test soak -- --ignored --nocapture`.
//!
//! They take minutes, so they do not run with the others. `SOAK` is a factor on their length (0.1 for a look).

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;

mod support;

use support::{Server, ask};

fn times(count: usize) -> usize {
    let factor: f64 = std::env::var("SOAK").ok().and_then(|v| v.parse().ok()).unwrap_or(1.0);
    ((count as f64 * factor) as usize).max(1)
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
    let pixels: Vec<u8> = (0..24 * 16 * 3u32)
        .map(|i| {
            let mixed = (i ^ seed.wrapping_mul(0x9E37_79B1)).wrapping_mul(0x85EB_CA6B);
            (mixed >> 24) as u8
        })
        .collect();
    amber_files::write::png(&pixels, 24, 16).unwrap()
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
