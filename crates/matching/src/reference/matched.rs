//! Proposals by which a frame comes to look like a reference.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use amber_core::controls::{Control, Value};
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::film::settings::GRANULARITY;
use amber_core::stations::scene::metering::on_grid;
use amber_core::{CoreError, Development, Source, Stock, stations};
use rayon::prelude::*;

use super::energy::{Explainer, log_ratio, unexplained_grain};
use super::search::{Found, Search, Way};
use crate::colour::{Classes, Palette};
use crate::error::MatchError;
use crate::grain::{Enlarged, GrainMeasure, Strips};
use crate::numeric::source_of_16_bit;

/// Stocks that are looked at closely, of those that explain the reference best as they are.
const CLOSELY: usize = 5;
/// Lightness that a reference must span.
const LEAST_RANGE: f64 = 25.0;
/// Colours that a reference must have.
const LEAST_COLOURS: usize = 6;
/// By how much the grain of a proposal may differ, as ln of its noise, before it is moved, and how far it is moved.
const GRAIN_ALIKE: f64 = 0.12;
const GRAIN_MOVED: f64 = 0.7;
/// A film that sees infrared is seldom in the camera; a print of one colour is seldom of a colour film.
const SELDOM: f64 = 0.7;
const COLOURED: f64 = 5.0;
/// What it costs an answer to need a value, beside one that does not: the plainest that explains as much comes first.
const NEEDED: f64 = 0.8;
/// Another stock is preferred for another kind of answer where it explains the reference hardly worse.
const VARIETY: f64 = 0.5;

/// A stock and how badly it explains the reference as it is.
#[derive(Debug, Clone)]
pub struct Ranked {
    /// The stock.
    pub stock: Arc<Stock>,
    /// Less is better; differences count.
    pub badness: f64,
}

/// A value that a proposal sets.
#[derive(Debug, Clone)]
pub struct Moved {
    /// The control.
    pub control: &'static Control,
    /// Its value.
    pub value: Value,
}

/// One answer.
#[derive(Debug, Clone)]
pub struct Proposal {
    /// Its kind.
    pub way: Way,
    /// The stock.
    pub stock: Arc<Stock>,
    /// The frame's development with it.
    pub development: Development,
    /// The values that are not the stock's own.
    pub moved: Vec<Moved>,
    /// How badly it explains the reference; less is better.
    pub badness: f64,
    /// Median CIEDE2000 of the classes of tone and hue that this frame's print and the reference share, and how many
    /// there are.
    pub distance: Option<(f64, usize)>,
}

impl Proposal {
    /// In a line: the stock, then each value.
    pub fn words(&self) -> String {
        let of = |m: &Moved| format!("{} {}", m.control.full_label().to_lowercase(), m.control.written(&m.value));
        std::iter::once(self.stock.name()).chain(self.moved.iter().map(of)).collect::<Vec<_>>().join(", ")
    }
}

/// What the match with a reference says.
#[derive(Debug, Clone)]
pub struct ReferenceMatch {
    /// All stocks, the nearest first.
    pub ranked: Vec<Ranked>,
    /// The best answer first.
    pub proposals: Vec<Proposal>,
    /// Distance of the print as it is.
    pub before: Option<(f64, usize)>,
}

/// What is asked of a match.
pub struct Asked<'a> {
    /// Renders.
    pub renderer: &'a Renderer,
    /// The frame, small, framed and smoothed as its development asks for.
    pub frame: &'a Scaled,
    /// The frame's development.
    pub development: &'a Development,
    /// Its stock.
    pub stock: &'a Stock,
    /// The reference.
    pub reference: &'a Source,
    /// The stocks among which is looked.
    pub stocks: &'a [Arc<Stock>],
    /// Told steps done and all steps; asked whether it is given up.
    pub watch: Watch<'a>,
}

struct Work<'a> {
    asked: &'a Asked<'a>,
    explainer: Explainer,
    palette: Palette,
    noise: Option<GrainMeasure>,
    enlarged: Enlarged,
    done: AtomicUsize,
    all: usize,
}

