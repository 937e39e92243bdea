//! A stock fitted to a chart.
//!
//! Curves come from the wedge, layer by layer: a neutral passes the interlayer effect unchanged. Then sensitivities (by
//! the place of their peaks and the weight of the lesser one, which make the layer matrix), interlayer effect, mask,
//! silver that was kept, filtration and mid grey are moved until the print of the patches is the measured one (least
//! squares on CIE Lab). Dyes and paper are chosen among ours by the same measure. How strong a layer's dye is beside
//! the density that was measured of it is searched too: a densitometer's filters do not read a dye at its peak. How
//! pure it is, the mask and the choice of dyes.

use amber_core::colour::difference::ciede2000;
use amber_core::colour::lab::Lab;
use amber_core::controls::Value;
use amber_core::stock::StockKind;
use amber_core::stock::chart::{Patch, SeenBy};
use amber_core::{Catalogue, CoreError, Development, Source, Stock, StockName};
use rayon::prelude::*;

use super::csv::ChartFile;
use super::d50::{lab_of, linear_srgb_of};
use super::knobs::{Extent, Knobs, placed, strengths};
use super::wedge::{FEWEST_STEPS, LayerFit, fit_layer};
use crate::colour::PointPrint;
use crate::error::MatchError;
use crate::numeric::least_squares;

/// Patches that colours need.
pub const FEWEST_PATCHES: usize = 12;
/// Patches of a full chart.
const FULL: usize = 24;
/// CIEDE2000 from which a patch is an outlier, where it is also so many times the middle one.
const OUTLIER: (f64, f64) = (4.0, 4.0);
/// Dyes that a film may have, and papers, by kind of film.
const NEGATIVE_DYES: [&str; 11] = [
    "cn",
    "negative-clean",
    "negative-amber",
    "negative-pale",
    "negative-stark",
    "negative-dusk",
    "negative-vivid",
    "negative-plain",
    "negative-tired",
    "cine-day",
    "cine-lamp",
];
const SLIDE_DYES: [&str; 2] = ["rev", "rev-rich"];
const PAPERS: [&str; 5] = ["gloss-paper", "lab-paper", "portrait-paper", "old-paper", "cine-print"];
const SILVER_PAPERS: [&str; 5] = ["glossy-neutral", "glossy-cool", "glossy-warm", "matt-neutral", "matt-warm"];
/// Films whose sensitivities a search begins with.
const SEEING: [&str; 4] = ["plover", "tern", "petrel", "wren"];
const SEEING_SLIDES: [&str; 3] = ["beryl", "celestine", "garnet"];
const SEEING_SILVER: [&str; 4] = ["juniper", "rowan", "hawthorn", "blackthorn"];
/// Materials that are tried with every sensitivity, beginnings that are followed, and those that are finished; rounds
/// of the search at first and then.
const MATERIALS: usize = 8;
const FOLLOWED: usize = 6;
const FINISHED: usize = 2;
const FIRST_ROUNDS: usize = 3;
const ROUNDS: usize = 14;
/// From which difference on it is said how strong a dye is beside what was measured.
const STRENGTH_SAID: f64 = 0.03;

/// A patch beside what the fitted stock makes of it.
#[derive(Debug, Clone, PartialEq)]
pub struct PatchResidual {
    /// Its name.
    pub name: String,
    /// Its own colour.
    pub reference: Lab,
    /// Measured; `None` where it is missing.
    pub measured: Option<Lab>,
    /// Of the fitted stock.
    pub fitted: Lab,
    /// CIEDE2000 between the two.
    pub distance: Option<f64>,
    /// It was left out of the fit.
    pub outlier: bool,
}

