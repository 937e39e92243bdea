//! `amber-grain password`: a password's hash, for a file that tells nobody the password.

use std::io::BufRead;
use std::path::Path;

use amber_web::Password;

use crate::output;

pub fn run() -> Result<(), String> {
    eprintln!("Type the password and press Enter:");
    let mut line = String::new();
    std::io::stdin().lock().read_line(&mut line).map_err(|e| format!("no password could be read: {e}"))?;
    output::print(Password::of(line.trim_end_matches(['\r', '\n']))?.hash())
}

/// The password of a file.
pub fn read(file: &Path) -> Result<Password, String> {
    let shown = file.display();
    let text = std::fs::read_to_string(file).map_err(|e| format!("{shown} cannot be read: {e}"))?;
    Password::from_file(&text).map_err(|why| format!("{shown}: {why}"))
}
