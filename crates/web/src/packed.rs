//! Packed files: a ZIP of exports while they are made, a whole roll as an archive, and an archive read again.

use std::io::{Error, ErrorKind, Write};
use std::sync::Arc;

use actix_multipart::Multipart;
use actix_web::http::header::{self, ContentEncoding};
use actix_web::web::Bytes;
use actix_web::{HttpResponse, post, route, web};
use amber_lab::{Lab, LabError, safe_name};
use futures_util::stream;
use serde_json::json;
use tokio::sync::mpsc::{Sender, channel};

use crate::error::WebError;
use crate::fragments::exports::saved_as;
use crate::upload::one_file;
use crate::{Shared, blocking};

/// Bytes that are sent at a time, and how many such parts may lie between who packs and who sends.
const PART: usize = 256 << 10;
const PARTS: usize = 4;

/// Where packed bytes go: into the answer, or nowhere when nobody reads it any more.
struct Sent {
    parts: Sender<Result<Bytes, Error>>,
    part: Vec<u8>,
}

impl Write for Sent {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        self.part.extend_from_slice(bytes);
        if self.part.len() >= PART {
            self.flush()?;
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> std::io::Result<()> {
        if self.part.is_empty() {
            return Ok(());
        }
        let part = Bytes::from(std::mem::take(&mut self.part));
        self.parts.blocking_send(Ok(part)).map_err(|_| ErrorKind::BrokenPipe.into())
    }
}

/// An answer that is written while it is sent, on a thread of its own.
pub fn streamed(
    lab: &Arc<Lab>,
    name: &str,
    work: impl FnOnce(&Lab, &mut dyn Write, &dyn Fn() -> bool) -> Result<(), LabError> + Send + 'static,
) -> Result<HttpResponse, WebError> {
    let (parts, receiver) = channel(PARTS);
    let lab = lab.clone();
    let write = move || {
        let gone = parts.clone();
        let mut sent = Sent { parts, part: Vec::with_capacity(PART) };
        let done = work(&lab, &mut sent, &|| gone.is_closed());
        let done = done.map_err(Error::other).and_then(|()| sent.flush());
        if let Err(error) = done
            && !gone.is_closed()
        {
            tracing::warn!("a packed file was cut off: {error}");
            // the connection ends before the file does, so nobody takes it for whole
            let _ = gone.blocking_send(Err(error));
        }
    };
    std::thread::Builder::new().name("packing".into()).spawn(write).map_err(|_| WebError::Busy)?;
    let body = stream::unfold(receiver, |mut receiver| async move { Some((receiver.recv().await?, receiver)) });
    let mut answer = HttpResponse::Ok();
    answer.content_type("application/zip").insert_header(saved_as(name));
    // what is in it is compressed already
    answer.insert_header((header::CONTENT_ENCODING, ContentEncoding::Identity.as_str()));
    Ok(answer.streaming(body))
}

/// The files of a batch, each as soon as it is made.
#[route("/exports/{batch}/zip", method = "GET")]
pub async fn exports(shared: web::Data<Shared>, batch: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let batch = batch.into_inner();
    let count = shared.lab.exports_of(batch)?.len();
    if count == 0 {
        return Err(LabError::NoExport(batch).into());
    }
    streamed(&shared.lab, &format!("{count} prints.zip"), move |lab, out, over| lab.zip_exports(batch, out, over))
}

/// A whole roll.
#[route("/rolls/{id}/archive", method = "GET")]
pub async fn archive(shared: web::Data<Shared>, id: web::Path<i64>) -> Result<HttpResponse, WebError> {
    let id = id.into_inner();
    let name = safe_name(&shared.lab.library.roll(id)?.name)?;
    streamed(&shared.lab, &format!("{name}.zip"), move |lab, out, over| lab.archive_roll(id, out, over))
}

/// An archive read onto a new roll. Answers with the roll's number.
#[post("/archives")]
pub async fn read(shared: web::Data<Shared>, parts: Multipart) -> Result<HttpResponse, WebError> {
    let most = shared.settings.upload_bytes;
    let (_, bytes) = one_file(most, parts).await?;
    let roll = blocking(&shared, move |lab| Ok(lab.read_archive(std::io::Cursor::new(bytes), most as u64)?)).await?;
    Ok(HttpResponse::Created().json(json!({ "roll": roll })))
}
