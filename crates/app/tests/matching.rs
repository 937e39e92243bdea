//! `match`, `seat` and `fit` as scripts use them.

use std::path::Path;
use std::process::{Command, Output};

use serde_json::Value;

fn amber_grain(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_amber-grain")).args(arguments).output().unwrap()
}

fn told(output: Output) -> Value {
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    serde_json::from_slice(&output.stdout).unwrap()
}

fn refused(output: Output, part: &str) {
    assert_eq!(output.status.code(), Some(2));
    let sentence = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(sentence.contains(part), "{sentence}");
}

/// Soft slopes of several colours; `salt` makes another picture.
fn write(path: &Path, salt: usize) {
    let pixel = |i: usize| {
        let (x, y) = (i % 360, i / 360);
        let wave = |v: usize| (127.0 + 110.0 * (v as f64 / 57.0).sin()) as u8;
        [wave(x + 40 * salt), wave(y + x / 2 + 20 * salt), wave(2 * y + 30)]
    };
    let pixels: Vec<u8> = (0..360 * 240).flat_map(pixel).collect();
    std::fs::write(path, amber_files::write::jpeg(&pixels, 360, 240, 96, None).unwrap()).unwrap();
}

struct Place(tempfile::TempDir);

impl Place {
    fn new() -> Self {
        Self(tempfile::tempdir().unwrap())
    }

    fn path(&self, name: &str) -> String {
        self.0.path().join(name).display().to_string()
    }

    fn picture(&self, name: &str, salt: usize) -> String {
        write(&self.0.path().join(name), salt);
        self.path(name)
    }
}

#[test]
fn a_look_and_its_grain_are_proposed() {
    let place = Place::new();
    let (a, b, out) = (place.picture("a.jpg", 0), place.picture("b.jpg", 3), place.path("found.json"));
    let reference = place.path("reference.png");
    let made = amber_grain(&["develop", &a, "--stock", "cyanotype", "-o", &reference]);
    assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
    let found = told(amber_grain(&["match", &b, "--reference", &reference, "--json", "-o", &out]));
    let first: Vec<&str> = found["stocks"].as_array().unwrap()[..3].iter().filter_map(|s| s["id"].as_str()).collect();
    assert!(first.contains(&"cyanotype"), "{first:?}");
    let proposals = found["proposals"].as_array().unwrap();
    assert!(proposals.len() == 3 && proposals.iter().all(|p| p["values"].as_object().unwrap().len() <= 8));
    assert!(proposals[0]["distance"].is_f64() && proposals[0]["classes"].as_u64().unwrap() > 2);
    // what was written can be developed with
    let shown = place.path("shown.jpg");
    assert!(amber_grain(&["develop", &b, "--development", &out, "-o", &shown]).status.success());

    // grain that stands above the steps of 8 bits
    let grainy = place.path("grainy.png");
    let coarse = ["--stock", "rowan", "--set", "film.grain.granularity=18", "-o", &grainy];
    assert!(amber_grain(&[&["develop", &a], &coarse[..]].concat()).status.success());
    let grained = ["--only", "grain", "--stock", "hawthorn", "--patch", "20,20,200,180", "--json", "-o", &out];
    let grain = told(amber_grain(&[&["match", &b, "--reference", &grainy], &grained[..]].concat()));
    let [aim, reached] = ["aim", "reached"].map(|k| grain["grain"][k]["sigma"].as_f64().unwrap());
    assert!((reached / aim - 1.0).abs() < 0.15, "{aim} {reached}");
    assert!(grain["proposals"].is_null() && grain["grain"]["values"]["film.grain.granularity"].is_f64());

    let outside = ["--only", "grain", "--patch", "300,20,200,180", "-o", &out];
    refused(amber_grain(&[&["match", &b, "--reference", &reference], &outside[..]].concat()), "does not lie inside");
    let grey = place.path("grey.jpg");
    std::fs::write(&grey, amber_files::write::jpeg(&vec![120; 3 * 90 * 60], 90, 60, 95, None).unwrap()).unwrap();
    refused(amber_grain(&["match", &b, "--reference", &grey, "-o", &out]), "too little in it");
}

#[test]
fn a_picture_is_seated() {
    let place = Place::new();
    let (picture, out) = (place.picture("a.jpg", 1), place.path("seated.json"));
    let marked = ["--stock", "petrel", "--grey", "0.3,0.4,5.5", "--print-cm", "40", "--distance-cm", "25"];
    let found = told(amber_grain(&[&["seat", &picture, "--json", "-o", &out], &marked[..]].concat()));
    let grey: Vec<f64> = found["grey"].as_array().unwrap().iter().filter_map(Value::as_f64).collect();
    assert!(grey[1].hypot(grey[2]) < 2.0, "{grey:?}");
    assert!(found["grain_arc_minutes"].as_f64().is_some_and(|v| v > 0.5));
    let written: Value = serde_json::from_str(&std::fs::read_to_string(&out).unwrap()).unwrap();
    assert!(written["stock"]["id"] == "petrel" && written["values"]["film.grain.size"].is_f64());
    refused(amber_grain(&["seat", &picture, "--face", "2,0.1", "-o", &out]), "X and Y from 0 to 1");
    refused(amber_grain(&["seat", &picture, "--print-cm", "0", "-o", &out]), "from 1 to 3000 cm");
}

#[test]
fn a_stock_is_fitted() {
    let place = Place::new();
    let (chart, out) = (place.path("chart.csv"), place.path("fir.json"));
    let wedge: String = (0..20)
        .map(|i| {
            let x = -2.2 + 0.2 * f64::from(i);
            format!("wedge,{x:.2},{:.3}\n", 0.15 + 1.8 / (1.0 + (-1.5 * (x - 0.1)).exp()))
        })
        .collect();
    std::fs::write(&chart, format!("kind,bw-negative\nname,Fir\niso,200\n{wedge}")).unwrap();
    let found = told(amber_grain(&["fit", &chart, "--json", "-o", &out]));
    assert!(found["density_off"].as_f64().unwrap() < 0.03, "{found}");
    assert!(found["notes"].to_string().contains("0 patches were measured"));
    assert!(amber_grain(&["stocks", "check", &out]).status.success());
    let picture = place.picture("a.jpg", 2);
    let shown = place.path("shown.jpg");
    assert!(amber_grain(&["develop", &picture, "--stock", &out, "-o", &shown]).status.success());
    std::fs::write(&chart, "wedge,0,1\n").unwrap();
    refused(amber_grain(&["fit", &chart, "-o", &out]), "step 1 has 1 densities");
    std::fs::write(&chart, "").unwrap();
    refused(amber_grain(&["fit", &chart, "-o", &out]), "0 steps of a wedge");
}