/// What came of a fit.
#[derive(Debug, Clone)]
pub struct Fit {
    /// The stock, with its chart.
    pub stock: Stock,
    /// By layer.
    pub layers: Vec<LayerFit>,
    /// By patch.
    pub patches: Vec<PatchResidual>,
    /// How the patches came to the film.
    pub seen_by: SeenBy,
    /// Density of each layer's dye at its peak over the density that was measured; 1 where it has no dyes.
    pub dye_strengths: Vec<f64>,
    /// What is to be known of it, in sentences.
    pub notes: Vec<String>,
}

impl Fit {
    /// Root of the mean of the squares of the density residuals, without outliers.
    pub fn density_off(&self) -> f64 {
        let all = self.layers.iter().flat_map(|layer| {
            layer.residuals.iter().enumerate().filter(|(i, _)| !layer.outliers.contains(i)).map(|(_, r)| r * r)
        });
        let (sum, count) = all.fold((0.0, 0), |(sum, count), r| (sum + r, count + 1));
        if count > 0 { (sum / f64::from(count)).sqrt() } else { 0.0 }
    }

    /// Mean CIEDE2000 of the patches, without outliers; `None` without patches.
    pub fn colour_off(&self) -> Option<f64> {
        let kept: Vec<f64> = self.patches.iter().filter(|p| !p.outlier).filter_map(|p| p.distance).collect();
        (!kept.is_empty()).then(|| kept.iter().sum::<f64>() / kept.len() as f64)
    }
}

/// Fits a stock to a chart; `abandoned` is asked before every try whether it is given up.
pub fn fit(file: &ChartFile, abandoned: &(dyn Fn() -> bool + Sync)) -> Result<Fit, MatchError> {
    let chart = &file.chart;
    let steps = chart.wedge.len();
    if steps < FEWEST_STEPS {
        return Err(MatchError::Chart {
            why: format!("it has {steps} steps of a wedge; {FEWEST_STEPS} are the fewest"),
        });
    }
    let template = template(file.kind)?;
    let reversal = file.kind.is_reversal();
    let shapes = template.curves.list();
    let masked = file.kind == StockKind::ColourNegative;
    let layers: Vec<LayerFit> =
        (0..template.layers()).map(|k| fit_layer(&chart.wedge, k, reversal, masked, shapes[k])).collect();
    let mut notes = of_the_wedge(file, &layers);
    let called = StockName { name: file.name.clone(), family: "mine".into(), notes: String::new() };
    let mut base = placed(&template, &layers).renamed(&called.id(), &called)?;
    base.iso = file.iso;
    base = placed(&base, &layers);
    base.chart = Some(chart.clone());
    base.grade = if file.kind == StockKind::BlackAndWhiteNegative { Some(2.0) } else { None };
    let colours = Colours::new(file, base, &layers, abandoned)?;
    let measured = chart.patches.iter().filter(|p| p.measured.is_some()).count();
    let (stock, seen_by, outliers) = if measured >= FEWEST_PATCHES {
        colours.fitted()?
    } else {
        notes.push(format!(
            "{measured} patches were measured; {FEWEST_PATCHES} are the fewest for colours, so those of {} stay.",
            template.name()
        ));
        (colours.base.clone(), SeenBy::Scene, Vec::new())
    };
    let patches = colours.residuals(&stock, seen_by, &outliers)?;
    of_the_patches(&patches, measured, &mut notes);
    let dye_strengths = strengths(&stock, &layers);
    if dye_strengths.iter().any(|v| (v - 1.0).abs() > STRENGTH_SAID) {
        let said: Vec<String> = dye_strengths.iter().map(|v| format!("{v:.2}")).collect();
        notes.push(format!("At their peaks the dyes are {} times as dense as was measured.", said.join(", ")));
    }
    let checked = Stock::from_json(&stock.to_json())?;
    Ok(Fit { stock: checked, layers, patches, seen_by, dye_strengths, notes })
}

