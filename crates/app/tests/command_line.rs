//! The command line, as a person or a script uses it.

use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use amber_files::write;

fn amber_grain(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_amber-grain")).args(arguments).output().expect("the binary runs")
}

fn demo(name: &str) -> String {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/photographs").join(name);
    path.display().to_string()
}

struct Folder(tempfile::TempDir);

impl Folder {
    fn new() -> Self {
        Self(tempfile::tempdir().unwrap())
    }

    fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    fn text(&self, name: &str) -> String {
        self.path(name).display().to_string()
    }
}

fn develop(input: &str, output: &str, more: &[&str]) -> Output {
    amber_grain(&[&["develop", input, "-o", output], more].concat())
}

fn read_16(path: &Path) -> (u32, u32, Vec<u16>) {
    let mut decoder = tiff::decoder::Decoder::new(std::fs::File::open(path).unwrap()).unwrap();
    let (width, height) = decoder.dimensions().unwrap();
    match decoder.read_image().unwrap() {
        tiff::decoder::DecodingResult::U16(v) => (width, height, v),
        other => panic!("{other:?}"),
    }
}

fn read_float(path: &Path) -> Vec<f32> {
    let mut decoder = tiff::decoder::Decoder::new(std::fs::File::open(path).unwrap()).unwrap();
    match decoder.read_image().unwrap() {
        tiff::decoder::DecodingResult::F32(v) => v,
        other => panic!("{other:?}"),
    }
}

#[test]
fn a_region_is_the_crop_of_the_whole_and_threads_do_not_matter() {
    let folder = Folder::new();
    let input = demo("hill-road.jpg");
    let settings = ["--stock", "plover", "--set", "film.push=1", "--set", "film.grain.granularity=20", "--seed", "4"];
    let run = |name: &str, more: &[&str]| {
        let output = develop(&input, &folder.text(name), &[&settings, more].concat());
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        read_16(&folder.path(name))
    };
    let (width, height, whole) = run("whole.tif", &["--threads", "2"]);
    assert_eq!((width, height), (1800, 1200));
    assert!(run("one.tif", &["--threads", "1"]).2 == whole);
    let (w, h, part) = run("part.tif", &["--region", "701,333,123,77"]);
    assert_eq!((w, h), (123, 77));
    for y in 0..77 {
        let start = 3 * ((y + 333) * 1800 + 701);
        assert_eq!(&part[3 * y * 123..3 * (y + 1) * 123], &whole[start..start + 3 * 123], "row {y}");
    }
}

#[test]
fn one_stop_is_a_factor_of_two_in_every_tone() {
    let folder = Folder::new();
    let stage = |name: &str, stops: &str| {
        let set = format!("scene.exposure={stops}");
        let more = ["--stage", "film.exposure", "--long-edge", "300", "--set", &set];
        let output = develop(&demo("paint-shelf.jpg"), &folder.text(name), &more);
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        read_float(&folder.path(name))
    };
    let (own, more) = (stage("own.tif", "0"), stage("more.tif", "1"));
    assert_eq!(own.len(), 300 * 200 * 3);
    for (a, b) in own.iter().zip(&more).filter(|(a, _)| **a > 2e-5) {
        assert!(((b / a).log10() - std::f32::consts::LOG10_2).abs() < 1e-4, "{a} {b}");
    }
}

#[test]
fn stages_have_their_layers() {
    let folder = Folder::new();
    for (stage, stock, planes) in [
        ("scene.light", "juniper", 3),
        ("bath.density", "juniper", 1),
        ("bath.density", "feldspar", 3),
        ("print.reflectance", "juniper", 3),
    ] {
        let name = format!("{stage}-{stock}.tif");
        let output = develop(
            &demo("grey-quay.jpg"),
            &folder.text(&name),
            &["--stage", stage, "--stock", stock, "--long-edge", "90"],
        );
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        assert_eq!(read_float(&folder.path(&name)).len(), 90 * 60 * planes, "{stage}");
    }
}

