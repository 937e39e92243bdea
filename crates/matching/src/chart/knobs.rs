//! The numbers of a stock that are searched from a chart: within which bounds, how finely, how firmly they are held.

use amber_core::Stock;
use amber_core::stations::film::placement::{grey_log_exposure, placed_curves};
use amber_core::stock::{LayerCurves, StockKind};

use super::wedge::LayerFit;
use crate::numeric::Unknown;

/// How much stronger than measured a dye may be, and how firmly it is held at what was measured.
const STRONGEST: f64 = 1.6;
const HELD_STRENGTH: f64 = 3.0;

/// The curves laid into a stock so that a mid grey falls where the wedge has it.
pub(super) fn placed(template: &Stock, layers: &[LayerFit]) -> Stock {
    let mut stock = template.clone();
    stock.ev = 0.0;
    stock.curves = LayerCurves::map(&stock.curves, |k, _| layers[k].curve.shape);
    // how far each layer's curve lies from where it should, if mid grey lies at the film's
    let off = |stock: &Stock| -> Vec<f64> {
        let grey = grey_log_exposure() + 2f64.log10() * stock.ev;
        placed_curves(stock).iter().zip(layers).map(|(c, l)| (l.curve.x0 + grey) - c.x0).collect()
    };
    for _ in 0..8 {
        let by = off(&stock);
        let mean = by.iter().sum::<f64>() / by.len() as f64;
        stock.ev -= mean / 2f64.log10();
        let shifted = |k: usize, shape: amber_core::stock::CurveShape| amber_core::stock::CurveShape {
            shift: shape.shift + by[k] - mean,
            ..shape
        };
        if by.len() == 3 {
            stock.curves = stock.curves.map(shifted);
        }
    }
    stock
}

/// By how much each layer's curve is denser than it was measured.
pub(super) fn strengths(stock: &Stock, layers: &[LayerFit]) -> Vec<f64> {
    stock.curves.list().iter().zip(layers).map(|(shape, layer)| shape.dmax / layer.curve.shape.dmax).collect()
}

/// Layers whose densities are so many times those that were measured.
fn strengthened(layers: &[LayerFit], by: &[f64]) -> Vec<LayerFit> {
    let of = |(layer, by): (&LayerFit, &f64)| {
        let mut layer = layer.clone();
        let shape = &mut layer.curve.shape;
        for density in [&mut shape.dmin, &mut shape.dmax, &mut shape.gamma] {
            *density *= by;
        }
        layer
    };
    layers.iter().zip(by).map(of).collect()
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
/// How many of them.
pub(super) enum Extent {
    /// What balances a print.
    Balance,
    /// All.
    All,
}

/// Lays a number into a stock.
type Lay = Box<dyn Fn(&mut Stock, f64) + Sync + Send>;

/// One number of a stock that is searched.
struct Knob {
    /// How it is laid into a stock.
    lay: Lay,
    start: f64,
    bounds: [f64; 2],
    step: f64,
    /// How firmly it is held, and where.
    hold: f64,
    held_at: f64,
}

/// The numbers that are searched.
pub(super) struct Knobs<'a> {
    all: Vec<Knob>,
    /// The layers that were measured, where the strengths of their dyes come after all knobs.
    dyed: Option<&'a [LayerFit]>,
}

impl<'a> Knobs<'a> {
    pub(super) fn of(from: &Stock, kind: StockKind, extent: Extent, layers: &'a [LayerFit]) -> Self {
        let mut knobs = Vec::new();
        let mut add = |start: f64, bounds: [f64; 2], step: f64, hold: f64, lay: Lay| {
            let start = start.max(bounds[0]).min(bounds[1]);
            knobs.push(Knob { lay, start, bounds, step, hold, held_at: start });
        };
        if kind != StockKind::Reversal {
            add(from.aim, [0.05, 0.6], 0.004, 0.0, Box::new(|s, v| s.aim = v));
        }
        if kind == StockKind::ColourNegative {
            for k in [1, 2] {
                add(from.cc[k], [-40.0, 40.0], 0.5, 0.0, Box::new(move |s, v| s.cc[k] = v));
            }
        }
        if kind.has_dyes() {
            // silver that was left in the picture takes colour from all patches alike
            add(from.skip_bleach, [0.0, 1.0], 0.02, 0.3, Box::new(|s, v| s.skip_bleach = v));
        }
        if kind == StockKind::BlackAndWhiteNegative {
            add(from.grade.unwrap_or(2.0), [0.0, 5.0], 0.05, 0.0, Box::new(|s, v| s.grade = Some(v)));
        }
        if extent == Extent::Balance {
            return Self { all: knobs, dyed: None };
        }
        if kind == StockKind::ColourNegative {
            add(from.mask, [0.0, 1.0], 0.02, 0.3, Box::new(|s, v| s.mask = v));
        }
        for (layer, peaks) in from.sensitivity.iter().enumerate() {
            for (peak, [nm, _, weight]) in peaks.iter().copied().enumerate() {
                let reach = [nm - 22.0, nm + 22.0];
                add(nm, reach, 0.5, 0.02, Box::new(move |s, v| s.sensitivity[layer][peak][0] = v));
                // of one layer only the proportions of its peaks count
                if peak > 0 || peaks.len() > 2 {
                    let lay = move |s: &mut Stock, v: f64| s.sensitivity[layer][peak][2] = v;
                    add(weight, [0.02, 2.5], 0.02, 0.2, Box::new(lay));
                }
            }
        }
        for (row, column) in (0..3).flat_map(|r| (0..3).map(move |c| (r, c))).filter(|(r, c)| r != c) {
            if let Some(m) = from.inhibition {
                let lay = move |s: &mut Stock, v: f64| {
                    if let Some(m) = &mut s.inhibition {
                        m[row][column] = v;
                    }
                };
                add(m[row][column], [-0.5, 1.5], 0.02, 0.3, Box::new(lay));
            }
            if let Some(m) = from.inhibition_high {
                let lay = move |s: &mut Stock, v: f64| {
                    if let Some(m) = &mut s.inhibition_high {
                        m[row][column] = v;
                    }
                };
                add(m[row][column], [-0.5, 1.5], 0.03, 0.15, Box::new(lay));
            }
        }
        let dyed = kind.has_dyes().then_some(layers);
        for strength in dyed.iter().flat_map(|layers| strengths(from, layers)) {
            // laid all at once: where mid grey falls hangs on all of them
            let lay: Lay = Box::new(|_, _| {});
            let bounds = [STRONGEST.recip(), STRONGEST];
            knobs.push(Knob { lay, start: strength, bounds, step: 0.005, hold: HELD_STRENGTH, held_at: 1.0 });
        }
        Self { all: knobs, dyed }
    }

    pub(super) fn unknowns(&self) -> Vec<Unknown> {
        self.all.iter().map(|k| Unknown { start: k.start, bounds: k.bounds, step: k.step }).collect()
    }

    pub(super) fn turned(&self, from: &Stock, at: &[f64]) -> Stock {
        let mut stock = from.clone();
        self.all.iter().zip(at).for_each(|(knob, v)| (knob.lay)(&mut stock, *v));
        match self.dyed {
            Some(layers) => placed(&stock, &strengthened(layers, &at[at.len() - layers.len()..])),
            None => stock,
        }
    }

    pub(super) fn held(&self, at: &[f64]) -> Vec<f64> {
        self.all.iter().zip(at).filter(|(k, _)| k.hold > 0.0).map(|(k, v)| k.hold * (v - k.held_at)).collect()
    }
}
