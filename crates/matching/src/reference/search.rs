//! The few values of a stock by which it explains a reference best.
//!
//! Value by value is tried, each has a cost, and the one that helps most is taken, until none helps more than it costs;
//! what was taken is refined together by the simplex of Nelder and Mead (1965).

use amber_core::controls::{Control, Kind, Value};
use amber_core::stations;
use amber_core::stations::scene::metering::on_grid;
use amber_core::{CoreError, Development, Stock};
use argmin::core::{CostFunction, Executor};
use argmin::solver::neldermead::NelderMead;

use super::energy::Explainer;
use crate::colour::Palette;

/// What kind of answer is looked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Way {
    /// The stock, rated and printed a little otherwise.
    Plain,
    /// With a bath, another paper, another contrast.
    Printed,
    /// With years.
    Aged,
}

impl Way {
    /// From the plainest.
    pub const ALL: [Self; 3] = [Self::Plain, Self::Printed, Self::Aged];

    /// As scripts say it.
    pub fn id(self) -> &'static str {
        match self {
            Self::Plain => "stock",
            Self::Printed => "print",
            Self::Aged => "years",
        }
    }

    /// As people say it.
    pub fn label(self) -> &'static str {
        match self {
            Self::Plain => "Plain stock",
            Self::Printed => "With bath or print",
            Self::Aged => "With years",
        }
    }
}

/// A value that may be moved: what is tried, and how far it is commonly moved.
struct Movable {
    id: &'static str,
    tried: &'static [f64],
    common: f64,
}

const fn movable(id: &'static str, tried: &'static [f64], common: f64) -> Movable {
    Movable { id, tried, common }
}

/// What it costs to move a value at all, and to move it as far as is common; to choose otherwise than the stock.
const MOVED: f64 = 1.1;
const FAR: f64 = 0.5;

/// What it costs an answer to need a value, beside one that does not: the plainest that explains as much comes first.
const NEEDED: f64 = 0.8;

const PLAIN: [Movable; 5] = [
    movable("film.push", &[-0.5, 0.5, 1.0, 1.5], 1.0),
    movable("print.exposure", &[-0.4, -0.2, 0.2, 0.4], 0.4),
    movable("print.filter.yellow", &[-12.0, -6.0, 6.0, 12.0], 12.0),
    movable("print.filter.magenta", &[-12.0, -6.0, 6.0, 12.0], 12.0),
    movable("film.interlayer", &[0.6, 1.4], 0.5),
];
const PRINTED: [Movable; 6] = [
    movable("print.grade", &[1.0, 3.0, 4.0], 1.5),
    movable("print.contrast", &[0.85, 1.2, 1.4], 0.3),
    movable("bath.skip_bleach", &[0.5, 1.0], 0.8),
    movable("print.white", &[0.05, 0.12], 0.12),
    movable("print.black", &[1.2, 1.6, 2.2], 0.8),
    movable("bath.fog", &[0.1, 0.25], 0.25),
];
const AGED: [Movable; 2] =
    [movable("years.age", &[6.0, 15.0, 30.0, 60.0], 60.0), movable("years.stain", &[0.05, 0.12], 0.12)];
/// Choices that an answer may begin with.
const PAPERS: [&str; 5] = ["gloss-paper", "lab-paper", "portrait-paper", "old-paper", "cine-print"];
const STORAGES: [&str; 3] = ["drawer", "wall", "attic"];
/// What it costs beside that to go through another film's chemistry.
const CROSSED: f64 = 1.5;
/// Years with which an answer of years begins, and beginnings that are followed.
const AGES: [f64; 3] = [8.0, 20.0, 45.0];
const FOLLOWED: usize = 2;
/// Values that are moved at most.
const MOST_MOVED: usize = 4;
/// Rounds of the simplex.
const ROUNDS: u64 = 40;

/// A stock with a few values moved.
#[derive(Debug, Clone)]
pub struct Found {
    /// The stock's own development but for what was moved.
    pub development: Development,
    /// How badly it explains the reference, its cost included.
    pub energy: f64,
}

impl Found {
    /// Its energy, and what it costs to need values beside an answer that needs none.
    pub fn badness(&self) -> f64 {
        self.energy + NEEDED * self.development.values.len() as f64
    }
}

