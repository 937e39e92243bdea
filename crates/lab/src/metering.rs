//! Metering a roll: proposals for many frames at once, a series held to one balance.

use std::collections::BTreeMap;
use std::sync::Arc;

use amber_core::controls::Value;
use amber_core::stations;
use amber_core::stations::scene::settings::{TEMPERATURE, TINT};
use amber_core::{Development, Stock};
use amber_library::FrameSummary;

use crate::Lab;
use crate::error::LabError;
use crate::together::Applied;

/// Most seconds between two frames of a series.
const SERIES_S: i64 = 600;
/// Light is similar up to these distances: mired and CC.
const SIMILAR: [f64; 2] = [45.0, 18.0];

/// One value of a frame, before and after.
#[derive(Debug, Clone, PartialEq)]
pub struct Metered {
    pub id: &'static str,
    pub label: String,
    pub before: Value,
    pub after: Value,
    /// As they are written.
    pub words: [String; 2],
}

/// What metering proposes for a frame of a roll.
#[derive(Debug, Clone)]
pub struct FrameMetering {
    pub frame: FrameSummary,
    /// From 1; frames of one series share it.
    pub series: usize,
    pub values: Vec<Metered>,
}

struct One {
    frame: FrameSummary,
    stock: Arc<Stock>,
    proposed: Development,
    controls: Vec<&'static str>,
    series: usize,
}

impl One {
    fn number(&self, control: &amber_core::controls::Control) -> f64 {
        self.proposed.written(&self.stock).number(control)
    }

    /// Balance in mired and CC.
    fn light(&self) -> [f64; 2] {
        [1e6 / self.number(&TEMPERATURE).max(1.0), self.number(&TINT)]
    }
}

/// Whether two frames that follow one another were taken in the same light, within minutes; without dates, whether
/// their light is the same.
fn is_same_series(a: &One, b: &One) -> bool {
    let near = match (a.frame.taken, b.frame.taken) {
        (Some(first), Some(second)) => (second - first).abs() <= SERIES_S,
        (None, None) => true,
        _ => false,
    };
    let (one, other) = (a.light(), b.light());
    near && (0..2).all(|k| (one[k] - other[k]).abs() <= SIMILAR[k])
}

fn median(mut values: Vec<f64>) -> f64 {
    values.sort_by(f64::total_cmp);
    let middle = values.len() / 2;
    if values.len() % 2 == 1 { values[middle] } else { (values[middle - 1] + values[middle]) / 2.0 }
}

impl Lab {
    /// What metering proposes for some frames; nothing is kept. `held`: frames of one series, taken within minutes in
    /// similar light, get the middle of their balances. `seated`: what seating proposes, contrast and zones too.
    pub fn meter_roll(&self, frames: &[i64], held: bool, seated: bool) -> Result<Vec<FrameMetering>, LabError> {
        let mut all = Vec::with_capacity(frames.len());
        for frame in self.library.some_frames(frames)? {
            if frame.trouble.is_some() {
                continue;
            }
            let stock = self.library.stock_of(&frame.development)?;
            let (proposed, controls) = if seated {
                let seating = self.seat(frame.id, &frame.development, &[], true, None)?;
                (seating.proposed, seating.controls.iter().map(|c| c.id).collect())
            } else {
                let metering = self.metering(frame.id, &frame.development)?;
                (metering.proposed, metering.controls)
            };
            all.push(One { stock, proposed, controls, series: 0, frame });
        }
        let mut series = 0;
        for i in 0..all.len() {
            let goes_on = i > 0 && is_same_series(&all[i - 1], &all[i]);
            series += usize::from(!goes_on);
            all[i].series = series;
        }
        if held {
            hold(&mut all)?;
        }
        Ok(all.into_iter().map(metered).collect())
    }

    /// Sets values on each of several frames: all of them or none.
    pub fn set_on_each(
        &self,
        label: &str,
        mut values: BTreeMap<i64, BTreeMap<String, Value>>,
    ) -> Result<Applied, LabError> {
        let frames: Vec<i64> = values.keys().copied().collect();
        let change = |frame: &FrameSummary, stock: &Arc<Stock>| {
            let mut development = frame.development.clone();
            for (id, value) in values.remove(&frame.id).unwrap_or_default() {
                development.set(stock, &id, value)?;
            }
            Ok(Some((development, stock.clone())))
        };
        self.together(&frames, label, change, None)
    }
}

/// Gives the frames of each series the middle of their balances.
fn hold(all: &mut [One]) -> Result<(), LabError> {
    for of_series in all.chunk_by_mut(|a, b| a.series == b.series) {
        let light: Vec<[f64; 2]> = of_series.iter().map(One::light).collect();
        let middle = [0, 1].map(|k| median(light.iter().map(|l| l[k]).collect()));
        let step = |control: &amber_core::controls::Control, v: f64| stations::scene::metering::on_grid(control, v);
        for one in of_series {
            let stock = one.stock.clone();
            one.proposed.set(&stock, TEMPERATURE.id, Value::Number(step(&TEMPERATURE, 1e6 / middle[0])))?;
            one.proposed.set(&stock, TINT.id, Value::Number(step(&TINT, middle[1])))?;
        }
    }
    Ok(())
}

fn metered(one: One) -> FrameMetering {
    let (before, after) = (one.frame.development.written(&one.stock), one.proposed.written(&one.stock));
    let values = one.controls.iter().filter_map(|id| stations::find(id).ok()).map(|control| {
        let (before, after) = (before.value(control), after.value(control));
        let words = [control.written(&before), control.written(&after)];
        Metered { id: control.id, label: control.full_label(), before, after, words }
    });
    FrameMetering { values: values.collect(), series: one.series, frame: one.frame }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_middle_of_several() {
        assert_eq!(median(vec![3.0, 1.0, 2.0]), 2.0);
        assert_eq!(median(vec![4.0, 1.0]), 2.5);
    }
}
