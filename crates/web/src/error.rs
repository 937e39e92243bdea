//! Errors as answers: a status, and a sentence that says what is wrong.

use actix_web::http::{StatusCode, header};
use actix_web::{HttpResponse, ResponseError};
use amber_core::CoreError;
use amber_files::FileError;
use amber_lab::LabError;
use amber_library::LibraryError;
use amber_matching::MatchError;
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
    #[error("the file {0} is missing or cannot be read: {1}")]
    File(String, std::io::Error),
    #[error("the upload stood still for too long; send it again")]
    Stalled,
    #[error("this address takes {0}")]
    WrongKind(&'static str),
    #[error("this address does not answer that kind of request")]
    WrongMethod(&'static str),
    #[error("sign in first")]
    SignedOut,
    #[error("this password is not right")]
    Password,
    #[error("too many wrong passwords; wait a minute and try again")]
    Throttled,
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
            Self::Stalled => StatusCode::REQUEST_TIMEOUT,
            Self::WrongKind(_) => StatusCode::UNSUPPORTED_MEDIA_TYPE,
            Self::WrongMethod(_) => StatusCode::METHOD_NOT_ALLOWED,
            Self::SignedOut | Self::Password => StatusCode::UNAUTHORIZED,
            Self::Throttled => StatusCode::TOO_MANY_REQUESTS,
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
        let mut answer = HttpResponse::build(status);
        if let Self::WrongMethod(answers) = self {
            answer.insert_header((header::ALLOW, *answers));
        }
        answer.content_type("text/plain; charset=utf-8").body(first_upper(&self.to_string()))
    }
}

fn of_lab(error: &LabError) -> StatusCode {
    match error {
        LabError::Library(error) => of_library(error),
        LabError::Core(error) => of_core(error),
        LabError::Match(MatchError::Core(error)) => of_core(error),
        LabError::NoExport(_) | LabError::NoMatch => StatusCode::NOT_FOUND,
        LabError::File(FileError::Read { .. } | FileError::Write { .. }) => StatusCode::INTERNAL_SERVER_ERROR,
        LabError::File(_)
        | LabError::NoNeutral
        | LabError::Match(_)
        | LabError::EmptyPatch
        | LabError::NotText
        | LabError::EmptyPreset
        | LabError::Archive { .. }
        | LabError::NothingTravels
        | LabError::Document { .. } => StatusCode::UNPROCESSABLE_ENTITY,
        LabError::Level(_)
        | LabError::ExportName
        | LabError::Quality(_)
        | LabError::LongEdge(_)
        | LabError::Side(_)
        | LabError::Size { .. }
        | LabError::TooLong { .. }
        | LabError::NoFrames
        | LabError::Pattern(_)
        | LabError::TooManyForPrint(_) => StatusCode::BAD_REQUEST,
        LabError::TooManySheets(_) | LabError::Foreign { .. } | LabError::OriginalElsewhere => StatusCode::CONFLICT,
        LabError::TooManyExports(_) => StatusCode::TOO_MANY_REQUESTS,
        LabError::Threads(_) | LabError::Broken | LabError::Folder { .. } => StatusCode::INTERNAL_SERVER_ERROR,
    }
}

fn of_library(error: &LibraryError) -> StatusCode {
    match error {
        LibraryError::ChangedElsewhere { .. }
        | LibraryError::NothingTo(_)
        | LibraryError::BuiltIn { .. }
        | LibraryError::PictureUsed { .. }
        | LibraryError::ShippedPreset { .. }
        | LibraryError::StockTaken { .. } => StatusCode::CONFLICT,
        LibraryError::NotThere { .. }
        | LibraryError::NoPicture
        | LibraryError::NoPreset { .. }
        | LibraryError::NoOrder { .. } => StatusCode::NOT_FOUND,
        LibraryError::Core(error) => of_core(error),
        LibraryError::Name | LibraryError::Note { .. } => StatusCode::BAD_REQUEST,
        LibraryError::Stopped => StatusCode::SERVICE_UNAVAILABLE,
        _ => StatusCode::INTERNAL_SERVER_ERROR,
    }
}

fn of_core(error: &CoreError) -> StatusCode {
    match error {
        CoreError::UnknownStock { .. } | CoreError::UnknownMask { .. } => StatusCode::NOT_FOUND,
        _ => StatusCode::UNPROCESSABLE_ENTITY,
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