fn of_the_wedge(file: &ChartFile, layers: &[LayerFit]) -> Vec<String> {
    let names = ["red", "green", "blue"];
    let mut notes = Vec::new();
    for (k, layer) in layers.iter().enumerate() {
        let of = if layers.len() == 3 { format!(" of {}", names[k]) } else { String::new() };
        for i in &layer.outliers {
            let (at, off) = (file.chart.wedge[*i].log_exposure, layer.residuals[*i]);
            notes.push(format!("The step at {at:.2}{of} lies {off:+.2} off the curve; it was left out."));
        }
    }
    let (first, last) = (file.chart.wedge.first(), file.chart.wedge.last());
    if let (Some(first), Some(last)) = (first, last)
        && last.log_exposure - first.log_exposure < 2.0
    {
        notes.push(format!(
            "The wedge reaches from {:.1} to {:.1}: toe and shoulder beyond it are guessed.",
            first.log_exposure, last.log_exposure
        ));
    }
    notes
}

fn of_the_patches(patches: &[PatchResidual], measured: usize, notes: &mut Vec<String>) {
    let missing: Vec<&str> = patches.iter().filter(|p| p.measured.is_none()).map(|p| p.name.as_str()).collect();
    if !missing.is_empty() {
        notes.push(format!("Not measured: {}.", missing.join(", ")));
    }
    if (FEWEST_PATCHES..FULL).contains(&measured) {
        notes.push(format!("{measured} patches tell less than {FULL}."));
    }
    for patch in patches.iter().filter(|p| p.outlier) {
        let off = patch.distance.unwrap_or(0.0);
        notes.push(format!("The patch {} lies {off:.1} off (CIEDE2000); it was left out.", patch.name));
    }
}

/// The stock whose grain, halation and gate are taken over.
fn template(kind: StockKind) -> Result<Stock, CoreError> {
    let id = match kind {
        StockKind::Reversal => "beryl",
        StockKind::BlackAndWhiteNegative => "juniper",
        _ => "plover",
    };
    let mut stock = Catalogue::find(id)?.as_ref().clone();
    stock.cc = [0.0; 3];
    Ok(stock)
}

struct Colours<'a> {
    abandoned: &'a (dyn Fn() -> bool + Sync),
    base: Stock,
    layers: &'a [LayerFit],
    kind: StockKind,
    print: Option<String>,
    seen_by: SeenBy,
    patches: Vec<Patch>,
    source: Source,
}

/// One beginning of a search: sensitivities, dyes, paper.
#[derive(Debug, Clone)]
struct Beginning {
    stock: Stock,
    seen_by: SeenBy,
    badness: f64,
}

impl<'a> Colours<'a> {
    fn new(
        file: &ChartFile,
        base: Stock,
        layers: &'a [LayerFit],
        abandoned: &'a (dyn Fn() -> bool + Sync),
    ) -> Result<Self, MatchError> {
        let patches = file.chart.patches.clone();
        let source = Source::from_linear_srgb(patches.len().max(1) as u32, 1, |x, _| {
            patches.get(x as usize).map_or([0.0; 3], |p| linear_srgb_of(p.reference))
        });
        let print = file.print.clone();
        Ok(Self { abandoned, base, layers, kind: file.kind, print, seen_by: file.chart.seen_by, patches, source })
    }

    /// The print of the patches' own colours.
    fn printed(&self, stock: &Stock, seen_by: SeenBy) -> Result<Vec<Lab>, CoreError> {
        let mut development = Development::new(stock);
        if seen_by == SeenBy::Scene {
            for (id, value) in [("scene.rendering", 1.0), ("scene.headroom", 0.0)] {
                development.set(stock, id, Value::Number(value))?;
            }
        }
        Ok(PointPrint::new(stock, &development)?.linear_srgb(&self.source).into_iter().map(lab_of).collect())
    }

