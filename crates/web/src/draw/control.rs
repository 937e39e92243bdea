//! A control as the bench shows it.

use std::collections::BTreeMap;

use amber_core::Catalogue;
use amber_core::controls::{Control, Kind, Scale, Value, Values};

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
    /// Its lamp or its station's is off.
    pub off: bool,
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
            Kind::Choice(list) | Kind::ChoiceOrPicture(list) => list
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
        let text = chosen.filter(|_| control.kind == Kind::Mask).unwrap_or_else(|| control.written(&value));
        Self {
            id: control.id,
            form: form(control),
            tab: control.tab,
            label: control.label.into(),
            help: control.help,
            unit: control.unit.symbol(),
            tuned: value != own,
            off: false,
            two_sided: control.two_sided,
            ramp: match control.id {
                "scene.temperature" => "ag-ramp-temperature",
                "scene.tint" => "ag-ramp-tint",
                _ => "",
            },
            text,
            own_text: control.written(&own),
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
        Kind::Choice(_) | Kind::ChoiceOrPicture(_) => "list",
        Kind::Switch => "switch",
        Kind::Curve => "curve",
        Kind::Mask => "list",
        Kind::Colour => "colour",
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
}