/// Looks for the best development of a stock of a kind.
pub struct Search<'a> {
    /// Undevelops.
    pub explainer: &'a Explainer,
    /// The colours to be explained.
    pub reference: &'a Palette,
    /// The stock.
    pub stock: &'a Stock,
    /// Asked before every try whether it is given up.
    pub abandoned: &'a (dyn Fn() -> bool + Sync),
}

impl Search<'_> {
    fn energy(&self, development: &Development) -> Result<f64, CoreError> {
        if (self.abandoned)() {
            return Err(CoreError::Abandoned);
        }
        let explained = self.explainer.explained(self.reference, self.stock, development)?;
        Ok(explained.badness())
    }

    /// What it costs that values are moved as far as they are.
    fn far(&self, development: &Development, taken: &[&Movable]) -> f64 {
        let values = development.written(self.stock);
        let of = |movable: &&Movable| {
            let control = stations::find(movable.id).ok()?;
            let own = control.own_value(self.stock).as_number()?;
            Some(((values.number(control) - own) / movable.common).powi(2))
        };
        FAR * taken.iter().filter_map(of).sum::<f64>()
    }

    fn with(&self, development: &Development, id: &str, value: Value) -> Option<Development> {
        let control = stations::find(id).ok().filter(|c| (c.applies)(self.stock))?;
        let mut moved = development.clone();
        moved.set(self.stock, control.id, value).ok()?;
        (moved.values != development.values).then_some(moved)
    }

    /// The best of a kind.
    pub fn best(&self, way: Way) -> Result<Found, CoreError> {
        let own = Development::new(self.stock);
        let mut begun = Vec::new();
        let mut begin = |development: Development, cost: f64| -> Result<(), CoreError> {
            begun.push((Found { energy: self.energy(&development)? + cost, development }, cost));
            Ok(())
        };
        match way {
            Way::Plain => begin(own.clone(), 0.0)?,
            // each of a kind begins with something of its kind
            Way::Printed => {
                let papers = PAPERS.iter().map(|p| ("print.paper", Value::Choice((*p).into())));
                let crossed = std::iter::once(("bath.chemistry", Value::Choice("crossed".into())));
                let tried = PRINTED.iter().flat_map(|m| m.tried.iter().map(|v| (m.id, Value::Number(*v))));
                for (id, value) in papers.chain(crossed).chain(tried) {
                    // a film seldom goes through another's chemistry
                    let cost = MOVED + if id == "bath.chemistry" { CROSSED } else { 0.0 };
                    self.with(&own, id, value).map_or(Ok(()), |moved| begin(moved, cost))?;
                }
            }
            Way::Aged => {
                for (place, years) in STORAGES.iter().flat_map(|s| AGES.map(|a| (*s, a))) {
                    let aged = self.with(&own, "years.age", Value::Number(years)).unwrap_or_else(|| own.clone());
                    let kept = self.with(&aged, "years.storage", Value::Choice(place.into()));
                    begin(kept.unwrap_or(aged), MOVED)?;
                }
            }
        }
        begun.sort_by(|a, b| a.0.energy.total_cmp(&b.0.energy));
        let mut best: Option<Found> = None;
        for (from, cost) in begun.into_iter().take(FOLLOWED) {
            let found = self.greedy(from, cost, way)?;
            if best.as_ref().is_none_or(|b| found.energy < b.energy) {
                best = Some(found);
            }
        }
        match best {
            Some(best) => Ok(best),
            // nothing of this kind acts on this stock
            None => Ok(Found { energy: self.energy(&own)?, development: own }),
        }
    }

    /// Takes one value after the other while it helps.
    fn greedy(&self, from: Found, begun_cost: f64, way: Way) -> Result<Found, CoreError> {
        let extra: &[Movable] = match way {
            Way::Plain => &[],
            Way::Printed => &PRINTED,
            Way::Aged => &AGED,
        };
        let movables: Vec<&Movable> = PLAIN.iter().chain(extra).collect();
        let mut best = from;
        let mut cost = begun_cost;
        // with what an answer began is refined with the rest
        let mut taken: Vec<&Movable> = extra.iter().filter(|m| best.development.values.contains_key(m.id)).collect();
        while taken.len() < MOST_MOVED {
            let mut step: Option<(Found, &Movable)> = None;
            for movable in movables.iter().filter(|m| !taken.iter().any(|t| t.id == m.id)) {
                for value in movable.tried {
                    let Some(moved) = self.with(&best.development, movable.id, Value::Number(*value)) else { continue };
                    let all: Vec<&Movable> = taken.iter().copied().chain([*movable]).collect();
                    let energy = self.energy(&moved)? + cost + MOVED + self.far(&moved, &all);
                    if step.as_ref().is_none_or(|s| energy < s.0.energy) {
                        step = Some((Found { development: moved, energy }, movable));
                    }
                }
            }
            match step {
                Some((found, movable)) if found.energy < best.energy => {
                    cost += MOVED;
                    taken.push(movable);
                    best = found;
                }
                _ => break,
            }
        }
        if taken.is_empty() { Ok(best) } else { self.refined(best, &taken, cost) }
    }

    /// What was taken, refined together.
    fn refined(&self, best: Found, taken: &[&Movable], cost: f64) -> Result<Found, CoreError> {
        let scaled: Vec<Scaled> = taken.iter().filter_map(|m| Scaled::of(m)).collect();
        let start: Vec<f64> =
            scaled.iter().map(|s| s.share(best.development.written(self.stock).number(s.control))).collect();
        let mut simplex = vec![start.clone()];
        for k in 0..start.len() {
            let mut corner = start.clone();
            corner[k] += if corner[k] > 0.5 { -0.08 } else { 0.08 };
            simplex.push(corner);
        }
        let problem = Problem { search: self, best: &best, scaled: &scaled, taken };
        let Ok(solver) = NelderMead::new(simplex).with_sd_tolerance(1e-3) else { return Ok(best) };
        let run = Executor::new(problem, solver).configure(|state| state.max_iters(ROUNDS)).run();
        if (self.abandoned)() {
            return Err(CoreError::Abandoned);
        }
        let Some(at) = run.ok().and_then(|r| r.state.best_param) else { return Ok(best) };
        let development = developed(self.stock, &best.development, &scaled, &at);
        let energy = self.energy(&development)? + cost + self.far(&development, taken);
        Ok(if energy < best.energy { Found { development, energy } } else { best })
    }
}

