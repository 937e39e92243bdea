//! Laying a preset on a development.

use std::collections::BTreeMap;

use super::Preset;
use crate::controls::lamp::is_at;
use crate::controls::{Control, Kind, Scale, Unit, Value, mask_asked};
use crate::development::Development;
use crate::error::CoreError;
use crate::stations;
use crate::stock::Stock;

/// Share of the way from which on what cannot be mixed is the preset's.
const SWITCHES_AT: f64 = 0.5;

/// What laying a preset did.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Laid {
    /// Ids of controls whose tuned value it replaced, and paths of such lists.
    pub replaced: Vec<String>,
    /// Ids of controls that went back to the new stock's own value.
    pub gone: Vec<String>,
    /// Ids of its values that do not act on the stock, and were left out.
    pub idle: Vec<String>,
}

impl Development {
    /// Lays a preset over what is there: its values win, the others stay. `strength`, 0 to 1, is how far of the way to
    /// go; choices, lists, lamps and the stock are the preset's from a half on.
    ///
    /// `old` is the stock of the development, `new` the preset's; the same where it has none.
    pub fn lay(&mut self, old: &Stock, new: &Stock, preset: &Preset, strength: f64) -> Result<Laid, CoreError> {
        let share = if strength.is_finite() { strength.clamp(0.0, 1.0) } else { 1.0 };
        let mut laid = Laid::default();
        if share == 0.0 {
            return Ok(laid);
        }
        let switches = share >= SWITCHES_AT;
        let before = self.values.clone();
        let loads = preset.stock.is_some() && switches;
        let stock = if loads { new } else { old };
        if loads && (self.stock.id != new.id || self.stock.hash != new.content_hash()) {
            laid.gone = self.change_stock(new);
        }
        let mut values = preset.values.clone();
        if switches {
            self.take_masks(preset, &mut values);
            self.values.retain(|id, _| stations::list_of(id).is_none_or(|list| !preset.lists.contains(list.path)));
            self.off.retain(|lamp| !preset.lists.iter().any(|path| is_at(path, lamp) && path != lamp));
            for (lamp, on) in &preset.lamps {
                self.switch(lamp, *on)?;
            }
        }
        let there = self.values.clone();
        for (id, value) in values {
            let control = stations::find(&id)?;
            let of_list = stations::list_of(&id).is_some();
            if !(control.applies)(stock) {
                laid.idle.push(id);
                continue;
            }
            let from = there.get(&id).cloned().unwrap_or_else(|| control.own_value(stock));
            let laid_value = if of_list { switches.then_some(value) } else { between(control, &from, &value, share) };
            let Some(value) = laid_value else { continue };
            self.set(stock, &id, value)?;
        }
        self.check()?;
        self.keep_sparse(stock);
        laid.replaced = replaced(&before, self, preset);
        laid.gone.retain(|id| !preset.values.contains_key(id));
        Ok(laid)
    }

    /// Adds the preset's masks under free ids, or uses those that are there already, and makes the values ask for them.
    fn take_masks(&mut self, preset: &Preset, values: &mut BTreeMap<String, Value>) {
        let mut names = BTreeMap::new();
        for (id, mask) in &preset.masks {
            let there = self.masks.iter().find(|(_, kept)| *kept == mask).map(|(id, _)| id.clone());
            let name = there.unwrap_or_else(|| self.add_mask(mask.clone()));
            names.insert(id.as_str(), name);
        }
        for (id, value) in values {
            let is_mask = stations::find(id).is_ok_and(|control| control.kind == Kind::Mask);
            let asked = value.choice().filter(|_| is_mask).and_then(mask_asked);
            if let Some((name, outside)) = asked.and_then(|(mask, outside)| Some((names.get(mask)?, outside))) {
                *value = Value::Choice(if outside { format!("not {name}") } else { name.clone() });
            }
        }
    }
}

