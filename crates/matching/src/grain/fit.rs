//! The grain of a stock by which a print shows a measured noise.
//!
//! Greys are rendered with the frame's film, print and enlargement, their noise is measured as the reference's was, and
//! granularity, size, roughness, colour share and the weights of shadows and lights are moved until both are the same
//! (least squares). Where the measure does not tell, a value stays at the stock's own.

use amber_core::controls::{Control, Kind, Value};
use amber_core::render::Renderer;
use amber_core::stations::film::settings::{
    COLOUR_SHARE, GRAIN_HIGHLIGHTS, GRAIN_MIDDLE, GRAIN_SHADOWS, GRAIN_SIZE, GRANULARITY, ROUGHNESS,
};
use amber_core::stations::scene::metering::on_grid;
use amber_core::{Development, Stock};

use super::strips::{Enlarged, Strips};
use super::{GrainMeasure, LAGS};
use crate::error::MatchError;
use crate::numeric::{Unknown, least_squares};

/// The values that are set, in the order of the search.
pub const CONTROLS: [&Control; 7] =
    [&GRANULARITY, &GRAIN_SIZE, &ROUGHNESS, &COLOUR_SHARE, &GRAIN_SHADOWS, &GRAIN_MIDDLE, &GRAIN_HIGHLIGHTS];
/// Rounds of the search.
const ROUNDS: usize = 9;
/// Noise below which there is none: half a step of 8 bits.
const NONE: f64 = 0.5 / 255.0;
/// Granularity at which a search begins that finds the grain off.
const LEAST_START: f64 = 4.0;

/// What the match of a grain says.
#[derive(Debug, Clone)]
pub struct GrainMatch {
    /// The development with the grain that was found.
    pub proposed: Development,
    /// The noise that is wanted of the grain: the reference's, less what the picture has of its own.
    pub aim: GrainMeasure,
    /// The noise of the print as proposed, at the tones of the aim.
    pub reached: GrainMeasure,
    /// The same as it was.
    pub before: GrainMeasure,
}

/// Finds the grain by which the print of a development shows the noise of a reference; `own` is the noise that the
/// print has without grain.
pub fn match_grain(
    renderer: &Renderer,
    stock: &Stock,
    development: &Development,
    enlarged: Enlarged,
    reference: &GrainMeasure,
    own: Option<&GrainMeasure>,
) -> Result<GrainMatch, MatchError> {
    let aim = own.map_or_else(|| reference.clone(), |own| reference.less(own));
    let strips = Strips::new(renderer, stock, enlarged);
    let greys = Strips::of_greys(development);
    let at_aim = |measure: &GrainMeasure| GrainMeasure {
        tones: aim
            .tones
            .iter()
            .filter_map(|t| Some(super::ToneNoise { blocks: t.blocks, ..measure.at(t.tone)? }))
            .collect(),
    };
    let before = at_aim(&strips.measured(&greys)?);
    let mut proposed = development.clone();
    proposed.off.remove("film.grain");
    if aim.sigma() < NONE {
        proposed.set(stock, GRANULARITY.id, Value::Number(0.0))?;
        let reached = at_aim(&strips.measured(&Strips::of_greys(&proposed))?);
        return Ok(GrainMatch { proposed, aim, reached, before });
    }
    let search = Search { stock, strips: &strips, greys: Strips::of_greys(&proposed), aim: &aim };
    let found = search.run();
    for (control, value) in search.controls().zip(found) {
        proposed.set(stock, control.id, Value::Number(on_grid(control, value)))?;
    }
    plainer(&mut proposed, stock)?;
    let reached = at_aim(&strips.measured(&Strips::of_greys(&proposed))?);
    Ok(GrainMatch { proposed, aim, reached, before })
}

/// The same grain with the middle's weight as near to the stock's own as the other weights allow: less granularity with
/// larger weights shows the same.
fn plainer(proposed: &mut Development, stock: &Stock) -> Result<(), MatchError> {
    let weights = [&GRAIN_SHADOWS, &GRAIN_MIDDLE, &GRAIN_HIGHLIGHTS];
    let Kind::Scalar { high, .. } = GRAIN_MIDDLE.kind else { return Ok(()) };
    let values = proposed.written(stock);
    let now = weights.map(|w| values.number(w));
    let own = GRAIN_MIDDLE.own_value(stock).as_number().unwrap_or(1.0);
    let largest = now.iter().copied().fold(0.05, f64::max);
    let factor = (own / now[1].max(0.05)).min(high / largest);
    let granularity = values.number(&GRANULARITY) / factor;
    let Kind::Scalar { high: most, .. } = GRANULARITY.kind else { return Ok(()) };
    if (factor - 1.0).abs() < 0.08 || granularity > most {
        return Ok(());
    }
    let moved = weights.into_iter().zip(now.map(|w| (w * factor).min(high)));
    for (control, value) in moved.chain([(&GRANULARITY, granularity)]) {
        proposed.set(stock, control.id, Value::Number(on_grid(control, value)))?;
    }
    Ok(())
}