#[test]
fn a_development_file_says_the_same_as_the_options() {
    let folder = Folder::new();
    let document = r#"{"version":1,"stock":{"id":"juniper"},"seed":9,"values":{"film.push":1.5,"print.grade":4}}"#;
    std::fs::write(folder.path("d.json"), document).unwrap();
    let small = ["--long-edge", "200"];
    let by_file = ["--development", &folder.text("d.json")];
    let by_options = ["--stock", "juniper", "--set", "film.push=1.5", "--set", "print.grade=4", "--seed", "9"];
    for (name, options) in [("file.tif", &by_file[..]), ("options.tif", &by_options[..])] {
        assert!(develop(&demo("grey-quay.jpg"), &folder.text(name), &[options, &small].concat()).status.success());
    }
    assert!(read_16(&folder.path("file.tif")) == read_16(&folder.path("options.tif")));
}

/// What is off is off whatever is set, and what cannot be switched gets a sentence.
#[test]
fn lamps_are_switched_off() {
    let folder = tempfile::tempdir().unwrap();
    let out = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    let small = ["--long-edge", "120", "--seed", "1", "--no-development"];
    let plain = out("plain.tif");
    let toned = out("toned.tif");
    let tone = ["--set", "tone.wash.strength=80", "--off", "tone.wash"];
    assert!(develop(&demo("grey-quay.jpg"), &plain, &small).status.success());
    assert!(develop(&demo("grey-quay.jpg"), &toned, &[&small[..], &tone].concat()).status.success());
    assert!(std::fs::read(&plain).unwrap() == std::fs::read(&toned).unwrap());
    let refused = develop(&demo("grey-quay.jpg"), &out("no.tif"), &["--off", "film.push"]);
    let told = String::from_utf8_lossy(&refused.stderr).into_owned();
    assert!(refused.status.code() == Some(2) && told.contains("film.push") && told.contains("schema"), "{told}");
}

#[test]
fn what_cannot_be_used_exits_2_with_a_sentence_and_leaves_nothing() {
    let folder = Folder::new();
    let input = demo("grey-quay.jpg");
    let bytes = std::fs::read(&input).unwrap();
    std::fs::write(folder.path("cut.jpg"), &bytes[..bytes.len() / 3]).unwrap();
    std::fs::write(folder.path("text.jpg"), "not a picture").unwrap();
    let cases: [(&str, &str, &[&str], &str); 10] = [
        (&input, "out.jpg", &["--stock", "nothing"], "no stock called 'nothing'"),
        (&input, "out.jpg", &["--set", "film.push=9"], "from -2 to 2 stops"),
        (&input, "out.jpg", &["--set", "film.pusch=1"], "no control called 'film.pusch'"),
        (&input, "out.jpg", &["--set", "film.push"], "CONTROL=VALUE"),
        (&input, "out.jpg", &["--region", "0,0,9000,10"], "does not lie inside"),
        (&input, "out.webm", &[], "'webm' is not an ending"),
        (&input, "out.jpg", &["--max-megapixels", "1"], "1800 x 1200"),
        (&folder.text("cut.jpg"), "out.jpg", &[], "damaged or cut off"),
        (&folder.text("text.jpg"), "out.jpg", &[], "not a picture"),
        (&folder.text("missing.jpg"), "out.jpg", &[], "cannot be read"),
    ];
    for (input, output, more, part) in cases {
        let result = develop(input, &folder.text(output), more);
        let told = String::from_utf8_lossy(&result.stderr);
        assert_eq!(result.status.code(), Some(2), "{more:?}: {told}");
        assert!(told.contains(part), "{more:?}: {told}");
    }
    let left: Vec<_> = std::fs::read_dir(folder.0.path()).unwrap().map(|e| e.unwrap().file_name()).collect();
    assert_eq!(left.len(), 2, "{left:?}");
}

