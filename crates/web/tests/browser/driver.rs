//! A headless Chromium with its driver.

use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use amber_lab::{Lab, ViewRequest};
use thirtyfour::prelude::*;

/// How long a page may take: the machines that run this are slow at times.
const PATIENCE: Duration = Duration::from_secs(90);

/// How long a picture may take to come to rest after the last touch.
const AT_REST: Duration = Duration::from_secs(10);
/// Where pages leave their errors and warnings for the test.
const COMPLAINTS: &str = "test-complaints";
/// Put into every page before its own scripts.
const LISTENING: &str = r#"
    const complain = (text) => {
        const all = JSON.parse(sessionStorage.getItem('test-complaints') ?? '[]');
        sessionStorage.setItem('test-complaints', JSON.stringify([...all, `${location.pathname}: ${text}`]));
    };
    for (const kind of ['error', 'warn']) {
        const plain = console[kind];
        console[kind] = (...words) => { complain(words.map(String).join(' ')); plain.apply(console, words); };
    }
    addEventListener('error', (e) => complain(e.message));
    addEventListener('unhandledrejection', (e) => complain(String(e.reason)));
    addEventListener('securitypolicyviolation', (e) => complain(`${e.violatedDirective} ${e.blockedURI}`));
"#;

pub struct Browser {
    pub driver: WebDriver,
    process: Child,
    _profile: tempfile::TempDir,
}

/// A driver and the port that it says.
fn chromedriver() -> Option<(Child, String)> {
    let mut process = Command::new("chromedriver")
        .arg("--port=0")
        .stdout(Stdio::piped())
        .spawn()
        .expect("chromedriver is missing: `make test` installs it");
    let told = BufReader::new(process.stdout.take().expect("its output is piped"));
    let port = told.lines().map_while(Result::ok).find_map(|line| {
        line.contains("started successfully").then(|| line.chars().filter(char::is_ascii_digit).collect::<String>())
    });
    match port {
        Some(port) => Some((process, port)),
        None => {
            let _ = process.wait();
            None
        }
    }
}

impl Browser {
    pub async fn start() -> Self {
        // two drivers that start at once may take the same port; one of them ends
        let (process, port) = (0..5).find_map(|_| chromedriver()).expect("chromedriver says its port");
        let profile = tempfile::tempdir().unwrap();
        let mut wanted = DesiredCapabilities::chrome();
        for argument in [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
            "--window-size=1280,800",
        ] {
            wanted.add_arg(argument).unwrap();
        }
        wanted.add_arg(&format!("--user-data-dir={}", profile.path().display())).unwrap();
        let driver = WebDriver::new(format!("http://127.0.0.1:{port}"), wanted).await.unwrap();
        let listens = serde_json::json!({ "source": LISTENING });
        driver.cdp().send_raw("Page.addScriptToEvaluateOnNewDocument", listens).await.unwrap();
        Self { driver, process, _profile: profile }
    }

    /// Ends the browser; no page may have complained, and no picture may still be on its way.
    pub async fn stop(self) {
        let settled = "!document.getElementById('ag-canvas') || \
                       document.getElementById('ag-canvas').dataset.settled === 'true'";
        self.until_within(settled, AT_REST).await;
        let complaints = self.value(&format!("JSON.parse(sessionStorage.getItem('{COMPLAINTS}') ?? '[]')")).await;
        assert_eq!(complaints, serde_json::json!([]), "the pages complained");
        let _ = self.driver.clone().quit().await;
    }

    /// Takes one complaint away that the test itself brought about; it must be there.
    pub async fn complained(&self, of: &str) {
        let left = self
            .value(&format!(
                "(() => {{ const all = JSON.parse(sessionStorage.getItem('{COMPLAINTS}') ?? '[]'); \
                 const i = all.findIndex((c) => c.includes('{of}')); if (i >= 0) all.splice(i, 1); \
                 sessionStorage.setItem('{COMPLAINTS}', JSON.stringify(all)); return i >= 0; }})()"
            ))
            .await;
        assert_eq!(left, serde_json::Value::Bool(true), "nothing was said of {of}");
    }

    async fn until_within(&self, script: &str, patience: Duration) {
        let start = Instant::now();
        while self.value(script).await != serde_json::Value::Bool(true) {
            assert!(start.elapsed() < patience, "the picture did not settle within {patience:?} after the last touch");
            tokio::time::sleep(Duration::from_millis(80)).await;
        }
    }

