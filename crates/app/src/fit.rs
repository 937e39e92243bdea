//! `amber-grain fit`: a stock from a chart.

use amber_lab::told;
use amber_matching::chart::fit;

use crate::arguments::Fit;
use crate::opening::written;
use crate::{documents, files, output, sentence};

pub fn run(arguments: &Fit) -> Result<(), String> {
    let mut chart = documents::chart(&arguments.chart)?;
    if let Some(name) = &arguments.name {
        chart.name.clone_from(name);
    }
    let found = fit(&chart, &|| false).map_err(|e| sentence::of(&e))?;
    written(&arguments.output, &found.stock.to_json())?;
    if arguments.json {
        return output::print(&told::fitted(&found).to_string());
    }
    if arguments.quiet || files::is_stream(&arguments.output) {
        return Ok(());
    }
    output::print(&format!("Densities are met within {:.3}.", found.density_off()))?;
    if let Some(off) = found.colour_off() {
        output::print(&format!("Patches are met within {off:.2} CIEDE2000 in the mean:"))?;
    }
    for patch in &found.patches {
        if let Some(distance) = patch.distance {
            output::print(&format!(
                "  {:<16} {distance:.2}{}",
                patch.name,
                if patch.outlier { "  left out" } else { "" }
            ))?;
        }
    }
    found.notes.iter().try_for_each(|note| output::print(note))
}
