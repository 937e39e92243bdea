//! What can be said on the command line.

mod matching;

use std::path::PathBuf;

use amber_lab::Shard;
use clap::{Args, Parser, Subcommand};

use crate::options::OutputOptions;

pub use matching::{Fit, Match, Only, Seat};

/// Largest values of the limits that can be set.
const MOST_MEGAPIXELS: u64 = 4000;
const MOST_UPLOAD_MIB: i64 = 8192;

/// Makes digital photographs look as though an analogue process had made them.
#[derive(Parser)]
#[command(version, about)]
#[command(
    after_help = "Exit codes: 0 all was done; 1 some of several files could not be done, or doctor found damage; \
    2 nothing could be done: a value or a file cannot be used."
)]
pub struct Arguments {
    #[command(subcommand)]
    pub command: Command,
}

#[derive(Subcommand)]
pub enum Command {
    /// Develop pictures into files.
    Develop(Box<Develop>),
    /// Lab orders: pictures developed, written and named by one document, as often as you like with the same result.
    Order {
        #[command(subcommand)]
        command: Box<Order>,
    },
    /// Write what a development makes of every colour as a table: .cube, or a Hald picture (.png).
    Look(Look),
    /// Find stock, tuning and grain by which a picture comes to look like a reference.
    Match(Match),
    /// Seat a picture on a stock as a careful printer would: exposure, balance, contrast, zones, size of the print.
    Seat(Seat),
    /// Fit a stock to what was measured on a film: a step wedge and patches of colour, as CSV.
    Fit(Fit),
    /// Open a picture on the bench in the browser and wait until it is exported.
    Edit(Edit),
    /// Say whether a library is whole: its database, its originals, what belongs to nobody.
    Doctor(Doctor),
    /// Print completions for a shell.
    Completions { shell: clap_complete::Shell },
    /// Write pages of the manual into a folder.
    Manual {
        #[arg(short, long)]
        output: PathBuf,
    },
    /// List the stocks, show one, check a stock file.
    Stocks {
        #[command(subcommand)]
        command: Option<Stocks>,
        /// The list as JSON.
        #[arg(long)]
        json: bool,
    },
    /// List every control with its unit, range, step, own value and help.
    Controls {
        /// As JSON.
        #[arg(long)]
        json: bool,
        /// As the page of the docs.
        #[arg(long, conflicts_with = "json")]
        markdown: bool,
    },
    /// List the sheets that are made here, with what each wants by itself.
    Sheets {
        /// As JSON.
        #[arg(long)]
        json: bool,
    },
    /// List the presets that ship, show one, check a preset file, make one of a development.
    Presets {
        #[command(subcommand)]
        command: Option<Presets>,
        /// The list as JSON.
        #[arg(long)]
        json: bool,
    },
    /// Bring the pictures of a folder onto a roll of a data folder, without the browser.
    Load(Load),
    /// Print the JSON Schema of development documents.
    Schema,
    /// Read a password from standard input and print its hash, for --password-file.
    Password,
    /// Measure how long a frame takes, stage by stage.
    Bench(Bench),
    /// Start the application on a data folder.
    Serve(Serve),
    /// Start the application with the demo roll.
    Demo {
        #[command(flatten)]
        serve: Serve,
        #[command(flatten)]
        demo: Demo,
    },
    /// Render the looks that ship with the demo into a folder, and a page that shows them beside it.
    Looks {
        #[command(flatten)]
        demo: Demo,
        #[arg(short, long, default_value = "docs/looks")]
        output: PathBuf,
    },
}

#[derive(Subcommand)]
pub enum Stocks {
    /// Print a built-in stock as its file.
    Show { id: String },
    /// Say whether a stock file can be used, and if not, what is wrong with it.
    Check { file: PathBuf },
    /// Make a stock of a look's table: .cube, or a Hald picture. Its grain, halation and years are tuned as ever.
    OfLook {
        table: PathBuf,
        #[arg(long)]
        name: String,
        /// Where it stands on the board.
        #[arg(long, default_value = "mine")]
        family: String,
        #[arg(short, long)]
        output: PathBuf,
    },
    /// Print the JSON Schema of stock files.
    Schema,
}