    /// Chooses from the list that a selector finds, as a person does.
    pub async fn choose(&self, list: &str, value: &str) {
        let script = format!(
            "(() => {{ const l = document.querySelector('{list}'); l.value = '{value}'; \
             l.dispatchEvent(new Event('change', {{ bubbles: true }})); return true; }})()"
        );
        self.value(&script).await;
    }

    /// A script's value.
    pub async fn value(&self, script: &str) -> serde_json::Value {
        self.driver.execute(format!("return ({script})"), Vec::new()).await.unwrap().json().clone()
    }

    /// Waits until a script's expression is true.
    pub async fn until(&self, script: &str) {
        let start = Instant::now();
        while start.elapsed() < PATIENCE {
            if self.value(script).await == serde_json::Value::Bool(true) {
                return;
            }
            tokio::time::sleep(Duration::from_millis(80)).await;
        }
        let page = self.value("document.body.innerText").await;
        panic!("waited in vain for {script}; the page says:\n{page}");
    }

    /// Clicks what is there; once more when an answer replaced it between finding and clicking.
    pub async fn click(&self, css: &str) {
        let find = || async { self.driver.find(By::Css(css)).await.unwrap_or_else(|e| panic!("{css}: {e}")) };
        if find().await.click().await.is_err() {
            find().await.click().await.unwrap_or_else(|e| panic!("{css}: {e}"));
        }
    }

    /// The window's own size, as a screen with or without a browser's frame leaves it.
    pub async fn sized(&self, width: u32, height: u32) {
        let size = serde_json::json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false });
        self.driver.cdp().send_raw("Emulation.setDeviceMetricsOverride", size).await.unwrap();
    }

    /// A key on the picture, by its code; `Shift+Digit3` is held with Shift.
    pub async fn key(&self, kind: &str, code: &str) {
        let (shift, code) = (code.starts_with("Shift+"), code.trim_start_matches("Shift+"));
        let script = format!(
            "document.getElementById('ag-canvas').dispatchEvent(new KeyboardEvent('{kind}', \
             {{ code: '{code}', shiftKey: {shift}, bubbles: true, cancelable: true }})) || true"
        );
        self.value(&script).await;
    }

    /// A key pressed and let go.
    pub async fn press(&self, code: &str) {
        self.key("keydown", code).await;
        self.key("keyup", code).await;
    }

    pub async fn type_into(&self, css: &str, keys: impl Into<TypingData>) {
        let field = self.driver.find(By::Css(css)).await.unwrap_or_else(|e| panic!("{css}: {e}"));
        field.send_keys(keys).await.unwrap_or_else(|e| panic!("{css}: {e}"));
    }

    /// Waits until the picture at rest is drawn.
    pub async fn settled(&self) {
        self.until("document.getElementById('ag-canvas').dataset.settled === 'true'").await;
    }

    /// A strip from the middle of a canvas at 1:1 must stand in what the lab renders, pixel for pixel.
    pub async fn shows_exactly(&self, canvas: &str, lab: &Lab, request: ViewRequest) {
        let (whole, width, _) = amber_files::plain::decoded(&lab.view(&request).unwrap().bytes).unwrap();
        let script = format!(
            "(() => {{ const c = document.getElementById('{canvas}'); \
             return [...c.getContext('2d').getImageData(c.width / 2, c.height / 2, 24, 1).data] \
               .filter((_, i) => i % 4 < 3); }})()"
        );
        let strip: Vec<u8> =
            self.value(&script).await.as_array().unwrap().iter().map(|v| v.as_u64().unwrap() as u8).collect();
        let mut rows = whole.chunks(3 * width as usize);
        let found = rows.any(|row| row.windows(72).step_by(3).any(|part| part == strip));
        assert!(found, "{canvas} at 1:1 shows pixels that the lab did not render");
    }

    /// The canvas's pixel at a share of its width and height.
    pub async fn pixel(&self, x: f64, y: f64) -> Vec<i64> {
        self.pixel_of("ag-canvas", x, y).await
    }

    /// The same of another canvas.
    pub async fn pixel_of(&self, canvas: &str, x: f64, y: f64) -> Vec<i64> {
        let script = format!(
            "(() => {{ const c = document.getElementById('{canvas}'); \
             return [...c.getContext('2d').getImageData(c.width * {x}, c.height * {y}, 1, 1).data]; }})()"
        );
        self.value(&script).await.as_array().unwrap().iter().map(|v| v.as_i64().unwrap()).collect()
    }
}

/// A test that fails must not leave its driver behind: what waits for the tests' output would wait for it too.
impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.process.kill();
        let _ = self.process.wait();
    }
}