#[test]
fn lists_for_people_and_programs() {
    let stocks: serde_json::Value = serde_json::from_slice(&amber_grain(&["stocks", "--json"]).stdout).unwrap();
    let ids: Vec<_> = stocks.as_array().unwrap().iter().map(|s| s["id"].as_str().unwrap()).collect();
    for id in ["plover", "feldspar", "juniper"] {
        assert!(ids.contains(&id));
    }
    let controls: serde_json::Value = serde_json::from_slice(&amber_grain(&["controls", "--json"]).stdout).unwrap();
    for control in controls.as_array().unwrap() {
        for field in ["id", "label", "unit", "range", "step", "default", "help"] {
            assert!(control.get(field).is_some(), "{control}: {field}");
        }
    }
    assert!(String::from_utf8_lossy(&amber_grain(&["controls"]).stdout).contains("film.grain.granularity"));
    let ids: Vec<_> = controls.as_array().unwrap().iter().map(|c| c["id"].as_str().unwrap()).collect();
    for promised in [
        "film.halation.strength",
        "film.grain.size",
        "bath.time",
        "print.exposure",
        "print.filter.cyan",
        "print.filter.magenta",
        "print.filter.yellow",
        "print.grade",
    ] {
        assert!(ids.contains(&promised), "{promised}");
    }
}

/// Every control takes its own value by `--set`, and every kind of value can be written.
#[test]
fn every_control_is_reachable() {
    let folder = Folder::new();
    let controls: serde_json::Value = serde_json::from_slice(&amber_grain(&["controls", "--json"]).stdout).unwrap();
    let text = |v: &serde_json::Value| match v {
        serde_json::Value::Array(points) => {
            let point = |p: &serde_json::Value| format!("{},{}", p[0], p[1]);
            points.iter().map(point).collect::<Vec<_>>().join(" ")
        }
        serde_json::Value::String(s) => s.clone(),
        other => other.to_string(),
    };
    let sets: Vec<String> = controls
        .as_array()
        .unwrap()
        .iter()
        .flat_map(|c| {
            ["--set".into(), format!("{}={}", c["id"].as_str().unwrap().replace(".N.", ".1."), text(&c["default"]))]
        })
        .collect();
    let sets: Vec<&str> = sets.iter().map(String::as_str).collect();
    let input = demo("paint-shelf.jpg");
    let run = |name: &str, more: &[&str]| {
        let output = develop(&input, &folder.text(name), &[&["--long-edge", "120"], more].concat());
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        read_16(&folder.path(name))
    };
    assert!(run("own.tif", &[]) == run("all.tif", &sets), "own values change nothing");
    let tuned = [
        "--set",
        "print.curve.red=0,0 50,70 100,100",
        "--set",
        "print.filter.keep=on",
        "--set",
        "bath.chemistry=crossed",
    ];
    assert!(run("own.tif", &[]) != run("tuned.tif", &tuned));
}

#[test]
fn stocks_are_shown_checked_and_used_from_files() {
    let folder = Folder::new();
    let shown = amber_grain(&["stocks", "show", "nightjar"]);
    let text = String::from_utf8(shown.stdout).unwrap();
    assert!(shown.status.success() && text.contains("\"halation\""));
    let mine = folder.path("mine.json");
    std::fs::write(&mine, text.replace("\"nightjar\"", "\"mine\"")).unwrap();
    let checked = amber_grain(&["stocks", "check", &folder.text("mine.json")]);
    assert!(checked.status.success() && String::from_utf8_lossy(&checked.stdout).contains("can be used"));
    let developed = develop(
        &demo("paint-shelf.jpg"),
        &folder.text("out.jpg"),
        &["--stock", &folder.text("mine.json"), "--long-edge", "90"],
    );
    assert!(developed.status.success(), "{}", String::from_utf8_lossy(&developed.stderr));
    std::fs::write(&mine, text.replace("\"iso\"", "\"speed\"")).unwrap();
    let refused = amber_grain(&["stocks", "check", &folder.text("mine.json")]);
    let told = String::from_utf8_lossy(&refused.stderr);
    assert!(refused.status.code() == Some(2) && told.contains("speed") && told.contains("line"), "{told}");
    let schema: serde_json::Value = serde_json::from_slice(&amber_grain(&["stocks", "schema"]).stdout).unwrap();
    assert!(schema["properties"]["curve"].is_object());
}

#[test]
fn the_schemas_in_docs_are_those_of_the_program() {
    for (arguments, file) in [
        (&["schema"][..], "development"),
        (&["stocks", "schema"], "stock"),
        (&["presets", "schema"], "preset"),
        (&["order", "schema"], "order"),
    ] {
        let printed = amber_grain(arguments).stdout;
        let path = Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("../../docs/schema/{file}.schema.json"));
        // in any order of keys
        let read = |bytes: &[u8]| serde_json::from_slice::<serde_json::Value>(bytes).unwrap();
        assert!(read(&std::fs::read(&path).unwrap()) == read(&printed), "{} is out of date", path.display());
    }
}