/// What was tuned before and is something else now because of the preset.
fn replaced(before: &BTreeMap<String, Value>, after: &Development, preset: &Preset) -> Vec<String> {
    let mut ids = Vec::new();
    for (id, value) in before {
        let is_other = after.values.get(id) != Some(value);
        match stations::list_of(id).map(|list| list.path) {
            Some(path) if preset.lists.contains(path) && is_other && !ids.iter().any(|known| known == path) => {
                ids.push(path.to_owned());
            }
            None if preset.values.contains_key(id) && is_other => ids.push(id.clone()),
            _ => {}
        }
    }
    ids
}

/// So far of the way from one value to another; none where it stays as it is.
fn between(control: &Control, from: &Value, to: &Value, share: f64) -> Option<Value> {
    if share >= 1.0 {
        return Some(to.clone());
    }
    let (Kind::Scalar { low, high, scale, decimals, .. }, Some(a), Some(b)) =
        (control.kind, from.as_number(), to.as_number())
    else {
        return (share >= SWITCHES_AT).then(|| to.clone());
    };
    let mixed = match scale {
        Scale::Reciprocal => 1.0 / (1.0 / a + share * (1.0 / b - 1.0 / a)),
        // a hue goes the shorter way round
        Scale::Linear if control.unit == Unit::Degrees && low == 0.0 && high >= 359.0 => {
            let way = (b - a + 540.0).rem_euclid(360.0) - 180.0;
            (a + share * way).rem_euclid(360.0)
        }
        Scale::Linear => a + share * (b - a),
    };
    let digits = 10f64.powi(decimals as i32);
    Some(Value::Number(((mixed * digits).round() / digits).clamp(low, high)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mask::Mask;
    use crate::preset::{Chosen, PresetName};
    use crate::stock::Catalogue;

    fn called(name: &str) -> PresetName {
        PresetName { name: name.into(), ..PresetName::default() }
    }

    fn named(name: &str) -> Mask {
        Mask { name: name.into(), ..Mask::default() }
    }

    fn tuned(stock: &Stock, values: &[(&str, f64)]) -> Development {
        let mut development = Development::new(stock);
        for (id, v) in values {
            development.set(stock, id, Value::Number(*v)).unwrap();
        }
        development
    }

    #[test]
    fn what_is_the_pictures_stays_out_and_stays_there() {
        let plover = Catalogue::first();
        let maker = tuned(&plover, &[("scene.exposure", 1.0), ("film.push", 1.0), ("film.grain.seed", 7.0)]);
        let preset = Preset::of(&maker, &plover, &Chosen::look_of(&maker), &called("A")).unwrap();
        assert_eq!(preset.values.keys().collect::<Vec<_>>(), ["film.push"]);
        let mut frame = tuned(&plover, &[("scene.exposure", -0.5), ("film.grain.seed", 3.0)]);
        let laid = frame.lay(&plover, &plover, &preset, 1.0).unwrap();
        assert_eq!(laid, Laid::default());
        assert_eq!(frame.values["scene.exposure"], Value::Number(-0.5));
        assert_eq!(frame.values["film.grain.seed"], Value::Number(3.0));
        assert_eq!(frame.values["film.push"], Value::Number(1.0));
    }

    #[test]
    fn the_later_one_wins_value_by_value() {
        let plover = Catalogue::first();
        let of = |values: &[(&str, f64)]| {
            let maker = tuned(&plover, values);
            let chosen = Chosen { stock: false, ..Chosen::look_of(&maker) };
            Preset::of(&maker, &plover, &chosen, &called("A")).unwrap()
        };
        let mut frame = Development::new(&plover);
        frame.lay(&plover, &plover, &of(&[("film.push", 1.0), ("lens.bloom.strength", 0.3)]), 1.0).unwrap();
        let laid = frame.lay(&plover, &plover, &of(&[("film.push", -1.0), ("scene.air", 0.2)]), 1.0).unwrap();
        assert_eq!(laid.replaced, ["film.push"]);
        assert_eq!(frame.values["film.push"], Value::Number(-1.0));
        assert_eq!(frame.values["lens.bloom.strength"], Value::Number(0.3), "the others stay");
    }

    #[test]
    fn strength_goes_a_part_of_the_way() {
        let (plover, juniper) = (Catalogue::first(), Catalogue::find("juniper").unwrap());
        let mut maker = tuned(&juniper, &[("film.push", 1.0), ("scene.temperature", 4000.0)]);
        maker.set(&juniper, "print.surface", Value::Choice("matt".into())).unwrap();
        let mut chosen = Chosen::look_of(&maker);
        chosen.controls.insert("scene.temperature".into());
        let preset = Preset::of(&maker, &juniper, &chosen, &called("A")).unwrap();
        let at = |share: f64| {
            let mut frame = Development::new(&plover);
            frame.lay(&plover, &juniper, &preset, share).unwrap();
            frame
        };
        assert_eq!(at(0.0), Development::new(&plover));
        let third = at(0.3);
        assert_eq!((third.stock.id.as_str(), &third.values["film.push"]), ("plover", &Value::Number(0.3)));
        assert!(!third.values.contains_key("print.surface"));
        let more = at(0.6);
        assert_eq!((more.stock.id.as_str(), more.values.contains_key("print.surface")), ("juniper", true));
        // kelvin are mixed as mired: half the way from 5500 to 4000 is 4632
        let kelvin = at(0.5).values["scene.temperature"].as_number().unwrap();
        assert!((kelvin - 4632.0).abs() < 2.0, "{kelvin}");
        assert_eq!(at(1.0).values["film.push"], Value::Number(1.0));
    }

    #[test]
    fn lists_are_laid_whole_and_twice_is_once() {
        let alder = Catalogue::find("alder").unwrap();
        let mut maker = Development::new(&alder);
        maker.set(&alder, "tone.bath.1.toner", Value::Choice("sepia".into())).unwrap();
        maker.set(&alder, "surface.sheet.1.kind", Value::Choice("dust".into())).unwrap();
        maker.set(&alder, "surface.sheet.1.x", Value::Number(20.0)).unwrap();
        maker.switch("surface.sheet.1", false).unwrap();
        let preset = Preset::of(&maker, &alder, &Chosen::look_of(&maker), &called("A")).unwrap();
        assert!(!preset.values.contains_key("surface.sheet.1.x"), "where it lies is the picture's");
        let mut frame = Development::new(&alder);
        frame.set(&alder, "tone.bath.2.toner", Value::Choice("gold".into())).unwrap();
        let laid = frame.lay(&alder, &alder, &preset, 1.0).unwrap();
        assert_eq!(laid.replaced, ["tone.bath"]);
        assert!(!frame.values.contains_key("tone.bath.2.toner") && frame.off.contains("surface.sheet.1"));
        let once = frame.clone();
        assert_eq!(frame.lay(&alder, &alder, &preset, 1.0).unwrap(), Laid::default());
        assert_eq!(frame, once);
    }

    #[test]
    fn another_stock_says_what_went_back() {
        let (plover, juniper) = (Catalogue::first(), Catalogue::find("juniper").unwrap());
        let maker = tuned(&juniper, &[("film.push", 1.0)]);
        let preset = Preset::of(&maker, &juniper, &Chosen::look_of(&maker), &called("A")).unwrap();
        let mut frame = tuned(&plover, &[("film.push", -1.0), ("print.filter.cyan", 10.0), ("scene.exposure", 1.0)]);
        let laid = frame.lay(&plover, &juniper, &preset, 1.0).unwrap();
        assert_eq!((laid.replaced, laid.gone), (vec!["film.push".into()], vec!["print.filter.cyan".into()]));
        assert_eq!(frame.values.len(), 2);
    }

    #[test]
    fn masks_come_along_once() {
        let plover = Catalogue::first();
        let mut maker = Development::new(&plover);
        let mask = named("Sky");
        let id = maker.add_mask(mask.clone());
        maker.set(&plover, "scene.local.1.mask", Value::Choice(format!("not {id}"))).unwrap();
        let preset = Preset::of(&maker, &plover, &Chosen::all_of(&maker), &called("A")).unwrap();
        let mut frame = Development::new(&plover);
        frame.add_mask(named("Mine"));
        for _ in 0..2 {
            frame.lay(&plover, &plover, &preset, 1.0).unwrap();
        }
        assert_eq!(frame.values["scene.local.1.mask"], Value::Choice("not 2".into()));
        assert_eq!((frame.masks.len(), &frame.masks["2"]), (2, &mask));
    }
}
