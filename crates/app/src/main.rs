//! The one binary: the application in a browser, and the same engine on the command line.

mod arguments;
mod bench;
mod demo;
mod develop;
mod doctor;
mod documents;
mod edit;
mod exit;
mod files;
mod fit;
mod lists;
mod load;
mod look;
mod looks;
mod matching;
mod opening;
mod options;
mod order;
mod output;
mod password;
mod presets;
mod progress;
mod seat;
mod sentence;
mod serve;
mod sheets;
mod shell;
mod stocks;

use std::process::ExitCode;

use arguments::{Arguments, Command};
use clap::Parser;
use exit::Failure;

fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_max_level(tracing_subscriber::filter::LevelFilter::WARN)
        .with_writer(std::io::stderr)
        .init();
    // a panic is told in a sentence by whoever stands around the work; where it happened goes to the log
    std::panic::set_hook(Box::new(|panic| tracing::warn!("{panic}")));
    match run(Arguments::parse().command) {
        Ok(()) => ExitCode::SUCCESS,
        Err(failure) => failure.told(),
    }
}

fn run(command: Command) -> Result<(), Failure> {
    match command {
        Command::Develop(arguments) => return develop::run(&arguments),
        Command::Order { command } => return order::run(&command),
        Command::Look(arguments) => look::run(&arguments),
        Command::Match(arguments) => matching::run(&arguments),
        Command::Seat(arguments) => seat::run(&arguments),
        Command::Fit(arguments) => fit::run(&arguments),
        Command::Edit(arguments) => return edit::run(&arguments),
        Command::Doctor(arguments) => return doctor::run(&arguments),
        Command::Completions { shell } => shell::completions(shell),
        Command::Manual { output } => shell::manual(&output),
        Command::Stocks { command: None, json } => lists::stocks(json),
        Command::Stocks { command: Some(command), .. } => stocks::run(&command),
        Command::Bench(arguments) => bench::run(&arguments),
        Command::Sheets { json } => lists::sheets(json),
        Command::Presets { command, json } => presets::run(command.as_ref(), json),
        Command::Load(arguments) => load::run(&arguments),
        Command::Schema => lists::schema(),
        Command::Password => password::run(),
        Command::Controls { markdown: true, .. } => lists::table_of_controls(),
        Command::Controls { json, .. } => lists::controls(json),
        Command::Serve(arguments) => serve::run(&arguments, None),
        Command::Demo { serve, demo } => serve::run(&serve, Some(&demo)),
        Command::Looks { demo, output } => looks::render(&demo, &output),
    }?;
    Ok(())
}