    /// Differences of Lab, patch by patch; lightness and colour count alike.
    fn off(&self, stock: &Stock, seen_by: SeenBy, left_out: &[usize]) -> Option<Vec<f64>> {
        // without residuals a search ends where it stands
        let printed = (!(self.abandoned)()).then(|| self.printed(stock, seen_by).ok())??;
        let mut off = Vec::new();
        for (i, (patch, fitted)) in self.patches.iter().zip(printed).enumerate() {
            let Some(measured) = patch.measured.filter(|_| !left_out.contains(&i)) else { continue };
            // far out, a step of Lab is less to the eye
            let less = 1.0 / (1.0 + 0.03 * measured[1].hypot(measured[2]));
            let d = [0, 1, 2].map(|k| fitted[k] - measured[k]);
            // what lies far off counts less than its square (Huber 1964)
            let soft = |v: f64| if v.abs() <= 4.0 { v } else { (8.0 * v.abs() - 16.0).sqrt().copysign(v) };
            off.extend([soft(d[0]), soft(d[1] * less), soft(d[2] * less)]);
        }
        Some(off)
    }

    fn badness(&self, stock: &Stock, seen_by: SeenBy, left_out: &[usize]) -> f64 {
        self.off(stock, seen_by, left_out).map_or(f64::INFINITY, |off| off.iter().map(|v| v * v).sum())
    }

    /// A beginning with sensitivities, dyes and paper of ours.
    fn beginning(&self, seeing: &str, dyes: &str, paper: &str, seen_by: SeenBy) -> Result<Beginning, CoreError> {
        let like = Catalogue::find(seeing)?;
        let mut stock = self.base.clone();
        stock.sensitivity = like.sensitivity.clone();
        stock.inhibition = like.inhibition;
        stock.inhibition_high = like.inhibition_high;
        match self.kind {
            StockKind::BlackAndWhiteNegative => stock.paper = Some(paper.into()),
            StockKind::Reversal => stock.dyes = Some(dyes.into()),
            _ => {
                stock.dyes = Some(dyes.into());
                stock.print = Some(paper.into());
            }
        }
        Ok(Beginning { stock, seen_by, badness: f64::INFINITY })
    }

    /// Searches some beginnings so far; the best first.
    fn advanced(&self, mut all: Vec<Beginning>, extent: Extent, rounds: usize) -> Vec<Beginning> {
        all.par_iter_mut().for_each(|b| {
            b.stock = self.searched(&b.stock, b.seen_by, &[], extent, rounds);
            b.badness = self.badness(&b.stock, b.seen_by, &[]);
        });
        all.sort_by(|a, b| a.badness.total_cmp(&b.badness));
        all
    }

    /// How the patches came to the film, by what the first film of each way explains at best.
    fn seen(&self, seeing: &str, dyes: &str, papers: &[&str]) -> Result<SeenBy, CoreError> {
        if self.seen_by != SeenBy::Unknown {
            return Ok(self.seen_by);
        }
        let ways = [SeenBy::Camera, SeenBy::Scene];
        let all = ways.iter().flat_map(|way| papers.iter().map(|paper| self.beginning(seeing, dyes, paper, *way)));
        let best = self.advanced(all.collect::<Result<_, _>>()?, Extent::Balance, FIRST_ROUNDS);
        let best = self.advanced(best.into_iter().take(FOLLOWED).collect(), Extent::All, FIRST_ROUNDS);
        Ok(best.first().map_or(SeenBy::Camera, |b| b.seen_by))
    }