#[test]
fn the_table_of_controls_in_docs_is_that_of_the_program() {
    let printed = amber_grain(&["controls", "--markdown"]).stdout;
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/controls.md");
    assert!(std::fs::read(&path).unwrap() == printed, "{} is out of date", path.display());
}

#[test]
fn local_adjustments_and_masks_come_in_a_document() {
    let folder = Folder::new();
    let document = r#"{"version":1,"stock":{"id":"juniper"},"values":{"film.grain.granularity":0},
        "masks":{"left":{"name":"Left","parts":[{"kind":"linear","from":[0.45,0.5],"to":[0.55,0.5]}]}}}"#;
    std::fs::write(folder.path("d.json"), document).unwrap();
    let run = |name: &str, set: &[&str]| {
        let file = folder.text("d.json");
        let mut more = vec!["--development", &file, "--long-edge", "120"];
        set.iter().for_each(|s| more.extend(["--set", s]));
        let output = develop(&demo("grey-quay.jpg"), &folder.text(name), &more);
        (output.status.success(), String::from_utf8_lossy(&output.stderr).to_string())
    };
    assert!(run("a.tif", &[]).0);
    assert!(run("b.tif", &["scene.local.1.mask=left", "scene.local.1.exposure=-1"]).0);
    let ((width, height, plain), (.., burned)) = (read_16(&folder.path("a.tif")), read_16(&folder.path("b.tif")));
    let mean = |pixels: &[u16], from: u32| -> f64 {
        let at = |x: u32, y: u32| f64::from(pixels[3 * (y * width + x) as usize]);
        (0..height).map(|y| (from..from + 20).map(|x| at(x, y)).sum::<f64>()).sum()
    };
    assert!(mean(&burned, 10) < 0.8 * mean(&plain, 10));
    assert!((mean(&burned, 90) / mean(&plain, 90) - 1.0).abs() < 1e-3);
    let (done, told) = run("c.tif", &["scene.local.1.mask=right"]);
    assert!(!done && told.contains("'right'") && told.contains("Local 1"), "{told}");
}

#[test]
fn years_toners_and_processes_are_reached() {
    let folder = Folder::new();
    let input = demo("grey-quay.jpg");
    let run = |name: &str, more: &[&str]| {
        let output = develop(&input, &folder.text(name), &[&["--long-edge", "90"], more].concat());
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        let (_, _, pixels) = read_16(&folder.path(name));
        let mean =
            |k: usize| pixels.iter().skip(k).step_by(3).map(|v| f64::from(*v)).sum::<f64>() / pixels.len() as f64;
        [mean(0), mean(1), mean(2)]
    };
    let fresh = run("fresh.tif", &["--stock", "tern"]);
    let aged = run("aged.tif", &["--stock", "tern", "--set", "years.age=30", "--set", "years.storage=drawer"]);
    assert!(aged[0] - aged[2] > fresh[0] - fresh[2], "redder: {fresh:?} {aged:?}");
    let silver = run("silver.tif", &["--stock", "alder"]);
    let sepia =
        run("sepia.tif", &["--stock", "alder", "--set", "tone.bath.1.toner=sepia", "--set", "tone.bath.1.time=90"]);
    assert!(sepia[0] - sepia[2] > silver[0] - silver[2] + 1000.0, "browner: {silver:?} {sepia:?}");
    let blue = run("blue.tif", &["--stock", "cyanotype"]);
    assert!(blue[2] > 1.3 * blue[0], "{blue:?}");
    std::fs::write(
        folder.path("two.json"),
        r##"{"version":1,"stock":{"id":"gum"},"values":{"tone.pigment":"#263a60","tone.two.light.strength":80}}"##,
    )
    .unwrap();
    let gum = run("gum.tif", &["--development", &folder.text("two.json")]);
    assert!(gum != run("plain.tif", &["--stock", "gum"]));
    let wrong = develop(&input, &folder.text("x.tif"), &["--stock", "gum", "--set", "tone.pigment=blue"]);
    let told = String::from_utf8_lossy(&wrong.stderr);
    assert!(!wrong.status.success() && told.contains("#d8b276"), "{told}");
}

