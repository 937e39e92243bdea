//! What is answered, and to whom.

use std::io::{Read, Write};
use std::net::TcpStream;
use std::time::Duration;

use amber_core::controls::Value;
use amber_web::{Password, Settings};

use crate::application::{Application, UPLOAD_BYTES, picture};

pub fn status(answer: &str) -> &str {
    answer.split(' ').nth(1).unwrap_or_default()
}

fn body(answer: &str) -> &str {
    answer.split("\r\n\r\n").nth(1).unwrap_or_default()
}

fn get(application: &Application, path: &str, extra: &str) -> String {
    application.send(&format!("GET {path} HTTP/1.1\r\nHost: {}{extra}", application.address), b"")
}

pub fn post(application: &Application, path: &str, kind: &str, content: &[u8]) -> String {
    let head = format!("POST {path} HTTP/1.1\r\nHost: {}\r\nContent-Type: {kind}", application.address);
    application.send(&head, content)
}

const FORM: &str = "application/x-www-form-urlencoded";

#[test]
fn every_wrong_request_has_its_status_and_a_sentence() {
    let application = Application::start();
    let roll = application.lab.library.add_roll("Tour", 0).unwrap();
    application.lab.import(roll, "a.jpg", &picture(90, 60)).unwrap();
    let json = "application/json";
    let view = |extra: &str| {
        format!(r#"{{"view":"t","sequence":1,"values":{{}},"level":2,"region":null,"pass":"settled"{extra}}}"#)
    };
    let over = view(r#","overlay":"7""#);
    let outside = view("").replace("null", "[5000,5000,9,9]");
    let deep = view("").replace("\"level\":2", "\"level\":13").replace("settled", "quick");
    let cases: Vec<(&str, String)> = vec![
        ("404", get(&application, "/nothing", "")),
        ("404", get(&application, "/frames/x", "")),
        ("404", get(&application, "/frames/99", "")),
        ("404", get(&application, "/frames/1/stocks/nothing/close", "")),
        ("405", post(&application, "/frames/1/thumbnail", FORM, b"")),
        ("405", get(&application, "/frames/1/view", "")),
        ("400", post(&application, "/frames/1/view", json, b"{")),
        ("415", post(&application, "/frames/1/view", FORM, b"a=b")),
        ("404", post(&application, "/frames/1/view", json, over.as_bytes())),
        ("422", post(&application, "/frames/1/view", json, outside.as_bytes())),
        ("400", post(&application, "/frames/1/view", json, deep.as_bytes())),
        ("400", post(&application, "/frames/1/step", FORM, b"revision=0&station=film&step=sideways")),
        ("404", post(&application, "/frames/1/stock", FORM, b"revision=0&stock=nothing")),
        ("404", post(&application, "/frames/1/masks/3/copies", FORM, b"frames=1")),
    ];
    for (wanted, answer) in &cases {
        assert_eq!(status(answer), *wanted, "{answer}");
        let sentence = body(answer);
        assert!(sentence.ends_with('.') && !sentence.contains("Deserialize") && sentence.len() < 300, "{answer}");
    }
    let head = application.send(&format!("HEAD / HTTP/1.1\r\nHost: {}", application.address), b"");
    assert_eq!(status(&head), "303");
    assert!(get(&application, "/frames/1/view", "").to_lowercase().contains("allow: post"));
    // a value of 20,000 letters is not said back whole
    let long = format!("revision=0&station=film&values=%7B%22{}%22%3A1%7D", "x".repeat(20_000));
    assert!(body(&post(&application, "/frames/1/development", FORM, long.as_bytes())).len() < 300);
}

#[test]
fn an_origin_that_cannot_be_read_is_foreign() {
    let application = Application::start();
    let mut stream = TcpStream::connect(application.address).unwrap();
    let head = format!("POST /rolls HTTP/1.1\r\nHost: {}\r\nContent-Type: {FORM}\r\n", application.address);
    let mut request = head.into_bytes();
    request.extend_from_slice(b"Origin: http://evil.example/\xff\r\nContent-Length: 6\r\n\r\nname=A");
    stream.write_all(&request).unwrap();
    let mut answer = [0; 12];
    stream.read_exact(&mut answer).unwrap();
    assert_eq!(&answer, b"HTTP/1.1 403");
}

#[test]
fn a_body_that_stands_still_is_ended_and_uploads_are_bounded_in_sum() {
    let settings = Settings { upload_bytes: UPLOAD_BYTES, patience: Duration::from_millis(300), ..Settings::default() };
    let application = Application::with(settings);
    application.lab.library.add_roll("Tour", 0).unwrap();
    let mut stream = TcpStream::connect(application.address).unwrap();
    let head = format!("POST /rolls/1/frames HTTP/1.1\r\nHost: {}\r\nContent-Length: 500000", application.address);
    let kind = "Content-Type: multipart/form-data; boundary=cut";
    stream.write_all(format!("{head}\r\n{kind}\r\n\r\n--cut\r\n").as_bytes()).unwrap();
    stream.set_read_timeout(Some(Duration::from_secs(30))).unwrap();
    let mut answer = vec![0; 12];
    stream.read_exact(&mut answer).unwrap();
    assert_eq!(answer, b"HTTP/1.1 408");
    let part = |name: &str, bytes: usize| {
        let head = format!("--cut\r\nContent-Disposition: form-data; name=\"p\"{name}\r\n\r\n");
        [head.into_bytes(), vec![0; bytes], b"\r\n".to_vec()].concat()
    };
    let upload = |parts: &[Vec<u8>]| {
        let whole = [parts.concat(), b"--cut--\r\n".to_vec()].concat();
        post(&application, "/rolls/1/frames", "multipart/form-data; boundary=cut", &whole)
    };
    let many: Vec<_> = (0..4).map(|_| part("", UPLOAD_BYTES / 2)).collect();
    let answer = upload(&many);
    assert!(answer.is_empty() || status(&answer) == "413", "{answer}");
    let two = [part("; filename=\"a.jpg\"", 10), part("; filename=\"b.jpg\"", 10)];
    assert!(upload(&two).contains("Two files came at once"));
}

#[test]
fn pictures_are_addressed_by_what_they_show() {
    let application = Application::start();
    let library = &application.lab.library;
    let roll = library.add_roll("Tour", 0).unwrap();
    let first = application.lab.import(roll, "a.jpg", &picture(90, 60)).unwrap();
    let address = || {
        let page = get(&application, &format!("/cells?ids={first}"), "");
        let from = page.find("/thumbnail?v=").unwrap();
        page[page[..from].rfind('"').unwrap() + 1..].split('"').next().unwrap().to_owned()
    };
    let cached = |path: &str| get(&application, path, "").to_lowercase().contains("immutable");
    let before = address();
    assert!(cached(&before));
    assert!(!cached(&format!("/frames/{first}/thumbnail")), "an address that names nothing is not kept");
    let frame = library.frame(first).unwrap();
    let mut development = frame.summary.development.clone();
    development.set(&frame.stock, "scene.exposure", Value::Number(1.0)).unwrap();
    let change = amber_library::Change { revision: 0, label: "Exposure".into(), development };
    library.commit(first, change, &frame.stock).unwrap();
    assert_ne!(address(), before);
    assert!(!cached(&before), "the old address does not keep the new picture");
    library.remove_frame(first).unwrap();
    let second = application.lab.import(roll, "b.jpg", &picture(80, 60)).unwrap();
    assert_ne!(second, first, "numbers are not given again");
}

/// What is answered is what was done: with the original gone, a change is kept and the answer says what is missing.
#[test]
fn a_change_is_answered_as_kept_even_where_it_cannot_be_drawn() {
    let application = Application::start();
    let library = &application.lab.library;
    let roll = library.add_roll("Tour", 0).unwrap();
    let id = application.lab.import(roll, "a.jpg", &picture(90, 60)).unwrap();
    let content = library.frame(id).unwrap().summary.content;
    drop(application.lab.import(roll, "other.jpg", &picture(1600, 1200)));
    // a second application on the same files, which has decoded nothing yet
    library.close();
    let folder = application.folder.path().join("data");
    let copy = tempfile::tempdir().unwrap();
    std::fs::create_dir(copy.path().join("originals")).unwrap();
    std::fs::copy(folder.join("library.sqlite"), copy.path().join("library.sqlite")).unwrap();
    assert!(!copy.path().join("originals").join(&content).exists());
    let second = Application::on(copy.path());
    let form = b"revision=0&station=film&values=%7B%22film.push%22%3A1%7D";
    let answer = post(&second, &format!("/frames/{id}/development"), FORM, form);
    assert_eq!(status(&answer), "200", "{answer}");
    assert!(answer.contains("could not be drawn") && answer.contains("missing or damaged"), "{answer}");
    assert_eq!(second.lab.library.frame(id).unwrap().summary.revision, 1);
    // nothing changed is no step
    let same = b"revision=1&station=film&values=%7B%22film.push%22%3A1%7D";
    post(&second, &format!("/frames/{id}/development"), FORM, same);
    assert_eq!(second.lab.library.frame(id).unwrap().summary.revision, 1);
}

#[test]
fn beyond_loopback_everybody_signs_in() {
    let password = Password::of("lantern and thread").unwrap();
    let application = Application::with(Settings { password: Some(password), ..Settings::default() });
    application.lab.library.add_roll("Tour", 0).unwrap();
    let html = "\r\nAccept: text/html";
    let page = get(&application, "/rolls/1", html);
    assert!(status(&page) == "303" && page.contains("/sign-in"), "{page}");
    for path in ["/rolls/1", "/exports", "/frames/1/thumbnail"] {
        assert_eq!(status(&get(&application, path, "")), "401", "{path}");
    }
    assert_eq!(status(&post(&application, "/rolls", FORM, b"name=Mine")), "401");
    assert!(get(&application, "/sign-in", html).contains("type=\"password\""));
    assert_eq!(status(&get(&application, "/assets/any/styles/base.css", "")), "200");
    let wrong = post(&application, "/sign-in", FORM, b"password=guess");
    assert!(status(&wrong) == "401" && wrong.contains("not right"), "{wrong}");
    let right = post(&application, "/sign-in", FORM, b"password=lantern+and+thread");
    let cookie = right.lines().find_map(|l| l.strip_prefix("set-cookie: ")).unwrap();
    assert!(cookie.contains("HttpOnly") && cookie.contains("SameSite=Strict"), "{cookie}");
    let signed = format!("\r\nCookie: {}", cookie.split(';').next().unwrap());
    assert_eq!(status(&get(&application, "/rolls/1", &signed)), "200");
    assert!(get(&application, "/rolls/1", &signed).contains("Sign out"));
    for _ in 0..5 {
        post(&application, "/sign-in", FORM, b"password=guess");
    }
    assert_eq!(status(&post(&application, "/sign-in", FORM, b"password=lantern+and+thread")), "429");
}