    fn fitted(&self) -> Result<(Stock, SeenBy, Vec<usize>), MatchError> {
        let (seeing, dyes, papers): (&[&str], &[&str], &[&str]) = match self.kind {
            StockKind::Reversal => (&SEEING_SLIDES, &SLIDE_DYES, &[""]),
            StockKind::BlackAndWhiteNegative => (&SEEING_SILVER, &[""], &SILVER_PAPERS),
            _ => (&SEEING, &NEGATIVE_DYES, &PAPERS),
        };
        let named = self.print.as_deref().map(|p| vec![p]);
        let papers = named.as_deref().unwrap_or(papers);
        let seen_by = self.seen(seeing[0], dyes[0], papers)?;
        // dyes and paper first, then what the film sees, then everything
        let pairs = dyes.iter().flat_map(|dyes| papers.iter().map(move |paper| (dyes, paper)));
        let all = pairs.map(|(dyes, paper)| self.beginning(seeing[0], dyes, paper, seen_by));
        let all = self.advanced(all.collect::<Result<_, _>>()?, Extent::Balance, FIRST_ROUNDS);
        let materials = |s: &Stock| [s.dyes.clone(), s.print.clone(), s.paper.clone()].map(Option::unwrap_or_default);
        let of = |b: &Beginning| {
            let [dyes, print, paper] = materials(&b.stock);
            let paper = if print.is_empty() { paper } else { print };
            seeing.iter().map(move |s| self.beginning(s, &dyes, &paper, seen_by)).collect::<Vec<_>>()
        };
        let all: Result<Vec<Beginning>, CoreError> = all.iter().take(MATERIALS).flat_map(of).collect();
        let all = self.advanced(all?, Extent::Balance, FIRST_ROUNDS);
        let mut followed: Vec<Beginning> = Vec::new();
        for beginning in all {
            let alike = followed.iter().filter(|f| materials(&f.stock) == materials(&beginning.stock)).count();
            if followed.len() < FOLLOWED && alike < 2 {
                followed.push(beginning);
            }
        }
        let followed = self.advanced(followed, Extent::All, FIRST_ROUNDS);
        let followed = self.advanced(followed.into_iter().take(FINISHED).collect(), Extent::All, ROUNDS);
        let Some(best) = followed.into_iter().next() else {
            return Err(MatchError::Chart { why: "no film of ours is of this kind".into() });
        };
        if (self.abandoned)() {
            return Err(CoreError::Abandoned.into());
        }
        let outliers = self.outliers(&best)?;
        if outliers.is_empty() {
            return Ok((best.stock, best.seen_by, outliers));
        }
        let stock = self.searched(&best.stock, best.seen_by, &outliers, Extent::All, ROUNDS);
        Ok((stock, best.seen_by, outliers))
    }

    fn outliers(&self, best: &Beginning) -> Result<Vec<usize>, CoreError> {
        let residuals = self.residuals(&best.stock, best.seen_by, &[])?;
        let mut distances: Vec<f64> = residuals.iter().filter_map(|r| r.distance).collect();
        distances.sort_by(f64::total_cmp);
        let middle = distances.get(distances.len() / 2).copied().unwrap_or(0.0);
        let is_off = |d: f64| d > OUTLIER.0 && d > OUTLIER.1 * middle;
        Ok((0..residuals.len()).filter(|i| residuals[*i].distance.is_some_and(is_off)).collect())
    }

    fn residuals(&self, stock: &Stock, seen_by: SeenBy, outliers: &[usize]) -> Result<Vec<PatchResidual>, CoreError> {
        let printed = self.printed(stock, seen_by)?;
        let of = |(i, (patch, fitted)): (usize, (&Patch, Lab))| PatchResidual {
            name: patch.name.clone(),
            reference: patch.reference,
            measured: patch.measured,
            fitted,
            distance: patch.measured.map(|m| ciede2000(m, fitted)),
            outlier: outliers.contains(&i),
        };
        Ok(self.patches.iter().zip(printed).enumerate().map(of).collect())
    }

    fn searched(&self, from: &Stock, seen_by: SeenBy, left_out: &[usize], extent: Extent, rounds: usize) -> Stock {
        let knobs = Knobs::of(from, self.kind, extent, self.layers);
        let found = least_squares(knobs.unknowns(), rounds, |at| {
            let mut off = self.off(&knobs.turned(from, at), seen_by, left_out)?;
            off.extend(knobs.held(at));
            Some(off)
        });
        knobs.turned(from, &found)
    }
}