/// A small run says everything that a large one does.
#[test]
fn the_benchmark_reports_stages_chain_memory_and_the_reference() {
    let output = amber_grain(&["bench", "--megapixels", "1"]);
    let told = String::from_utf8_lossy(&output.stdout);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    for part in
        ["scene:", "film: grain", "print:", "decode JPEG", "JPEG to 16-bit TIFF", "peak memory", "Boolean model"]
    {
        assert!(told.contains(part), "{part}: {told}");
    }
    let output = amber_grain(&["bench", "--megapixels", "1", "--json"]);
    let told: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
    let figures = told["figures"].as_array().unwrap();
    let of_plain = |name: &str| figures.iter().find(|f| f["name"] == name).and_then(|f| f["of_plain"].as_f64());
    let plain = of_plain("decode JPEG").unwrap() + of_plain("encode JPEG").unwrap();
    assert!((plain - 1.0).abs() < 1e-6, "the unit is one: {told}");
    assert!(of_plain("JPEG to JPEG").unwrap() > 1.0, "{told}");
}

/// Two pictures have two pieces of film: without a seed each is developed by its own content, the same one always
/// alike.
#[test]
fn every_picture_has_accidents_of_its_own() {
    let folder = Folder::new();
    let save = |name: &str, light: u8| {
        std::fs::write(folder.path(name), write::png(&vec![light; 96 * 64 * 3], 96, 64).unwrap()).unwrap();
    };
    save("a.png", 120);
    save("b.png", 121);
    let grain = |input: &str, output: &str| -> Vec<f64> {
        let done = develop(&folder.text(input), &folder.text(output), &["--stock", "juniper"]);
        assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
        let (_, _, pixels) = read_16(&folder.path(output));
        let green: Vec<f64> = pixels.chunks_exact(3).map(|p| f64::from(p[1])).collect();
        let mean = green.iter().sum::<f64>() / green.len() as f64;
        green.into_iter().map(|v| v - mean).collect()
    };
    let (a, again, b) = (grain("a.png", "a.tif"), grain("a.png", "a2.tif"), grain("b.png", "b.tif"));
    assert_eq!(a, again);
    let product = |x: &[f64], y: &[f64]| x.iter().zip(y).map(|(x, y)| x * y).sum::<f64>();
    let correlation = product(&a, &b) / (product(&a, &a) * product(&b, &b)).sqrt();
    assert!(correlation.abs() < 0.1, "{correlation}");
}

/// What would cost the original, or open the roll to everybody, is refused with a sentence.
#[test]
fn what_would_do_harm_is_refused() {
    let folder = Folder::new();
    let input = folder.path("own.jpg");
    std::fs::copy(demo("hill-road.jpg"), &input).unwrap();
    let before = std::fs::read(&input).unwrap();
    let (text, detour) = (folder.text("own.jpg"), folder.path("x/../own.jpg"));
    std::fs::create_dir(folder.path("x")).unwrap();
    for output in [text.clone(), detour.display().to_string()] {
        let told = develop(&text, &output, &[]);
        assert_eq!(told.status.code(), Some(2), "{output}");
        assert!(
            String::from_utf8_lossy(&told.stderr).contains("original"),
            "{}",
            String::from_utf8_lossy(&told.stderr)
        );
    }
    assert_eq!(std::fs::read(&input).unwrap(), before);
    let open = amber_grain(&["serve", "--address", "0.0.0.0", "--port", "0", "--data", &folder.text("data")]);
    assert_eq!(open.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&open.stderr).contains("--password-file"));
    for wrong in [["--max-megapixels", "99999999999999"], ["--max-upload-mib", "18446744073709551615"]] {
        let told = amber_grain(&[&["serve", "--port", "0", "--data", &folder.text("data")][..], &wrong].concat());
        assert_eq!(told.status.code(), Some(2), "{wrong:?}");
    }
}