#[derive(Subcommand)]
pub enum Presets {
    /// Print a preset that ships as its file.
    Show { id: String },
    /// Say whether a preset file can be used, and if not, what is wrong with it.
    Check { file: PathBuf },
    /// Print the JSON Schema of preset files.
    Schema,
    /// Make a preset of what belongs to the look of a development.
    Of {
        development: PathBuf,
        #[arg(long)]
        name: String,
        /// Where it stands on the board.
        #[arg(long, default_value = "Mine")]
        group: String,
        #[arg(long, default_value = "")]
        notes: String,
        /// With where sheets lie, and their accidents.
        #[arg(long)]
        placements: bool,
        /// Only the values: the stock of a frame stays.
        #[arg(long)]
        without_stock: bool,
        #[arg(short, long)]
        output: PathBuf,
    },
}

#[derive(Args)]
pub struct Load {
    /// The folder with the pictures.
    pub folder: PathBuf,
    /// The data folder.
    #[arg(long, default_value = "data")]
    pub data: PathBuf,
    /// The roll by its name; a new one where there is none.
    #[arg(long)]
    pub roll: String,
    /// The stock on which they stand.
    #[arg(long)]
    pub stock: Option<String>,
    /// Folders in the folder too.
    #[arg(long)]
    pub deep: bool,
    /// Say nothing while it runs.
    #[arg(long)]
    pub quiet: bool,
    /// Render threads; one per core when absent.
    #[arg(long)]
    pub threads: Option<usize>,
    /// Most pixels of a picture, in millions.
    #[arg(long, default_value_t = 120, value_parser = clap::value_parser!(u64).range(1..=MOST_MEGAPIXELS))]
    pub max_megapixels: u64,
}

#[derive(Args)]
pub struct Demo {
    /// The folder of the demo photographs.
    #[arg(long, default_value = "demo/photographs")]
    pub photographs: PathBuf,
    /// The folder of the pictures that looks lay on others.
    #[arg(long, default_value = "demo/overlays")]
    pub overlays: PathBuf,
    /// The folder of the looks.
    #[arg(long, default_value = "demo/looks")]
    pub looks: PathBuf,
}

#[derive(Args)]
pub struct Bench {
    #[arg(long, default_value = "plover")]
    pub stock: String,
    /// Size of the frame, in millions of pixels.
    #[arg(long, default_value_t = 24)]
    pub megapixels: u32,
    /// Render threads; one per core when absent.
    #[arg(long)]
    pub threads: Option<usize>,
    /// For programs.
    #[arg(long)]
    pub json: bool,
    /// Only a plain decode and encode, as JSON.
    #[arg(long)]
    pub plain: bool,
    /// Writes the picture that is measured, a JPEG, and measures nothing.
    #[arg(long)]
    pub picture: Option<PathBuf>,
}

#[derive(Args)]
pub struct Develop {
    /// Pictures, or folders of them; - is standard input.
    #[arg(required = true, value_name = "INPUT")]
    pub inputs: Vec<PathBuf>,
    /// The file to write, whose ending chooses the format; for several pictures a folder, which ends in a slash; - is
    /// standard output.
    #[arg(short, long)]
    pub output: PathBuf,
    /// A stock's id, or a stock file.
    #[arg(long)]
    pub stock: Option<String>,
    /// A development as JSON.
    #[arg(long)]
    pub development: Option<PathBuf>,
    /// Lay a preset: the id of one that ships, or a file. May be given several times; later ones win.
    #[arg(long = "preset", value_name = "ID|FILE")]
    pub presets: Vec<String>,
    /// How far of the way presets go, in per cent.
    #[arg(long, default_value_t = 100, value_parser = clap::value_parser!(u32).range(0..=100))]
    pub strength: u32,
    /// Set a control: station.group.value=V. May be given several times.
    #[arg(long = "set", value_name = "CONTROL=V", allow_hyphen_values = true)]
    pub set: Vec<String>,
    /// Switch a station or a group off: tone, film.halation. May be given several times.
    #[arg(long, value_name = "LAMP")]
    pub off: Vec<String>,
    /// A picture that the development lays on this one, found by its content. May be given several times. (The kind of
    /// a sheet may be set to a file's path as well.)
    #[arg(long = "sheet", value_name = "FILE")]
    pub sheets: Vec<PathBuf>,
    /// Only this rectangle, in pixels of the output: X,Y,W,H.
    #[arg(long)]
    pub region: Option<String>,
    #[command(flatten)]
    pub file: OutputOptions,
    /// Seed of everything random; that of the picture's content when absent.
    #[arg(long)]
    pub seed: Option<u32>,
    /// Render threads; one per core when absent.
    #[arg(long)]
    pub threads: Option<usize>,
    /// Write a quantity as 32-bit float TIFF: scene.light or print.reflectance (linear light of the sRGB primaries,
    /// unbounded), film.exposure or bath.density (one sample per layer).
    #[arg(long)]
    pub stage: Option<String>,
    /// A line of JSON for each file: what was written, or why not.
    #[arg(long)]
    pub json: bool,
    /// Say nothing but what went wrong.
    #[arg(long)]
    pub quiet: bool,
    /// Most pixels of a picture, in millions.
    #[arg(long, default_value_t = 120, value_parser = clap::value_parser!(u64).range(1..=MOST_MEGAPIXELS))]
    pub max_megapixels: u64,
}

