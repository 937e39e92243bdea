//! `amber-grain match`: stock, tuning and grain for a reference.

use std::sync::Arc;

use amber_core::picture::reduce::size_for_long_edge;
use amber_core::render::Watch;
use amber_core::{Catalogue, Development, Source, Stock};
use amber_files::Limits;
use amber_lab::told;
use amber_matching::grain::{Enlarged, GrainMatch, GrainMeasure, match_grain, own_noise};
use amber_matching::reference::{Asked, Proposal, ReferenceMatch, match_reference};
use serde_json::{Value as Json, json};

use crate::arguments::{Match, Only};
use crate::develop::region_of;
use crate::opening::{Begun, picture, written};
use crate::{files, output, sentence};

fn sentenced(error: impl std::error::Error + 'static) -> String {
    sentence::of(&error)
}

pub fn run(arguments: &Match) -> Result<(), String> {
    let limits = Limits { megapixels: arguments.max_megapixels };
    let begun = Begun::with(&arguments.input, arguments.development.as_deref(), arguments.stock.as_deref(), limits)?;
    let (reference, _, _) = picture(&arguments.reference, limits, &begun.renderer)?;
    let look = match arguments.only {
        Only::Grain => None,
        Only::Colour | Only::All => Some(look(arguments, &begun, &reference)?),
    };
    let (mut development, stock) = match look.as_ref().and_then(|l| l.proposals.first()) {
        Some(best) => (best.development.clone(), best.stock.clone()),
        None => (begun.development.clone(), begun.stock.clone()),
    };
    // of the whole of a reference the grain is already met as far as its own size goes
    let with_grain = arguments.only == Only::Grain || arguments.only == Only::All && arguments.patch.is_some();
    let grain = with_grain.then(|| grain(arguments, &begun, &reference, &development, &stock)).transpose()?;
    if let Some(found) = &grain {
        development = found.proposed.clone();
    }
    written(&arguments.output, &development.to_json())?;
    if arguments.json {
        let mut told = look.as_ref().map_or_else(|| json!({}), told::look);
        told["grain"] = grain.as_ref().map_or(Json::Null, |g| told::grain(g, &stock));
        return output::print(&told.to_string());
    }
    if arguments.quiet || files::is_stream(&arguments.output) {
        return Ok(());
    }
    for proposal in look.iter().flat_map(|l| &l.proposals) {
        output::print(&line_of(proposal))?;
    }
    if let Some(grain) = &grain {
        let noise = |m: &GrainMeasure| format!("{:.4}, {:.2} pixels", m.sigma(), m.length_px());
        let (aim, reached) = (noise(&grain.aim), noise(&grain.reached));
        output::print(&format!("Grain: the reference has a noise of {aim}; the print {reached}."))?;
    }
    Ok(())
}

fn look(arguments: &Match, begun: &Begun, reference: &Source) -> Result<ReferenceMatch, String> {
    let stocks: Vec<Arc<Stock>> = match arguments.stock {
        Some(_) => vec![begun.stock.clone()],
        None => Catalogue::all().to_vec(),
    };
    let asked = Asked {
        renderer: &begun.renderer,
        frame: &begun.small,
        development: &begun.development,
        stock: &begun.stock,
        reference,
        stocks: &stocks,
        watch: Watch::NONE,
    };
    match_reference(&asked).map_err(sentenced)
}

fn grain(
    arguments: &Match,
    begun: &Begun,
    reference: &Source,
    development: &Development,
    stock: &Arc<Stock>,
) -> Result<GrainMatch, String> {
    let patch = arguments.patch.as_deref().map(region_of).transpose()?.unwrap_or_else(|| reference.region());
    let (renderer, full) = (&begun.renderer, &begun.full);
    let aim = renderer.pool().install(|| GrainMeasure::of(reference, patch)).map_err(sentenced)?;
    let long_edge = arguments.long_edge.unwrap_or(u32::MAX);
    let (width, _) = size_for_long_edge(long_edge, full.full_width, full.full_height);
    let scale = f64::from(width) / f64::from(full.full_width);
    let own = own_noise(full.facts.noise(), scale, stock, development).map_err(sentenced)?;
    let enlarged = Enlarged { film: full.film, scale };
    match_grain(renderer, stock, development, enlarged, &aim, own.as_ref()).map_err(sentenced)
}

fn line_of(proposal: &Proposal) -> String {
    let distance = proposal.distance.map_or(String::new(), |(d, n)| format!(" ({d:.1} CIEDE2000, {n} classes)"));
    format!("{}: {}{distance}", proposal.way.label(), proposal.words())
}