/// Finds stock and tuning by which a frame comes to look like a reference.
pub fn match_reference(asked: &Asked) -> Result<ReferenceMatch, MatchError> {
    let palette = asked.renderer.pool().install(|| Palette::of(asked.reference));
    let classes = Classes::of(&palette);
    enough(&palette, &classes)?;
    let closely = CLOSELY.min(asked.stocks.len());
    let work = Work {
        asked,
        explainer: Explainer::default(),
        noise: GrainMeasure::of(asked.reference, asked.reference.region()).ok(),
        palette,
        enlarged: Enlarged { film: [asked.reference.width(), asked.reference.height()], scale: 1.0 },
        done: AtomicUsize::new(0),
        all: asked.stocks.len() + 3 * closely + 3,
    };
    let ranked = work.ranked()?;
    let found = asked.renderer.pool().install(|| work.closely(&ranked[..closely]))?;
    let mut proposals = Vec::new();
    for (way, ranked, found) in chosen(found) {
        proposals.push(work.proposal(way, &ranked, found, &classes)?);
        work.step()?;
    }
    proposals.sort_by(|a, b| a.badness.total_cmp(&b.badness));
    let before = work.distance(asked.stock, asked.development, &classes)?;
    Ok(ReferenceMatch { ranked, proposals, before })
}

/// Refuses a reference that tells nothing.
fn enough(palette: &Palette, classes: &Classes) -> Result<(), MatchError> {
    let [black, white] = classes.range();
    if white - black < LEAST_RANGE {
        let why =
            format!("its tones reach only from L* {black:.0} to {white:.0}. Use a picture with dark and light parts");
        return Err(MatchError::TooLittle { why });
    }
    if palette.colours.len() < LEAST_COLOURS {
        let why = format!("it has {} colours. Use a photograph", palette.colours.len());
        return Err(MatchError::TooLittle { why });
    }
    Ok(())
}

