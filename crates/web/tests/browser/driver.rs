//! A headless Chromium with its driver.

use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use thirtyfour::prelude::*;

/// How long a page may take: the machines that run this are slow at times.
const PATIENCE: Duration = Duration::from_secs(90);

pub struct Browser {
    pub driver: WebDriver,
    process: Child,
    _profile: tempfile::TempDir,
}

impl Browser {
    pub async fn start() -> Self {
        let mut process = Command::new("chromedriver")
            .arg("--port=0")
            .stdout(Stdio::piped())
            .spawn()
            .expect("chromedriver is missing: `make test` installs it");
        let told = BufReader::new(process.stdout.take().unwrap());
        let port = told
            .lines()
            .map_while(Result::ok)
            .find_map(|line| {
                line.contains("started successfully")
                    .then(|| line.chars().filter(char::is_ascii_digit).collect::<String>())
            })
            .expect("chromedriver says its port");
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
        Self { driver, process, _profile: profile }
    }

    pub async fn stop(self) {
        let _ = self.driver.clone().quit().await;
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

    pub async fn type_into(&self, css: &str, keys: impl Into<TypingData>) {
        let field = self.driver.find(By::Css(css)).await.unwrap_or_else(|e| panic!("{css}: {e}"));
        field.send_keys(keys).await.unwrap();
    }

    /// Waits until the picture at rest is drawn.
    pub async fn settled(&self) {
        self.until("document.getElementById('ag-canvas').dataset.settled === 'true'").await;
    }

    /// The canvas's pixel at a share of its width and height.
    pub async fn pixel(&self, x: f64, y: f64) -> Vec<i64> {
        let script = format!(
            "(() => {{ const c = document.getElementById('ag-canvas'); \
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
