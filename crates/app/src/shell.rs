//! What an installation lays beside the program: completions for shells, and pages of the manual, made of the
//! arguments themselves.

use std::path::Path;

use clap::CommandFactory;
use clap_complete::Shell;

use crate::arguments::Arguments;
use crate::output;

/// Completions for a shell.
pub fn completions(shell: Shell) -> Result<(), String> {
    let mut made = Vec::new();
    clap_complete::generate(shell, &mut Arguments::command(), "amber-grain", &mut made);
    output::print(String::from_utf8_lossy(&made).trim_end())
}

/// A page of the manual for the program and one for each command, into a folder.
pub fn manual(folder: &Path) -> Result<(), String> {
    let wrong = |e: std::io::Error| format!("{} cannot be written: {e}", folder.display());
    std::fs::create_dir_all(folder).map_err(wrong)?;
    clap_mangen::generate_to(Arguments::command(), folder).map_err(wrong)
}