impl Work<'_> {
    fn step(&self) -> Result<(), CoreError> {
        let done = self.done.fetch_add(1, Ordering::Relaxed) + 1;
        (self.asked.watch.progress)(done.min(self.all), self.all);
        if (self.asked.watch.abandoned)() { Err(CoreError::Abandoned) } else { Ok(()) }
    }

    /// All stocks as they are.
    fn ranked(&self) -> Result<Vec<Ranked>, MatchError> {
        let explained = |stock: &Arc<Stock>| self.explainer.explained(&self.palette, stock, &Development::new(stock));
        let stocks = self.asked.stocks;
        let explained: Result<Vec<_>, CoreError> =
            self.asked.renderer.pool().install(|| stocks.par_iter().map(explained).collect());
        let monochrome = self.palette.is_monochrome();
        let mut ranked = Vec::new();
        for (stock, explained) in stocks.iter().zip(explained?) {
            let grain = match &self.noise {
                Some(noise) => unexplained_grain(stock, &self.own_grain(stock)?, noise),
                None => 0.0,
            };
            let seldom = if stock.nir.is_some() { SELDOM } else { 0.0 };
            let coloured = if monochrome && stock.layers() == 3 { COLOURED } else { 0.0 };
            let badness = explained.badness() + grain + seldom + coloured;
            ranked.push(Ranked { stock: stock.clone(), badness });
            self.step()?;
        }
        ranked.sort_by(|a, b| a.badness.total_cmp(&b.badness));
        Ok(ranked)
    }

    /// The noise of a stock's own grain at the size of the reference.
    fn own_grain(&self, stock: &Stock) -> Result<GrainMeasure, MatchError> {
        let greys = Strips::of_greys(&Development::new(stock));
        Strips::new(self.asked.renderer, stock, self.enlarged).measured(&greys)
    }

    /// The best of every kind on some stocks. What the grain says of a stock stays said.
    fn closely(&self, ranked: &[Ranked]) -> Result<Vec<(Way, Ranked, Found)>, CoreError> {
        let of = |ranked: &Ranked, way: Way| {
            let (stock, abandoned) = (&ranked.stock, self.asked.watch.abandoned);
            let search = Search { explainer: &self.explainer, reference: &self.palette, stock, abandoned };
            let own = self.explainer.explained(&self.palette, stock, &Development::new(stock))?.badness();
            let mut found = search.best(way)?;
            found.energy += ranked.badness - own;
            self.step()?;
            Ok((way, ranked.clone(), found))
        };
        let all = ranked.par_iter().flat_map(|r| Way::ALL.into_par_iter().map(move |way| of(r, way)));
        all.collect()
    }

    fn proposal(&self, way: Way, ranked: &Ranked, found: Found, classes: &Classes) -> Result<Proposal, MatchError> {
        let stock = &ranked.stock;
        let mut development = self.asked.development.clone();
        development.change_stock(stock);
        let mut values = found.development.values.clone();
        if let Some(granularity) = self.granularity(stock)? {
            values.insert(GRANULARITY.id.into(), Value::Number(granularity));
        }
        let mut moved = Vec::new();
        for (id, value) in values {
            development.set(stock, &id, value.clone())?;
            moved.push(Moved { control: stations::find(&id)?, value });
        }
        let distance = self.distance(stock, &development, classes)?;
        let badness = found.energy + NEEDED * found.development.values.len() as f64;
        Ok(Proposal { way, stock: stock.clone(), development, moved, badness, distance })
    }

    /// The granularity by which a stock's grain is as strong as the reference's noise, where that is of its kind.
    fn granularity(&self, stock: &Stock) -> Result<Option<f64>, MatchError> {
        let Some(noise) = &self.noise else { return Ok(None) };
        let own = self.own_grain(stock)?;
        let of_its_kind = (own.length_px() / noise.length_px()).ln().abs() < 0.35;
        let Some(more) = log_ratio(&own, noise).filter(|_| of_its_kind) else { return Ok(None) };
        let moved = (GRAIN_ALIKE..GRAIN_MOVED).contains(&more.abs());
        Ok(moved.then(|| on_grid(&GRANULARITY, stock.grain.granularity * (-more).exp())))
    }

    /// How far the print of the frame is from the reference.
    fn distance(
        &self,
        stock: &Stock,
        development: &Development,
        classes: &Classes,
    ) -> Result<Option<(f64, usize)>, MatchError> {
        let frame = self.asked.frame;
        let request = RenderRequest {
            scaled: frame,
            stock,
            development,
            region: frame.source.region(),
            grain: GrainShown::Averaged,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let watch = Watch { progress: &|_, _| {}, ..self.asked.watch };
        let shown = self.asked.renderer.display_16_bit(&request, watch)?;
        let print = source_of_16_bit(frame.source.width(), frame.source.height(), &shown);
        Ok(Classes::of(&Palette::of(&print)).apart(classes))
    }
}

/// One answer of every kind. A second of the same stock gives way to another stock that is hardly worse.
fn chosen(found: Vec<(Way, Ranked, Found)>) -> Vec<(Way, Ranked, Found)> {
    let mut taken: Vec<(Way, Ranked, Found)> = Vec::new();
    let mut ways: Vec<(Way, f64)> = Way::ALL
        .into_iter()
        .map(|way| (way, found.iter().filter(|f| f.0 == way).map(|f| f.2.energy).fold(f64::INFINITY, f64::min)))
        .collect();
    ways.sort_by(|a, b| a.1.total_cmp(&b.1));
    for (way, _) in ways {
        let again = |f: &&(Way, Ranked, Found)| taken.iter().any(|t| t.1.stock.id == f.1.stock.id);
        let badness = |f: &(Way, Ranked, Found)| f.2.energy + if again(&f) { VARIETY } else { 0.0 };
        // something of its kind is in it, where anything of that kind acts on any of the stocks
        let of_kind =
            |f: &&(Way, Ranked, Found)| f.0 == way && (way == Way::Plain || !f.2.development.values.is_empty());
        let any = found.iter().any(|f| of_kind(&f));
        let best = found
            .iter()
            .filter(|f| f.0 == way && (!any || of_kind(f)))
            .min_by(|a, b| badness(a).total_cmp(&badness(b)));
        taken.extend(best.cloned());
    }
    taken
}
