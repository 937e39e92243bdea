//! The application, started for a test on a port of its own.

use std::io::{Read, Write};
use std::net::{SocketAddr, TcpListener, TcpStream};
use std::path::Path;
use std::sync::Arc;

use amber_files::{Limits, write};
use amber_lab::Lab;
use amber_library::Library;
use amber_web::Settings;

pub struct Application {
    pub address: SocketAddr,
    pub lab: Arc<Lab>,
    pub folder: tempfile::TempDir,
}

/// Largest upload of the tests.
pub const UPLOAD_BYTES: usize = 3 << 20;

impl Application {
    pub fn start() -> Self {
        Self::with(Settings { upload_bytes: UPLOAD_BYTES, ..Settings::default() })
    }

    pub fn with(settings: Settings) -> Self {
        let folder = tempfile::tempdir().unwrap();
        let data = folder.path().join("data");
        Self::started(folder, &data, settings)
    }

    /// On a data folder that is there.
    pub fn on(data: &Path) -> Self {
        Self::started(tempfile::tempdir().unwrap(), data, Settings::default())
    }

    fn started(folder: tempfile::TempDir, data: &Path, settings: Settings) -> Self {
        let library = Library::open(data).unwrap();
        let lab = Arc::new(Lab::new(library, Limits { megapixels: 2 }, None).unwrap());
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let address = listener.local_addr().unwrap();
        let served = lab.clone();
        std::thread::spawn(move || amber_web::run(served, listener, settings));
        Self { address, lab, folder }
    }

    pub fn url(&self, path: &str) -> String {
        format!("http://{}{path}", self.address)
    }

    /// A request as bytes on the wire; the whole answer as text.
    pub fn send(&self, head: &str, body: &[u8]) -> String {
        let mut stream = TcpStream::connect(self.address).unwrap();
        let head = format!("{head}\r\nContent-Length: {}\r\nConnection: close\r\n\r\n", body.len());
        stream.write_all(head.as_bytes()).unwrap();
        let _ = stream.write_all(body); // the answer may come before the body is taken
        let mut answer = Vec::new();
        let _ = stream.read_to_end(&mut answer);
        String::from_utf8_lossy(&answer).into_owned()
    }
}

/// A photograph's stand-in: soft colours with a hard edge, as a JPEG.
pub fn picture(width: u32, height: u32) -> Vec<u8> {
    let pixel = |i: u32| {
        let (x, y) = (i % width, i / width);
        let edge = if x * 2 > width { 40 } else { 0 };
        [(60 + x * 120 / width + edge) as u8, (50 + y * 130 / height) as u8, (150 - x * 90 / width) as u8]
    };
    let pixels: Vec<u8> = (0..width * height).flat_map(pixel).collect();
    write::jpeg(&pixels, width, height, 95, None).unwrap()
}
