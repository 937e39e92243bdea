//! Proposals by which a frame comes to look like a reference.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use amber_core::colour::lab::Lab;
use amber_core::controls::{Control, Value};
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::{CoreError, Development, Source, Stock, stations};
use rayon::prelude::*;

use super::consensus::Consensus;
use super::energy::Explainer;
use super::of_place::OfPlace;
use super::search::{Found, Search, Way};
use super::unexplained_grain::unexplained_grain;
use crate::colour::{Classes, Palette, PointPrint};
use crate::error::MatchError;
use crate::numeric::source_of_16_bit;

/// Stocks that are looked at closely, of those that explain the reference best as they are.
const CLOSELY: usize = 5;
/// Lightness that a reference must span.
const LEAST_RANGE: f64 = 25.0;
/// Colours that a reference must have.
const LEAST_COLOURS: usize = 6;
/// A film that sees infrared is seldom in the camera; a print of one colour is seldom of a colour film.
const SELDOM: f64 = 0.7;
const COLOURED: f64 = 5.0;
/// Commonest colours of the frame in which prints are compared.
const COLOURS: usize = 200;
/// Of two that are as sure the one that explains better is shown.
const SURER: f64 = 0.03;

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
    /// That which is surest to be near first.
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
    of_place: OfPlace<'a>,
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
        of_place: OfPlace::new(asked.renderer, asked.reference, &asked.frame.source),
        palette,
        done: AtomicUsize::new(0),
        all: asked.stocks.len() + 3 * closely + 3,
    };
    let ranked = work.ranked()?;
    let found = asked.renderer.pool().install(|| work.closely(&ranked[..closely]))?;
    let mut proposals = Vec::new();
    for (way, ranked, found) in work.chosen(found)? {
        proposals.push(work.proposal(way, &ranked, found, &classes)?);
        work.step()?;
    }
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
            let grain = match self.of_place.noise() {
                Some(noise) => unexplained_grain(stock, &self.of_place.own_grain(stock)?, noise),
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

    /// One answer of every kind: first that which is surest to be near, then those that help most where it is not.
    fn chosen(&self, found: Vec<(Way, Ranked, Found)>) -> Result<Vec<(Way, Ranked, Found)>, MatchError> {
        let mut palette = self.asked.renderer.pool().install(|| Palette::of(&self.asked.frame.source));
        palette.colours.truncate(COLOURS);
        let colours = palette.source();
        let print = |(_, ranked, found): &(Way, Ranked, Found)| -> Result<Vec<Lab>, MatchError> {
            let development = self.developed(ranked, found)?;
            Ok(PointPrint::new(&ranked.stock, &development)?.lab(&colours))
        };
        let prints: Vec<Vec<Lab>> =
            self.asked.renderer.pool().install(|| found.par_iter().map(print).collect::<Result<_, _>>())?;
        let badness: Vec<f64> = found.iter().map(|f| f.2.badness()).collect();
        let shares: Vec<f64> = palette.colours.iter().map(|c| c.share).collect();
        let consensus = Consensus::new(&badness, &prints, &shares);
        // something of its kind is in it, where anything of that kind acts on any of the stocks
        let of_kind = |f: &(Way, Ranked, Found)| f.0 == Way::Plain || !f.2.development.values.is_empty();
        let may_stand =
            |f: &(Way, Ranked, Found)| of_kind(f) || !found.iter().any(|other| other.0 == f.0 && of_kind(other));
        let mut shown: Vec<usize> = Vec::new();
        for _ in Way::ALL {
            let others =
                (0..found.len()).filter(|i| may_stand(&found[*i]) && shown.iter().all(|s| found[*s].0 != found[*i].0));
            let risk = |i: &usize| consensus.risk(&[shown.as_slice(), &[*i]].concat()) + SURER * badness[*i];
            let next = others.min_by(|a, b| risk(a).total_cmp(&risk(b)));
            shown.extend(next);
        }
        Ok(shown.into_iter().map(|i| found[i].clone()).collect())
    }

    /// The frame's development with what was found.
    fn developed(&self, ranked: &Ranked, found: &Found) -> Result<Development, MatchError> {
        let mut development = self.asked.development.clone();
        development.change_stock(&ranked.stock);
        for (id, value) in &found.development.values {
            development.set(&ranked.stock, id, value.clone())?;
        }
        Ok(development)
    }

    fn proposal(&self, way: Way, ranked: &Ranked, found: Found, classes: &Classes) -> Result<Proposal, MatchError> {
        let stock = &ranked.stock;
        let mut development = self.developed(ranked, &found)?;
        let mut moved = Vec::new();
        for (id, value) in &found.development.values {
            moved.push(Moved { control: stations::find(id)?, value: value.clone() });
        }
        let explained = Development { values: found.development.values.clone(), ..Development::new(stock) };
        let of_place = self.of_place.values(stock, &explained)?;
        moved.extend(of_place.into_iter().map(|(control, value)| Moved { control, value }));
        for Moved { control, value } in &moved {
            development.set(stock, control.id, value.clone())?;
        }
        let distance = self.distance(stock, &development, classes)?;
        let badness = found.badness();
        Ok(Proposal { way, stock: stock.clone(), development, moved, badness, distance })
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