/// A reader that has seen enough ends a list without a word.
#[test]
fn a_closed_pipe_is_no_error() {
    use std::io::Read;
    let mut process = Command::new(env!("CARGO_BIN_EXE_amber-grain"))
        .arg("controls")
        .stdout(std::process::Stdio::piped())
        .stderr(std::process::Stdio::piped())
        .spawn()
        .unwrap();
    let mut some = [0; 64];
    process.stdout.take().unwrap().read_exact(&mut some).unwrap();
    let done = process.wait_with_output().unwrap();
    assert!(done.stderr.is_empty(), "{}", String::from_utf8_lossy(&done.stderr));
    assert!(done.status.success(), "{:?}", done.status);
}

/// The application as a process that is ended by its id.
struct Running {
    process: std::process::Child,
    address: String,
}

impl Running {
    fn demo(data: &str) -> Self {
        use std::io::BufRead;
        let mut process = Command::new(env!("CARGO_BIN_EXE_amber-grain"))
            .current_dir(Path::new(env!("CARGO_MANIFEST_DIR")).join("../.."))
            .args(["demo", "--port", "0", "--data", data])
            .stdout(std::process::Stdio::piped())
            .spawn()
            .unwrap();
        let mut line = String::new();
        std::io::BufReader::new(process.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let address = line.split("http://").nth(1).and_then(|t| t.split('/').next()).expect("it prints its address");
        Self { process, address: address.to_string() }
    }

    fn get(&self, path: &str) -> String {
        use std::io::{Read, Write};
        let mut stream = std::net::TcpStream::connect(&self.address).unwrap();
        write!(stream, "GET {path} HTTP/1.1\r\nHost: {}\r\nConnection: close\r\n\r\n", self.address).unwrap();
        let mut answer = Vec::new();
        stream.read_to_end(&mut answer).unwrap();
        String::from_utf8_lossy(&answer).into_owned()
    }
}

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.process.kill();
        let _ = self.process.wait();
    }
}

#[test]
fn the_demo_roll_is_loaded_once_and_a_taken_port_is_told() {
    let folder = Folder::new();
    let data = folder.text("demo");
    let first = Running::demo(&data);
    let sheet = first.get("/rolls/1/order");
    assert!(sheet.contains("\"all\":8"), "{sheet}");
    let looks = first.get("/rolls/2/order").matches(',').count();
    assert!(looks >= 5, "the looks are a roll of their own");
    let port = first.address.rsplit(':').next().unwrap().to_string();
    let second = amber_grain(&["serve", "--port", &port, "--data", &folder.text("other")]);
    assert_eq!(second.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&second.stderr).contains("is taken"));
    assert!(!folder.path("other").exists(), "a second start touches nothing");
    drop(first);
    let again = Running::demo(&data);
    assert!(again.get("/rolls/1/order").contains("\"all\":8"));
    assert_eq!(again.get("/rolls/2/order").matches(',').count(), looks);
    assert!(again.get("/rolls/3").starts_with("HTTP/1.1 404"));
}