#[derive(Subcommand)]
pub enum Order {
    /// Make an order of a development, presets, a size and a format.
    New(NewOrder),
    /// Run an order on files: what is there already, as the order makes it, is left alone.
    Run(RunOrder),
    /// Print what lies in a folder, made of what several workers wrote down.
    Merge {
        folder: PathBuf,
        #[arg(short, long)]
        output: Option<PathBuf>,
    },
    /// Say whether an order can be used, and if not, what is wrong with it.
    Check { file: PathBuf },
    /// Print the JSON Schema of orders.
    Schema,
}

#[derive(Args)]
pub struct NewOrder {
    /// A development as JSON.
    #[arg(long)]
    pub development: Option<PathBuf>,
    /// A stock's id, or a stock file.
    #[arg(long)]
    pub stock: Option<String>,
    /// Lay a preset: the id of one that ships, or a file. May be given several times.
    #[arg(long = "preset", value_name = "ID|FILE")]
    pub presets: Vec<String>,
    /// How far of the way presets go, in per cent.
    #[arg(long, default_value_t = 100, value_parser = clap::value_parser!(u32).range(0..=100))]
    pub strength: u32,
    /// Cut to a format from the middle: 1x1, 4x5, 3x4, 5x7, 2x3, 6x7, 9x16, panorama.
    #[arg(long)]
    pub crop: Option<String>,
    /// Names of the files by a pattern: {name}, {roll} (the folder), {stock}, {date}, {number:03}, {counter}.
    #[arg(long, default_value = "{name} {stock}", value_name = "PATTERN")]
    pub name: String,
    /// What the order is called.
    #[arg(long = "called", default_value = "")]
    pub name_of_order: String,
    #[command(flatten)]
    pub file: OutputOptions,
    /// The file to write; printed where none is named.
    #[arg(short, long)]
    pub output: Option<PathBuf>,
}

#[derive(Args)]
pub struct RunOrder {
    /// The order.
    pub order: PathBuf,
    /// Pictures, or folders of them.
    #[arg(required = true)]
    pub files: Vec<PathBuf>,
    /// Where the pictures go.
    #[arg(long)]
    pub out: PathBuf,
    /// Only a share of the files: 2/5 is the second of five. All workers name all files.
    #[arg(long, value_name = "K/N", default_value = "1/1")]
    pub shard: Shard,
    /// Pictures at a time.
    #[arg(long, default_value_t = 1)]
    pub jobs: usize,
    /// Believe that a picture which is there with the right size is whole, without reading it.
    #[arg(long)]
    pub resume: bool,
    /// A picture that the order lays on others, found by its content. May be given several times.
    #[arg(long = "sheet", value_name = "FILE")]
    pub sheets: Vec<PathBuf>,
    /// A line of JSON for each file: what became of it.
    #[arg(long)]
    pub json: bool,
    /// Say nothing but what went wrong.
    #[arg(long)]
    pub quiet: bool,
    /// Most pixels of a picture, in millions.
    #[arg(long, default_value_t = 120, value_parser = clap::value_parser!(u64).range(1..=MOST_MEGAPIXELS))]
    pub max_megapixels: u64,
}

