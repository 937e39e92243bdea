//! The paper as chosen: surface, tone and depth of black.
//!
//! Surface scatters light and so limits the deepest black; tone is a tint of the base and, in black and white, of the
//! silver. Values are invented; their order is common practice.

use super::settings::{FinishSettings, PaperChoice};
use crate::stock::Stock;
use crate::stock::material::{GradedPaper, PrintMaterial, graded_paper, print_material};

/// Greatest density of a surface relative to gloss.
fn surface_factor(surface: &str) -> f64 {
    match surface {
        "pearl" => 0.92,
        "matt" => 0.76,
        _ => 1.0,
    }
}

/// The black-and-white paper of a development.
pub fn silver_paper(stock: &Stock, choice: &PaperChoice, finish: &FinishSettings) -> Option<GradedPaper> {
    let name = stock.paper.as_deref()?;
    let own = graded_paper(name)?;
    let mut paper = own.clone();
    if choice.surface.is_some() || choice.tone.is_some() {
        let own_surface = if name.starts_with("matt") { "matt" } else { "gloss" };
        let own_tone = ["warm", "cool"].into_iter().find(|t| name.ends_with(t)).unwrap_or("neutral");
        let surface = choice.surface.as_deref().unwrap_or(own_surface);
        let tone = choice.tone.as_deref().unwrap_or(own_tone);
        // the papers that exist by name, else a gloss paper of that tone with another surface
        let named = match surface {
            "gloss" => graded_paper(&format!("glossy-{tone}")),
            "matt" => graded_paper(&format!("matt-{tone}")),
            _ => None,
        };
        paper = match named {
            Some(paper) => paper.clone(),
            None => {
                let gloss = graded_paper(&format!("glossy-{tone}"))?;
                GradedPaper { dmax: gloss.dmax * surface_factor(surface), ..gloss.clone() }
            }
        };
    }
    if let Some(black) = finish.black_density {
        paper.dmax = black;
    }
    Some(paper)
}

/// Greatest density of a black-and-white positive on clear film.
const CLEAR_FILM_DMAX: f64 = 2.9;

/// A black-and-white positive on clear film: the paper's silver without its paper.
pub fn clear_silver_film(stock: &Stock, finish: &FinishSettings) -> Option<GradedPaper> {
    let image = graded_paper(stock.paper.as_deref()?)?.image.clone();
    let dmax = finish.black_density.unwrap_or(CLEAR_FILM_DMAX);
    Some(GradedPaper { dmax, base: Vec::new(), flat: 0.02, image })
}

/// The colour paper of a development; `fallback` where the stock has none.
pub fn colour_paper(
    stock: &Stock,
    fallback: &str,
    choice: &PaperChoice,
    finish: &FinishSettings,
) -> Option<PrintMaterial> {
    let name = choice.material.as_deref().or(stock.print.as_deref()).unwrap_or(fallback);
    let mut material = print_material(name)?.clone();
    let mut factor = choice.surface.as_deref().map_or(1.0, surface_factor);
    if let Some(black) = finish.black_density {
        factor = black / material.curves()[1].dmax;
    }
    material.curve = material.curve.map(|_, s| crate::stock::CurveShape { dmax: s.dmax * factor, ..s });
    match choice.tone.as_deref() {
        Some("warm") => material.base.push([410.0, 70.0, 0.05]),
        Some("cool") => material.base.push([620.0, 60.0, 0.03]),
        _ => {}
    }
    Some(material)
}
