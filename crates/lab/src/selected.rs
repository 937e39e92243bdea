//! Several frames on the bench at once: what is changed of one is changed of all, and where they differ is said.

use std::collections::{BTreeMap, BTreeSet};

use amber_core::controls::{Control, Kind, Scale, Value};
use amber_core::{Chosen, Development, Preset, PresetName, Stock, stations};
use amber_library::{Change, Frame, FrameSummary, Step, Together};

use crate::Lab;
use crate::changing::{Stepped, Tuned, what_changed};
use crate::error::LabError;

/// How a control differs between frames.
#[derive(Debug, Clone, PartialEq)]
pub enum Differs {
    /// The least and the most, as they are written.
    Between(String, String),
    /// It is no number.
    Otherwise,
}

impl Lab {
    /// Keeps what was tuned on one frame as one step, and the same change on others: values as they are, those that
    /// belong to the picture moved by as much. All of them or none. Gives how many followed.
    pub fn tune_all(&self, id: i64, tuned: Tuned, others: &[i64]) -> Result<(Frame, usize), LabError> {
        let before = self.library.frame(id)?;
        let revision = tuned.revision;
        let after = tuned.on(&before)?;
        let old = &before.summary.development;
        if after == *old && revision == before.summary.revision {
            return Ok((before, 0));
        }
        let label = what_changed(old, &after, &before.stock);
        let step = |frame: i64, revision: i64, development: Development, stock| Together {
            frame,
            change: Change { revision, label: label.clone(), development },
            stock,
            preset: None,
        };
        let mut steps = vec![step(id, revision, after.clone(), before.stock.clone())];
        let moved = Moved::between(old, &after, &before.stock)?;
        for other in others.iter().filter(|other| **other != id) {
            let frame = self.library.frame(*other)?;
            let mut development = frame.summary.development.clone();
            moved.apply(&mut development, &frame.stock)?;
            if development != frame.summary.development {
                steps.push(step(*other, frame.summary.revision, development, frame.stock));
            }
        }
        let followed = steps.len() - 1;
        self.library.commit_together(&label, steps)?;
        Ok((self.library.frame(id)?, followed))
    }

    /// Goes back in the history of a frame; where its last step was made with others, they go back with it.
    pub fn undo_all(&self, id: i64, revision: i64) -> Result<Stepped, LabError> {
        let Some(batch) = self.library.batch_of(id)? else { return self.step(id, revision, Step::Undo) };
        let undone = self.undo_together(batch)?;
        Ok(Stepped { frame: self.library.frame(id)?, message: undone.message })
    }

    /// The controls on which frames differ, by id.
    pub fn differing(&self, frames: &[i64]) -> Result<BTreeMap<String, Differs>, LabError> {
        let frames: Vec<FrameSummary> = self.library.some_frames(frames)?;
        let with_stock = |frame: FrameSummary| Ok((self.library.stock_of(&frame.development)?, frame.development));
        let all = frames.into_iter().map(with_stock).collect::<Result<Vec<_>, LabError>>()?;
        let tuned = all.iter().flat_map(|(_, d)| d.values.keys().map(String::as_str));
        let mut ids: BTreeSet<&str> = tuned.collect();
        if all.windows(2).any(|pair| pair[0].1.stock != pair[1].1.stock) {
            ids.extend(stations::all().map(|control| control.id));
        }
        let mut differing = BTreeMap::new();
        for control in stations::in_order(&ids) {
            let values: Vec<Value> = all.iter().map(|(stock, d)| d.written(stock).value(control)).collect();
            if values.windows(2).any(|pair| pair[0] != pair[1]) {
                differing.insert(control.id.to_owned(), how(control, &values));
            }
        }
        Ok(differing)
    }
}

fn how(control: &Control, values: &[Value]) -> Differs {
    let numbers: Option<Vec<f64>> = values.iter().map(Value::as_number).collect();
    match numbers {
        Some(numbers) => {
            let least = numbers.iter().copied().fold(f64::INFINITY, f64::min);
            let most = numbers.iter().copied().fold(f64::NEG_INFINITY, f64::max);
            let written = |v: f64| control.written(&Value::Number(v));
            Differs::Between(written(least), written(most))
        }
        None => Differs::Otherwise,
    }
}

/// A change of one frame, to be made on others.
struct Moved {
    /// What is set as it is.
    set: Preset,
    /// What belongs to the picture: by how much it was moved.
    by: Vec<(&'static Control, f64)>,
}

impl Moved {
    fn between(before: &Development, after: &Development, stock: &Stock) -> Result<Self, LabError> {
        let (old, new) = (before.written(stock), after.written(stock));
        let ids: BTreeSet<&str> = before.values.keys().chain(after.values.keys()).map(String::as_str).collect();
        let mut chosen = Chosen::default();
        let mut by = Vec::new();
        for control in stations::in_order(&ids) {
            let (from, to) = (old.value(control), new.value(control));
            if from == to {
                continue;
            }
            match stations::list_of(control.id) {
                Some(list) if !list.is_the_pictures() => drop(chosen.lists.insert(list.path.into())),
                Some(_) => {}
                None if control.picture_specific => by.extend(distance(control, &from, &to).map(|d| (control, d))),
                None => drop(chosen.controls.insert(control.id.into())),
            }
        }
        let lamps = before.off.symmetric_difference(&after.off);
        chosen.lamps = lamps.filter(|lamp| stations::switching::is_of_all(lamp)).cloned().collect();
        let called = PresetName { name: "Change".into(), ..PresetName::default() };
        Ok(Self { set: Preset::of(after, stock, &chosen, &called)?, by })
    }

    fn apply(&self, development: &mut Development, stock: &Stock) -> Result<(), LabError> {
        development.lay(stock, stock, &self.set, 1.0)?;
        for (control, distance) in &self.by {
            let Kind::Scalar { low, high, scale, decimals, .. } = control.kind else { continue };
            let Some(from) = development.written(stock).value(control).as_number() else { continue };
            let to = match scale {
                Scale::Linear => from + distance,
                Scale::Reciprocal => 1.0 / (1.0 / from + distance).max(1.0 / high),
            };
            let digits = 10f64.powi(decimals as i32);
            let kept = ((to * digits).round() / digits).clamp(low, high);
            development.set(stock, control.id, Value::Number(kept))?;
        }
        Ok(())
    }
}

/// How far a number was moved, in the measure in which its steps are even; none for what is no number, and for seeds,
/// which stay each frame's own.
fn distance(control: &Control, from: &Value, to: &Value) -> Option<f64> {
    let Kind::Scalar { scale, .. } = control.kind else { return None };
    if control.id.ends_with(".seed") {
        return None;
    }
    let (from, to) = (from.as_number()?, to.as_number()?);
    Some(if scale == Scale::Reciprocal { 1.0 / to - 1.0 / from } else { to - from })
}
