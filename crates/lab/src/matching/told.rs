//! What a match found, as JSON: scripts are told the same by the command line and over HTTP.

use amber_core::Stock;
use amber_core::controls::Control;
use amber_matching::chart::{Fit, PatchResidual};
use amber_matching::grain::{CONTROLS, GrainMatch, GrainMeasure, ToneNoise};
use amber_matching::reference::{Proposal, Ranked, ReferenceMatch};
use amber_matching::seat::{Reading, Seating};
use serde_json::{Map, Value as Json, json};

/// Stocks that are told.
const TOLD: usize = 8;

/// Stocks and proposals by which a frame comes to look like a reference.
pub fn look(found: &ReferenceMatch) -> Json {
    let stock = |r: &Ranked| json!({ "id": r.stock.id, "name": r.stock.name(), "badness": r.badness });
    json!({
        "before": found.before.map(|b| b.0),
        "stocks": found.ranked.iter().take(TOLD).map(stock).collect::<Vec<_>>(),
        "proposals": found.proposals.iter().map(proposal).collect::<Vec<_>>(),
    })
}

fn proposal(proposal: &Proposal) -> Json {
    let values: Map<String, Json> = proposal.moved.iter().map(|m| (m.control.id.into(), json!(m.value))).collect();
    json!({
        "way": proposal.way.id(),
        "stock": proposal.stock.id,
        "words": proposal.words(),
        "distance": proposal.distance.map(|d| d.0),
        "classes": proposal.distance.map(|d| d.1),
        "values": values,
        "development": proposal.development,
    })
}

/// Grain that shows the noise of a reference.
pub fn grain(found: &GrainMatch, stock: &Stock) -> Json {
    let values = found.proposed.written(stock);
    let of = |c: &&'static Control| (c.id.to_owned(), json!(values.value(c)));
    let values: Map<String, Json> = CONTROLS.iter().filter(|c| (c.applies)(stock)).map(of).collect();
    json!({
        "aim": measure(&found.aim),
        "before": measure(&found.before),
        "reached": measure(&found.reached),
        "values": values,
    })
}

fn measure(m: &GrainMeasure) -> Json {
    let tone = |t: &ToneNoise| json!({ "tone": t.tone, "sigma": t.sigma(), "sigmas": t.sigmas() });
    json!({
        "sigma": m.sigma(),
        "length_px": m.length_px(),
        "correlation": m.correlation(),
        "between_channels": m.between(),
        "tones": m.tones.iter().map(tone).collect::<Vec<_>>(),
    })
}

/// A frame seated on its stock.
pub fn seating(found: &Seating) -> Json {
    let reading = |r: &Reading| json!({ "black": r.black, "bare": r.bare, "range": r.range });
    json!({
        "development": found.proposed,
        "notes": found.notes,
        "face": found.face,
        "before": reading(&found.before),
        "after": reading(&found.after),
        "mid_grey_off_zones": found.mid_grey_off_zones,
        "grey": found.grey,
        "grain_arc_minutes": found.seen.map(|s| s.grain_arc_minutes),
        "halation_arc_minutes": found.seen.map(|s| s.halation_arc_minutes),
    })
}

/// A stock that was fitted to a chart.
pub fn fitted(found: &Fit) -> Json {
    let layers =
        found.layers.iter().map(|l| json!({ "minimum": l.minimum, "residuals": l.residuals, "outliers": l.outliers }));
    let patch = |p: &PatchResidual| {
        json!({
            "name": p.name,
            "reference": p.reference,
            "measured": p.measured,
            "fitted": p.fitted,
            "distance": p.distance,
            "outlier": p.outlier,
        })
    };
    json!({
        "stock": found.stock.id,
        "density_off": found.density_off(),
        "colour_off": found.colour_off(),
        "seen_by": found.seen_by,
        "dye_strengths": found.dye_strengths,
        "layers": layers.collect::<Vec<_>>(),
        "patches": found.patches.iter().map(patch).collect::<Vec<_>>(),
        "notes": found.notes,
    })
}
