//! Standard output: a reader that has seen enough is no error, a full disk is one.

use std::io::{ErrorKind, Write};

/// Prints a text and a line end.
pub fn print(text: &str) -> Result<(), String> {
    let mut out = std::io::stdout().lock();
    let printed = out.write_all(text.as_bytes()).and_then(|()| out.write_all(b"\n")).and_then(|()| out.flush());
    match printed {
        Err(error) if error.kind() != ErrorKind::BrokenPipe => Err(format!("it cannot be printed: {error}")),
        _ => Ok(()),
    }
}
