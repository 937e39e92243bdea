//! The application as a process of its own, and requests to it.

use std::io::{BufRead, Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

/// The application on a data folder, as a process of its own.
pub struct Server {
    pub process: Child,
    pub address: String,
}

pub struct Answer {
    pub status: u16,
    pub body: Vec<u8>,
}

impl Server {
    pub fn start(data: &Path) -> Self {
        Self::start_with(data, &[])
    }

    pub fn start_with(data: &Path, more: &[&str]) -> Self {
        let mut process = Command::new(env!("CARGO_BIN_EXE_amber-grain"))
            .args(["serve", "--port", "0", "--data"])
            .arg(data)
            .args(more)
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let mut line = String::new();
        std::io::BufReader::new(process.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let address = line.split("http://").nth(1).and_then(|t| t.split('/').next()).expect("it prints its address");
        Self { address: address.to_string(), process }
    }

    pub fn kill(&mut self) {
        let _ = self.process.kill();
        let _ = self.process.wait();
    }

    /// Resident memory in MiB.
    #[allow(dead_code, reason = "not every test that starts the application asks for it")]
    pub fn memory(&self) -> f64 {
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
pub fn ask(address: &str, method: &str, path: &str, kind: &str, body: &[u8]) -> Option<Answer> {
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
