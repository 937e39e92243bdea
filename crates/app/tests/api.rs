//! The application for scripts: the examples of its page, run as they stand.

mod support;

use std::process::Command;

use support::{Server, ask};

/// The blocks of a page that are to be run, one after the other.
fn blocks(page: &str) -> String {
    let parts = page.split("```sh\n").skip(1).filter_map(|rest| rest.split("```").next());
    parts.collect::<Vec<_>>().join("\n")
}

#[test]
fn the_examples_of_the_page_do_what_they_say() {
    let place = tempfile::tempdir().unwrap();
    let page = include_str!("../../../docs/api.md");
    let script = format!("set -euo pipefail\n{}", blocks(page));
    assert!(script.matches("curl").count() > 10);
    let picture = place.path().join("quay.jpg");
    let pixels: Vec<u8> = (0..3 * 90 * 60).map(|i| (i * 7 % 256) as u8).collect();
    std::fs::write(&picture, amber_files::write::jpeg(&pixels, 90, 60, 94, None).unwrap()).unwrap();
    let server = Server::start(&place.path().join("data"));
    let run = Command::new("bash")
        .args(["-c", &script])
        .env("A", format!("http://{}/api/1", server.address))
        .env("PICTURE", &picture)
        .env("OUT", place.path())
        .output()
        .unwrap();
    let said = [run.stdout, run.stderr].concat();
    assert!(run.status.success(), "{}", String::from_utf8_lossy(&said));
    // the header of a PNG: its width, and 16 bits of RGB
    let print = std::fs::read(place.path().join("print.png")).unwrap();
    assert_eq!((&print[16..20], &print[24..26]), (&60u32.to_be_bytes()[..], &[16, 2][..]));
}

/// Every address of the document answers, and nothing that is not in it.
#[test]
fn the_document_describes_what_is_there() {
    let place = tempfile::tempdir().unwrap();
    let server = Server::start(&place.path().join("data"));
    let document = ask(&server.address, "GET", "/api/1/openapi.json", "", b"").unwrap();
    let document: serde_json::Value = serde_json::from_slice(&document.body).unwrap();
    let paths = document["paths"].as_object().unwrap();
    assert!(paths.len() >= 14 && document["openapi"].as_str().unwrap().starts_with("3."));
    for (path, operations) in paths {
        for method in operations.as_object().unwrap().keys() {
            let concrete = path
                .replace("{id}", "4711")
                .replace("{batch}", "4711")
                .replace("{name}", "none")
                .replace("{preset}", "none");
            let address = format!("/api/1{concrete}");
            let answer = ask(&server.address, &method.to_uppercase(), &address, "application/json", b"{}").unwrap();
            let body = String::from_utf8_lossy(&answer.body).into_owned();
            assert!(!body.contains("no such page"), "{method} {path}: {body}");
            assert!(answer.status < 500, "{method} {path}: {body}");
        }
    }
}