/// A control by its share of its range.
struct Scaled {
    control: &'static Control,
    low: f64,
    high: f64,
}

impl Scaled {
    fn of(movable: &Movable) -> Option<Self> {
        let control = stations::find(movable.id).ok()?;
        let Kind::Scalar { low, high, .. } = control.kind else { return None };
        // an answer of years has some
        let low = if movable.id == "years.age" { 3.0 } else { low };
        Some(Self { control, low, high })
    }

    fn share(&self, value: f64) -> f64 {
        (value - self.low) / (self.high - self.low)
    }

    fn value(&self, share: f64) -> f64 {
        on_grid(self.control, self.low + share.clamp(0.0, 1.0) * (self.high - self.low))
    }
}

fn developed(stock: &Stock, from: &Development, scaled: &[Scaled], at: &[f64]) -> Development {
    let mut development = from.clone();
    for (s, share) in scaled.iter().zip(at) {
        // on the grid and in the range, so it is taken
        let _ = development.set(stock, s.control.id, Value::Number(s.value(*share)));
    }
    development
}

struct Problem<'a> {
    search: &'a Search<'a>,
    best: &'a Found,
    scaled: &'a [Scaled],
    taken: &'a [&'a Movable],
}

impl CostFunction for Problem<'_> {
    type Param = Vec<f64>;
    type Output = f64;

    fn cost(&self, at: &Vec<f64>) -> Result<f64, argmin::core::Error> {
        let outside: f64 = at.iter().map(|v| (v - v.clamp(0.0, 1.0)).abs()).sum();
        let development = developed(self.search.stock, &self.best.development, self.scaled, at);
        Ok(self.search.energy(&development)? + self.search.far(&development, self.taken) + 10.0 * outside)
    }
}
