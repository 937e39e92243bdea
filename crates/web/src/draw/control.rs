//! A control as the bench shows it.

use std::collections::BTreeMap;

use amber_core::Catalogue;
use amber_core::controls::{Control, Kind, Scale, Unit, Value, Values};

/// One value of a choice.
pub struct OptionView {
    pub id: String,
    pub label: String,
    pub own: bool,
    pub chosen: bool,
}

/// A control with its value, its own value and their places on the track.
pub struct ControlView {
    pub id: &'static str,
    /// `scalar`, `choice`, `list`, `switch`, `colour` or `curve`.
    pub form: &'static str,
    pub tab: &'static str,
    pub label: String,
    pub help: &'static str,
    pub unit: &'static str,
    pub tuned: bool,
    pub two_sided: bool,
    pub ramp: &'static str,
    /// As written in the value field.
    pub text: String,
    pub own_text: String,
    pub value: String,
    pub own: String,
    pub low: f64,
    pub high: f64,
    pub step: f64,
    pub decimals: usize,
    pub scale: &'static str,
    /// Empty for a scalar.
    pub options: Vec<OptionView>,
}

impl ControlView {
    /// The control where its column and tab are not seen.
    pub fn alone(control: &'static Control, values: &Values) -> Self {
        Self { label: control.full_label(), ..Self::new(control, values) }
    }

    pub fn new(control: &'static Control, values: &Values) -> Self {
        let value = values.value(control);
        let own = control.own_value(values.stock());
        let (low, high, step, decimals, scale) = match control.kind {
            Kind::Scalar { low, high, step, decimals, scale } => (low, high, step, decimals, scale),
            _ => (0.0, 0.0, 0.0, 0, Scale::Linear),
        };
        let options = match control.kind {
            Kind::Choice(list) => list
                .iter()
                .map(|c| OptionView {
                    id: c.id.into(),
                    label: c.label.into(),
                    own: own.choice() == Some(c.id),
                    chosen: value.choice() == Some(c.id),
                })
                .collect(),
            Kind::Mask => places(values, &value),
            _ => Vec::new(),
        };
        let chosen = options.iter().find(|o| o.chosen).map(|o| o.label.clone());
        let text = chosen.filter(|_| control.kind == Kind::Mask).unwrap_or_else(|| written(control, &value));
        Self {
            id: control.id,
            form: form(control),
            tab: control.tab,
            label: control.label.into(),
            help: control.help,
            unit: control.unit.symbol(),
            tuned: value != own,
            two_sided: control.two_sided,
            ramp: match control.id {
                "scene.temperature" => "ag-ramp-temperature",
                "scene.tint" => "ag-ramp-tint",
                _ => "",
            },
            text,
            own_text: written(control, &own),
            value: value.to_string(),
            own: own.to_string(),
            low,
            high,
            step,
            decimals,
            scale: if scale == Scale::Reciprocal { "reciprocal" } else { "linear" },
            options,
        }
    }
}

impl ControlView {
    /// A control whose value does not stand in a development, such as a property of a mask.
    pub fn of(control: &'static Control, value: &Value) -> Self {
        let stock = Catalogue::first();
        let tuned = BTreeMap::from([(control.id.to_owned(), value.clone())]);
        Self::new(control, &Values::new(&stock, &tuned, &BTreeMap::new()))
    }
}

/// Where an effect can apply: the whole picture, each mask, all but each mask.
fn places(values: &Values, value: &Value) -> Vec<OptionView> {
    let option = |id: String, label: String| {
        let (own, chosen) = (id.is_empty(), value.choice() == Some(id.as_str()));
        OptionView { id, label, own, chosen }
    };
    let whole = std::iter::once(option(String::new(), "whole picture".into()));
    let masks = values.masks().map(|(id, mask)| option(id.clone(), mask.name.clone()));
    let others = values.masks().map(|(id, mask)| option(format!("not {id}"), format!("all but {}", mask.name)));
    whole.chain(masks).chain(others).collect()
}

/// Most letters of a choice whose values stand side by side.
const SIDE_BY_SIDE: usize = 28;

fn form(control: &Control) -> &'static str {
    match control.kind {
        Kind::Scalar { .. } => "scalar",
        Kind::Choice(list) if list.iter().map(|c| c.label.chars().count()).sum::<usize>() <= SIDE_BY_SIDE => "choice",
        Kind::Choice(_) => "list",
        Kind::Switch => "switch",
        Kind::Curve => "curve",
        Kind::Mask => "list",
        Kind::Colour => "colour",
    }
}

/// A value as the interface writes it: true minus, a plus where it is two-sided, a blank before the unit.
pub fn written(control: &Control, value: &Value) -> String {
    match (value, control.kind) {
        (Value::Number(v), Kind::Scalar { decimals, .. }) => {
            let digits = format!("{:.*}", decimals, v.abs());
            let zero = digits.chars().all(|c| c == '0' || c == '.');
            let sign = match (zero, *v < 0.0, control.two_sided) {
                (false, true, _) => "\u{2212}",
                (false, false, true) => "+",
                _ => "",
            };
            match control.unit {
                Unit::None | Unit::Grade => format!("{sign}{digits}"),
                unit => format!("{sign}{digits} {}", unit.symbol()),
            }
        }
        (Value::Choice(id), Kind::Choice(list)) => {
            list.iter().find(|c| c.id == id).map_or_else(|| id.clone(), |c| c.label.into())
        }
        (Value::Choice(id), Kind::Mask) if id.is_empty() => "whole picture".into(),
        (Value::Curve(points), _) if points.as_slice() == [[0.0, 0.0], [100.0, 100.0]] => "straight".into(),
        (Value::Curve(points), _) => format!("{} points", points.len()),
        (other, _) => other.to_string(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_core::stations;

    #[test]
    fn forms_by_kind_and_by_length() {
        let of = |id: &str| form(stations::find(id).unwrap());
        let forms = [
            ("film.push", "scalar"),
            ("film.size", "list"),
            ("print.surface", "choice"),
            ("print.view", "choice"),
            ("print.filter.keep", "switch"),
            ("print.curve.red", "curve"),
        ];
        for (id, expected) in forms {
            assert_eq!(of(id), expected, "{id}");
        }
    }

    #[test]
    fn curves_are_written_short() {
        let curve = stations::find("print.curve.master").unwrap();
        let line = curve.own_value(&amber_core::Catalogue::first());
        assert_eq!(written(curve, &line), "straight");
        assert_eq!(written(curve, &Value::Curve(vec![[0.0, 0.0], [50.0, 60.0], [100.0, 100.0]])), "3 points");
    }

    #[test]
    fn numbers_as_the_trade_writes_them() {
        let write = |id: &str, v: f64| written(stations::find(id).unwrap(), &Value::Number(v));
        assert_eq!(write("scene.exposure", -0.5), "\u{2212}0.50 EV");
        assert_eq!(write("scene.exposure", 0.3), "+0.30 EV");
        assert_eq!(write("scene.exposure", -0.001), "0.00 EV");
        assert_eq!(write("scene.temperature", 5500.0), "5500 K");
        assert_eq!(write("film.grain.granularity", 11.0), "11.0");
    }
}
