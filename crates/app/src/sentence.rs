//! Errors as the command line says them: with the command that helps.

use std::error::Error;

use amber_core::CoreError;
use amber_lab::LabError;
use amber_library::LibraryError;

/// What is wrong, and what to do.
pub fn of(error: &(dyn Error + 'static)) -> String {
    match core_of(error) {
        Some(CoreError::UnknownStock { .. }) => format!("{error}; `amber-grain stocks` lists those there are"),
        Some(CoreError::UnknownLamp { .. }) => format!("{error}; `amber-grain schema` lists what can be"),
        Some(CoreError::UnknownControl { .. }) => format!("{error}; `amber-grain controls` lists those there are"),
        _ => error.to_string(),
    }
}

/// The error of the computation that is at the bottom of one.
fn core_of<'a>(error: &'a (dyn Error + 'static)) -> Option<&'a CoreError> {
    if let Some(error) = error.downcast_ref::<CoreError>() {
        return Some(error);
    }
    match error.downcast_ref::<LabError>()? {
        LabError::Core(error) | LabError::Library(LibraryError::Core(error)) => Some(error),
        _ => None,
    }
}
