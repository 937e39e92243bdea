//! Errors as answers: a status, and a sentence that says what is wrong.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError};
use amber_core::CoreError;
use amber_files::FileError;
use amber_lab::LabError;
use amber_library::LibraryError;
use thiserror::Error;

#[derive(Debug, Error)]
pub enum WebError {
    #[error(transparent)]
    Lab(#[from] LabError),
    #[error("a page could not be made: {0}")]
    Template(#[from] askama::Error),
    #[error("there is no such page")]
    NoPage,
    #[error("{0}")]
    Unusable(String),
    #[error("this upload is larger than the limit of {0} MiB")]
    TooLarge(usize),
    #[error("the upload was cut off; send it again")]
    CutOff,
    #[error("{0} is missing or cannot be read: {1}")]
    File(String, std::io::Error),
    #[error("the application is stopping")]
    Busy,
}

impl From<LibraryError> for WebError {
    fn from(error: LibraryError) -> Self {
        Self::Lab(error.into())
    }
}

impl From<CoreError> for WebError {
    fn from(error: CoreError) -> Self {
        Self::Lab(error.into())
    }
}

impl ResponseError for WebError {
    fn status_code(&self) -> StatusCode {
        match self {
            Self::Lab(error) => of_lab(error),
            Self::NoPage | Self::File(..) => StatusCode::NOT_FOUND,
            Self::Unusable(_) | Self::CutOff => StatusCode::BAD_REQUEST,
            Self::TooLarge(_) => StatusCode::PAYLOAD_TOO_LARGE,
            Self::Template(_) => StatusCode::INTERNAL_SERVER_ERROR,
            Self::Busy => StatusCode::SERVICE_UNAVAILABLE,
        }
    }

    fn error_response(&self) -> HttpResponse {
        if let Self::Lab(error) = self
            && error.is_abandoned()
        {
            return HttpResponse::NoContent().finish();
        }
        let status = self.status_code();
        if status.is_server_error() {
            tracing::error!("{self}");
        }
        HttpResponse::build(status).content_type("text/plain; charset=utf-8").body(first_upper(&self.to_string()))
    }
}

fn of_lab(error: &LabError) -> StatusCode {
    match error {
        LabError::Library(LibraryError::ChangedElsewhere { .. } | LibraryError::NothingTo(_)) => StatusCode::CONFLICT,
        LabError::Library(LibraryError::NotThere { .. }) | LabError::NoExport(_) => StatusCode::NOT_FOUND,
        LabError::Library(LibraryError::BuiltIn { .. } | LibraryError::StockTaken { .. }) => StatusCode::CONFLICT,
        LabError::Library(LibraryError::Core(_)) => StatusCode::UNPROCESSABLE_ENTITY,
        LabError::Library(LibraryError::Name) => StatusCode::BAD_REQUEST,
        LabError::Library(_) | LabError::Threads(_) => StatusCode::INTERNAL_SERVER_ERROR,
        LabError::File(FileError::Read { .. } | FileError::Write { .. }) => StatusCode::INTERNAL_SERVER_ERROR,
        LabError::File(_) | LabError::Core(_) | LabError::NoNeutral => StatusCode::UNPROCESSABLE_ENTITY,
        LabError::Level(_) | LabError::ExportName | LabError::Quality(_) | LabError::LongEdge(_) => {
            StatusCode::BAD_REQUEST
        }
    }
}

/// A sentence with a capital and a full stop.
pub fn first_upper(text: &str) -> String {
    let mut letters = text.chars();
    let mut sentence: String = letters.next().map(|c| c.to_uppercase().chain(letters).collect()).unwrap_or_default();
    if !sentence.ends_with('.') {
        sentence.push('.');
    }
    sentence
}
