//! Documents from files: bounded before they are read, their errors told with the file.

use std::path::Path;

use amber_core::{Development, Preset, Stock};
use amber_lab::LabOrder;
use amber_matching::chart::ChartFile;

/// Largest development, several hundred thousand points of strokes; and largest preset file.
const MOST_DEVELOPMENT_BYTES: u64 = 32 << 20;
/// Largest stock file, one with the colours of a look in it.
const MOST_STOCK_BYTES: u64 = 1 << 20;

/// Largest chart.
const MOST_CHART_BYTES: u64 = 256 << 10;

/// The text of a file that is no larger than `most` bytes; `what` it is said to be.
fn text(file: &Path, most: u64, what: &str) -> Result<String, String> {
    let shown = file.display();
    let size = std::fs::metadata(file).map_err(|e| format!("{shown} cannot be read: {e}"))?.len();
    if size > most {
        let bound = if most < 1 << 20 { format!("{} KiB", most >> 10) } else { format!("{} MiB", most >> 20) };
        return Err(format!("{shown} is larger than {bound}: it is no {what}"));
    }
    std::fs::read_to_string(file).map_err(|e| format!("{shown} cannot be read: {e}"))
}

pub fn development(file: &Path) -> Result<Development, String> {
    let text = text(file, MOST_DEVELOPMENT_BYTES, "development")?;
    Development::from_json(&text).map_err(|e| format!("{}: {e}", file.display()))
}

pub fn stock(file: &Path) -> Result<Stock, String> {
    let text = text(file, MOST_STOCK_BYTES, "stock file")?;
    Stock::from_json(&text).map_err(|e| format!("{}: {e}", file.display()))
}

/// A chart as CSV.
pub fn chart(file: &Path) -> Result<ChartFile, String> {
    let text = text(file, MOST_CHART_BYTES, "chart")?;
    ChartFile::from_csv(&text).map_err(|e| format!("{}: {e}", file.display()))
}

/// One preset, or those of a bundle.
pub fn presets(file: &Path) -> Result<Vec<Preset>, String> {
    let text = text(file, MOST_DEVELOPMENT_BYTES, "preset file")?;
    Preset::read(&text).map_err(|e| format!("{}: {e}", file.display()))
}

pub fn order(file: &Path) -> Result<LabOrder, String> {
    let text = text(file, MOST_DEVELOPMENT_BYTES, "lab order")?;
    LabOrder::from_json(&text).map_err(|e| format!("{}: {e}", file.display()))
}
