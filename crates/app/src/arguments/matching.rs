//! What can be said to match, seat and fit.

use std::path::PathBuf;

use clap::Args;

use super::MOST_MEGAPIXELS;

/// What of a reference is matched.
#[derive(Debug, Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
pub enum Only {
    /// Noise alone: granularity, size, roughness, colour, weights by tone.
    Grain,
    /// Stock and tuning.
    Colour,
    /// Both.
    All,
}

#[derive(Args)]
pub struct Match {
    /// The picture.
    pub input: PathBuf,
    /// The picture that it is to look like.
    #[arg(long)]
    pub reference: PathBuf,
    /// Where on the reference grain is measured, in its pixels: X,Y,W,H. All over it when absent.
    #[arg(long)]
    pub patch: Option<String>,
    /// A stock's id, or a stock file, instead of looking among all that ship.
    #[arg(long)]
    pub stock: Option<String>,
    /// Begin with this development.
    #[arg(long)]
    pub development: Option<PathBuf>,
    #[arg(long, value_enum, default_value_t = Only::All)]
    pub only: Only,
    /// The longer side of the export in whose pixels grain is compared; full size when absent.
    #[arg(long)]
    pub long_edge: Option<u32>,
    /// The development to write; - is standard output.
    #[arg(short, long)]
    pub output: PathBuf,
    /// Print what was measured and proposed as JSON.
    #[arg(long)]
    pub json: bool,
    /// Say nothing.
    #[arg(long)]
    pub quiet: bool,
    /// Most pixels of a picture, in millions.
    #[arg(long, default_value_t = 120, value_parser = clap::value_parser!(u64).range(1..=MOST_MEGAPIXELS))]
    pub max_megapixels: u64,
}

#[derive(Args)]
pub struct Seat {
    /// The picture.
    pub input: PathBuf,
    /// A stock's id, or a stock file.
    #[arg(long)]
    pub stock: Option<String>,
    /// Begin with this development.
    #[arg(long)]
    pub development: Option<PathBuf>,
    /// A grey in the picture, by shares of its width and height, and the zone on which it is to print: X,Y or X,Y,ZONE.
    #[arg(long)]
    pub grey: Option<String>,
    /// A face in the picture, likewise; zone VI when none is said.
    #[arg(long)]
    pub face: Option<String>,
    /// Leave found skin alone.
    #[arg(long)]
    pub no_face: bool,
    /// The longer side of the print in cm: grain and halation are scaled to it.
    #[arg(long)]
    pub print_cm: Option<f64>,
    /// The distance from which the print is seen, in cm; its diagonal when absent.
    #[arg(long, requires = "print_cm")]
    pub distance_cm: Option<f64>,
    /// The development to write; - is standard output.
    #[arg(short, long)]
    pub output: PathBuf,
    /// Print what was found as JSON.
    #[arg(long)]
    pub json: bool,
    /// Say nothing.
    #[arg(long)]
    pub quiet: bool,
    /// Most pixels of a picture, in millions.
    #[arg(long, default_value_t = 120, value_parser = clap::value_parser!(u64).range(1..=MOST_MEGAPIXELS))]
    pub max_megapixels: u64,
}

#[derive(Args)]
pub struct Fit {
    /// The chart: docs/stocks.md says how its lines are written.
    pub chart: PathBuf,
    /// What the stock is called, where the chart does not say it.
    #[arg(long)]
    pub name: Option<String>,
    /// The stock file to write; - is standard output.
    #[arg(short, long)]
    pub output: PathBuf,
    /// Print the residuals as JSON.
    #[arg(long)]
    pub json: bool,
    /// Say nothing.
    #[arg(long)]
    pub quiet: bool,
}
