//! The values in force: what was tuned, over the stock's own, and what is switched off at rest.

use std::collections::BTreeMap;

use super::lamp::Off;
use super::{Choices, Control, List, Rest, Value, mask_asked};
use crate::mask::{Mask, MaskUse};
use crate::stock::Stock;

/// A stock's own values with a development's tuned ones over them.
#[derive(Debug, Clone, Copy)]
pub struct Values<'a> {
    stock: &'a Stock,
    tuned: Option<&'a BTreeMap<String, Value>>,
    masks: Option<&'a BTreeMap<String, Mask>>,
    off: Option<Off<'a>>,
}

impl<'a> Values<'a> {
    /// The stock as it is.
    pub fn own(stock: &'a Stock) -> Self {
        Self { stock, tuned: None, masks: None, off: None }
    }

    /// A stock's values with tuned ones and masks over them.
    pub fn new(stock: &'a Stock, tuned: &'a BTreeMap<String, Value>, masks: &'a BTreeMap<String, Mask>) -> Self {
        Self { stock, tuned: Some(tuned), masks: Some(masks), off: None }
    }

    /// The same with lamps that are off.
    pub fn without(self, off: Option<Off<'a>>) -> Self {
        Self { off, ..self }
    }

    /// Whether a lamp puts a control out: its station's, or its group's.
    pub fn is_off(&self, control: &Control) -> bool {
        self.off.is_some_and(|off| off.puts_out(control))
    }

    /// The mask that a control of that kind asks for; `None` for the whole picture.
    pub fn mask(&self, control: &Control) -> Option<MaskUse> {
        let (id, outside) = mask_asked(self.tuned(control)?.choice()?)?;
        Some(MaskUse::new(self.masks?.get(id)?.clone(), outside))
    }

    /// The frame's masks by id.
    pub fn masks(&self) -> impl Iterator<Item = (&'a String, &'a Mask)> {
        self.masks.into_iter().flatten()
    }

    /// Keys of a list's items, rising.
    pub fn keys(&self, list: &List) -> Vec<u32> {
        let ids = self.tuned.into_iter().flat_map(|tuned| tuned.keys()).chain(self.stock.own.keys());
        let mut keys: Vec<u32> = ids.filter_map(|id| list.key_of(id)).collect();
        // an item that is off is not there
        keys.retain(|key| list.members.first().is_none_or(|member| !self.is_off(list.member(*key, member))));
        keys.sort_unstable();
        keys.dedup();
        keys
    }

    /// The stock whose own values lie beneath.
    pub fn stock(&self) -> &'a Stock {
        self.stock
    }

    /// The tuned value, where there is one and it is not off.
    pub fn tuned(&self, control: &Control) -> Option<&'a Value> {
        self.tuned?.get(control.id).filter(|_| !self.is_off(control))
    }

    /// The value that was tuned or that a kept stock states beside its data; `None` where the stock's data speak, or
    /// where it is off.
    pub fn stated(&self, control: &Control) -> Option<&'a Value> {
        let beside = || self.stock.own.get(control.id).filter(|_| !self.is_off(control));
        self.tuned(control).or_else(beside)
    }

    /// The number that was stated, or at which it rests.
    pub fn stated_number(&self, control: &Control) -> Option<f64> {
        match control.rest {
            Rest::Number(rest) if self.is_off(control) => Some(rest),
            _ => self.stated(control)?.as_number(),
        }
    }

    /// The value in force.
    pub fn value(&self, control: &Control) -> Value {
        if self.is_off(control) {
            return control.at_rest(self.stock);
        }
        self.tuned(control).cloned().unwrap_or_else(|| control.own_value(self.stock))
    }

    /// The number in force; 0 where it is none.
    pub fn number(&self, control: &Control) -> f64 {
        self.value(control).as_number().unwrap_or(0.0)
    }

    /// The value of a choice that is an enum; its first one where it cannot be read.
    pub fn chosen<C: Choices>(&self, control: &Control) -> C {
        self.value(control).choice().and_then(C::named).unwrap_or(C::ALL[0])
    }

    /// Whether a switch is on.
    pub fn is_on(&self, control: &Control) -> bool {
        self.value(control).is_on()
    }

    /// Points of a curve that is not straight.
    pub fn bent_curve(&self, control: &Control) -> Option<Vec<[f64; 2]>> {
        let points = self.stated(control)?.curve()?;
        (points != [[0.0, 0.0], [100.0, 100.0]]).then(|| points.to_vec())
    }

    /// A number that is counted, such as a seed.
    pub fn count(&self, control: &Control) -> u32 {
        self.number(control).clamp(0.0, u32::MAX as f64) as u32
    }
}