/// Sheets on the command line: listed with what each wants, laid by kind or from a file, missing ones said.
#[test]
fn sheets_are_listed_and_laid() {
    let listed = amber_grain(&["sheets", "--json"]);
    let listed: serde_json::Value = serde_json::from_slice(&listed.stdout).unwrap();
    let dust = listed.as_array().unwrap().iter().find(|kind| kind["id"] == "dust").unwrap();
    assert_eq!((&dust["place"], &dust["measured_on"]), (&"negative".into(), &"film".into()));
    assert!(dust["parameters"]["amount"].is_string() && listed.as_array().unwrap().len() >= 20);

    let folder = Folder::new();
    let overlay = folder.text("overlay.png");
    std::fs::write(&overlay, write::png(&[40; 30 * 20 * 3], 30, 20).unwrap()).unwrap();
    let (input, output) = (demo("hill-road.jpg"), folder.text("out.jpg"));
    let from_file = format!("surface.sheet.1.kind={overlay}");
    let laid = develop(&input, &output, &["--long-edge", "90", "--set", &from_file]);
    assert!(laid.status.success(), "{}", String::from_utf8_lossy(&laid.stderr));
    let (pixels, _, _) = amber_files::plain::decoded(&std::fs::read(folder.path("out.jpg")).unwrap()).unwrap();
    assert!(pixels.iter().all(|v| v.abs_diff(40) <= 2), "it lies over everything");

    // a document names it by its content; the file is given beside it, or a sentence says that it is missing
    let hash = blake3_of(&overlay);
    let document = folder.path("laid.json");
    let text = format!(r#"{{"version":1,"stock":{{"id":"plover"}},"values":{{"surface.sheet.1.kind":"own:{hash}"}}}}"#);
    std::fs::write(&document, text).unwrap();
    let document = folder.text("laid.json");
    let named = ["--long-edge", "90", "--development", &document];
    let missing = develop(&input, &output, &named);
    assert!(!missing.status.success());
    assert!(String::from_utf8_lossy(&missing.stderr).contains("name its file with --sheet"));
    let given = develop(&input, &output, &[&named[..], &["--sheet", &overlay]].concat());
    assert!(given.status.success(), "{}", String::from_utf8_lossy(&given.stderr));
}

fn blake3_of(path: &str) -> String {
    amber_library::Originals::hash_of(&std::fs::read(path).unwrap())
}

/// A mount makes the file larger; a region is of the picture without it.
#[test]
fn a_region_knows_nothing_of_the_mount() {
    let folder = Folder::new();
    let input = demo("hill-road.jpg");
    let run = |name: &str, more: &[&str]| {
        let mount = ["--long-edge", "90", "--set", "surface.mount.kind=border", "--set", "surface.mount.width=10"];
        let output = develop(&input, &folder.text(name), &[&mount, more].concat());
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        read_16(&folder.path(name))
    };
    let (width, height, _) = run("whole.tif", &[]);
    assert_eq!((width, height), (108, 78));
    let (width, height, part) = run("part.tif", &["--region", "10,5,30,20"]);
    assert_eq!((width, height), (30, 20));
    let plain = develop(&input, &folder.text("plain.tif"), &["--long-edge", "90"]);
    assert!(plain.status.success());
    let (_, _, plain) = read_16(&folder.path("plain.tif"));
    assert_eq!(part[..3], plain[3 * (5 * 90 + 10)..][..3]);
}

#[test]
fn presets_are_listed_checked_made_and_laid() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    let list: serde_json::Value = serde_json::from_slice(&amber_grain(&["presets", "--json"]).stdout).unwrap();
    assert!(list.as_array().unwrap().len() >= 30);
    let development = path("d.json");
    std::fs::write(&development, r#"{"version":1,"stock":{"id":"juniper"},"values":{"film.push":1,"scene.tint":5}}"#)
        .unwrap();
    let mine = path("mine.json");
    let made = amber_grain(&["presets", "of", &development, "--name", "Mine", "-o", &mine]);
    assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
    let text = std::fs::read_to_string(&mine).unwrap();
    assert!(text.contains("film.push") && !text.contains("scene.tint"), "{text}");
    let checked = amber_grain(&["presets", "check", &mine]);
    assert!(String::from_utf8_lossy(&checked.stdout).contains("Mine. It can be used."));
    std::fs::write(&mine, text.replace("film.push", "film.pull")).unwrap();
    let refused = amber_grain(&["presets", "check", &mine]);
    assert!(String::from_utf8_lossy(&refused.stderr).contains("film.pull"));
    let input = path("in.png");
    std::fs::write(&input, amber_files::write::png(&[120; 3 * 600], 30, 20).unwrap()).unwrap();
    let develop = |name: &str, more: &[&str]| {
        let output = path(name);
        let words = [&["develop", &input, "-o", &output][..], more].concat();
        let done = amber_grain(&words);
        assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
        std::fs::read(output).unwrap()
    };
    let plain = develop("plain.jpg", &[]);
    assert_eq!(develop("none.jpg", &["--preset", "blue-print", "--strength", "0"]), plain);
    assert_ne!(develop("blue.jpg", &["--preset", "blue-print"]), plain);
    let unknown = amber_grain(&["develop", &input, "-o", &path("x.jpg"), "--preset", "nothing"]);
    assert!(String::from_utf8_lossy(&unknown.stderr).contains("no preset that ships is called 'nothing'"));
}