struct Search<'a> {
    stock: &'a Stock,
    strips: &'a Strips<'a>,
    greys: Development,
    aim: &'a GrainMeasure,
}

impl Search<'_> {
    /// Weights by tone are told by tones that lie apart.
    fn by_tone(&self) -> bool {
        let tones = &self.aim.tones;
        tones.len() >= 3 && tones[tones.len() - 1].tone - tones[0].tone > 0.35
    }

    fn controls(&self) -> impl Iterator<Item = &'static Control> {
        let by_tone = self.by_tone();
        let stock = self.stock;
        let is_tone = |c: &Control| [GRAIN_SHADOWS.id, GRAIN_MIDDLE.id, GRAIN_HIGHLIGHTS.id].contains(&c.id);
        CONTROLS.into_iter().filter(move |c| (c.applies)(stock) && (by_tone || !is_tone(c)))
    }

    /// What is searched of a control: sizes and amounts by their ratios.
    fn is_ratio(control: &Control) -> bool {
        control.id == GRANULARITY.id || control.id == GRAIN_SIZE.id
    }

    fn run(&self) -> Vec<f64> {
        let unknown = |control: &'static Control| {
            let now = self.greys.written(self.stock).number(control);
            let Kind::Scalar { low, high, .. } = control.kind else {
                return Unknown { start: now, bounds: [now; 2], step: 1.0 };
            };
            if Self::is_ratio(control) {
                let start = now.max(if control.id == GRANULARITY.id { LEAST_START } else { low });
                return Unknown { start: start.ln(), bounds: [low.max(0.5).ln(), high.ln()], step: 0.06 };
            }
            Unknown { start: now, bounds: [low, high], step: 0.06 }
        };
        let unknowns: Vec<Unknown> = self.controls().map(unknown).collect();
        let starts: Vec<f64> = unknowns.iter().map(|u| u.start).collect();
        let found = least_squares(unknowns, ROUNDS, |at| self.residuals(at, &starts).ok());
        self.controls().zip(found).map(|(c, v)| if Self::is_ratio(c) { v.exp() } else { v }).collect()
    }

    fn residuals(&self, at: &[f64], starts: &[f64]) -> Result<Vec<f64>, MatchError> {
        let mut development = self.greys.clone();
        for (control, v) in self.controls().zip(at) {
            let value = if Self::is_ratio(control) { v.exp() } else { *v };
            let Kind::Scalar { low, high, .. } = control.kind else { continue };
            development.set(self.stock, control.id, Value::Number(value.max(low).min(high)))?;
        }
        let rendered = self.strips.measured(&development)?;
        let mut residuals = Vec::new();
        let mut model = GrainMeasure { tones: Vec::new() };
        let all: f64 = self.aim.tones.iter().map(|t| t.blocks as f64).sum();
        for tone in &self.aim.tones {
            let Some(shown) = rendered.at(tone.tone) else { continue };
            let weight = 3.0 * (tone.blocks as f64 / all).sqrt();
            residuals.push(weight * (shown.sigma().max(1e-4) / tone.sigma().max(NONE)).ln());
            model.tones.push(super::ToneNoise { blocks: tone.blocks, ..shown });
        }
        let (ours, wanted) = (model.correlation(), self.aim.correlation());
        residuals.extend((1..LAGS).map(|lag| 4.0 * (ours[lag] - wanted[lag])));
        if self.stock.layers() == 3 {
            let (ours, wanted) = (model.between(), self.aim.between());
            residuals.extend((0..3).map(|k| ours[k] - wanted[k]));
            let ratio = |k: usize| (model.sigma_of(k).max(1e-4) / self.aim.sigma_of(k).max(NONE)).ln();
            residuals.extend((0..3).map(|k| 0.7 * ratio(k)));
        }
        let stays = self.controls().zip(at.iter().zip(starts)).map(|(control, (now, start))| {
            let hold = match control.id {
                id if id == GRANULARITY.id => 0.0,
                id if id == ROUGHNESS.id => 0.15,
                id if id == GRAIN_SIZE.id || id == COLOUR_SHARE.id => 0.05,
                _ => 0.25,
            };
            hold * (now - start)
        });
        residuals.extend(stays);
        Ok(residuals)
    }
}