#[derive(Args)]
pub struct Look {
    /// A development as JSON.
    pub development: PathBuf,
    /// The table to write: it ends in .cube, or in .png for a Hald picture.
    #[arg(short, long)]
    pub output: PathBuf,
    /// Colours of each channel: 17, 33 or 65; 16 or 64 of a Hald picture.
    #[arg(long)]
    pub size: Option<u32>,
    /// The development's stock, where it is one of your own: its file.
    #[arg(long)]
    pub stock: Option<String>,
    /// Say nothing of what the table cannot carry.
    #[arg(long)]
    pub quiet: bool,
}

#[derive(Args)]
pub struct Edit {
    /// The picture.
    pub file: PathBuf,
    /// Where the finished picture goes, with the ending of its format; beside the picture where it is not said.
    #[arg(short, long)]
    pub output: Option<PathBuf>,
    /// The data folder.
    #[arg(long, default_value = "data")]
    pub data: PathBuf,
    /// The port to listen on; a free one where it is not said.
    #[arg(long, default_value_t = 0)]
    pub port: u16,
    /// Print the address instead of opening a browser.
    #[arg(long)]
    pub no_browser: bool,
}

#[derive(Args)]
pub struct Doctor {
    /// The data folder.
    #[arg(long, default_value = "data")]
    pub data: PathBuf,
    /// Tidy it: files of nobody are put away, half-written ones deleted.
    #[arg(long)]
    pub mend: bool,
    /// What was found as JSON.
    #[arg(long)]
    pub json: bool,
}

#[derive(Args)]
pub struct Serve {
    /// The address to listen on; loopback unless told otherwise.
    #[arg(long, default_value = "127.0.0.1")]
    pub address: std::net::IpAddr,
    #[arg(long, default_value_t = 8080)]
    pub port: u16,
    /// The data folder.
    #[arg(long, default_value = "data")]
    pub data: PathBuf,
    /// Render threads; one per core when absent.
    #[arg(long)]
    pub threads: Option<usize>,
    /// Memory that it keeps between requests, in MiB: pictures, developed tiles, what was prepared for them.
    #[arg(long, default_value_t = amber_lab::MEMORY_MIB, value_parser = clap::value_parser!(u32).range(64..=1 << 20))]
    pub memory: u32,
    /// A folder into which exports may go, besides the data folder's own. May be given several times.
    #[arg(long = "folder", value_name = "FOLDER")]
    pub folders: Vec<PathBuf>,
    /// The address of a reverse proxy whose forwarded headers are believed. May be given several times.
    #[arg(long = "trusted-proxy", value_name = "ADDRESS")]
    pub proxies: Vec<std::net::IpAddr>,
    /// A folder that is watched: pictures that settle in it are developed by --hand-off-order and laid in
    /// --hand-off-out.
    #[arg(long, value_name = "FOLDER", requires_all = ["hand_off_order", "hand_off_out"])]
    pub hand_off: Option<PathBuf>,
    /// The order of the hand-off folder: a file, or the name of an order that is kept.
    #[arg(long, value_name = "ORDER", requires = "hand_off")]
    pub hand_off_order: Option<String>,
    /// Where the pictures of the hand-off folder are laid.
    #[arg(long, value_name = "FOLDER", requires = "hand_off")]
    pub hand_off_out: Option<PathBuf>,
    /// A host name under which it may be reached, besides loopback. May be given several times.
    #[arg(long = "host")]
    pub hosts: Vec<String>,
    /// Most pixels of a picture, in millions.
    #[arg(long, default_value_t = 120, value_parser = clap::value_parser!(u64).range(1..=MOST_MEGAPIXELS))]
    pub max_megapixels: u64,
    /// Largest upload, in MiB.
    #[arg(long, default_value_t = 512, value_parser = clap::value_parser!(u32).range(1..=MOST_UPLOAD_MIB))]
    pub max_upload_mib: u32,
    /// A file whose first line is the password that everybody is asked for, or its hash as `amber-grain password`
    /// prints it. Needed beyond loopback.
    #[arg(long)]
    pub password_file: Option<PathBuf>,
}
