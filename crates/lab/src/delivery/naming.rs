//! Names by a pattern: `{roll} {number:03}`.

use std::collections::HashMap;

use time::OffsetDateTime;

use crate::error::LabError;

/// What a pattern's words stand for.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Named<'a> {
    pub name: &'a str,
    pub roll: &'a str,
    pub stock: &'a str,
    /// Its place among those that are named, from 1.
    pub number: usize,
    /// When it was taken: seconds since 1970.
    pub taken: Option<i64>,
}

/// Most zeros before a number.
const WIDEST: usize = 9;
/// Stands for the counter until all names are known; no name holds it.
const COUNTER: char = '\u{0}';

/// A name by a pattern: `{name}`, `{roll}`, `{stock}`, `{date}` (2026-11-29, or nothing), `{number}`, `{number:03}`.
pub fn named_by(pattern: &str, named: &Named) -> Result<String, LabError> {
    Ok(names_by(pattern, std::slice::from_ref(named))?.remove(0))
}

/// Names of several by a pattern, which may hold `{counter}` and `{counter:03}` too: it counts those whose names are
/// the same but for it.
pub fn names_by(pattern: &str, all: &[Named]) -> Result<Vec<String>, LabError> {
    let mut counted: HashMap<String, usize> = HashMap::new();
    let mut names = Vec::with_capacity(all.len());
    for named in all {
        let (name, width) = filled(pattern, named)?;
        let count = counted.entry(name.to_lowercase()).or_default();
        *count += 1;
        names.push(name.replace(COUNTER, &format!("{:0width$}", *count)));
    }
    Ok(names)
}

/// The pattern with all but its counter filled in, and the counter's width.
fn filled(pattern: &str, named: &Named) -> Result<(String, usize), LabError> {
    let (mut out, mut width) = (String::new(), 1);
    let mut rest = pattern;
    while let Some((before, after)) = rest.split_once('{') {
        out += before;
        let unknown = |word: &str| LabError::Pattern(amber_core::text::shortened(word));
        let (word, after) = after.split_once('}').ok_or_else(|| unknown(after))?;
        let word = word.trim();
        match word {
            "name" => out += named.name,
            "roll" => out += named.roll,
            "stock" => out += named.stock,
            "date" => out += &named.taken.map(date).unwrap_or_default(),
            other => {
                let (what, digits) = other.split_once(":0").unwrap_or((other, "1"));
                let digits = digits.parse().ok().filter(|width| (1..=WIDEST).contains(width));
                let digits = digits.ok_or_else(|| unknown(other))?;
                match what {
                    "number" => out += &format!("{:0digits$}", named.number),
                    "counter" => {
                        out.push(COUNTER);
                        width = digits;
                    }
                    _ => return Err(unknown(other)),
                }
            }
        }
        rest = after;
    }
    Ok(((out + rest).split_whitespace().collect::<Vec<_>>().join(" "), width))
}

/// A day as it is written in names; nothing where a year has more than four digits.
fn date(seconds: i64) -> String {
    OffsetDateTime::from_unix_timestamp(seconds).map(|time| time.date().to_string()).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_stand_for_what_they_say() {
        let named = Named { name: "Quay", roll: "Tour", stock: "Plover", number: 7, taken: Some(951_782_400 + 3600) };
        for (pattern, wanted) in [
            ("{roll} {number:03}", "Tour 007"),
            ("{number} {name}, {stock}", "7 Quay, Plover"),
            ("{date} {name}", "2000-02-29 Quay"),
            ("plain", "plain"),
        ] {
            assert_eq!(named_by(pattern, &named).unwrap(), wanted);
        }
        for wrong in ["{count}", "{name", "{number:0}", "{number:099}", "{}"] {
            assert!(named_by(wrong, &named).is_err(), "{wrong}");
        }
        let counted = names_by("{stock} {counter:02}", &[named.clone(), named.clone()]).unwrap();
        assert_eq!(counted, ["Plover 01", "Plover 02"]);
        let undated = Named { taken: None, ..named };
        assert_eq!(named_by("{date} {name}", &undated).unwrap(), "Quay");
    }

    #[test]
    fn days_of_every_kind_of_year() {
        for (day, wanted) in [(0, "1970-01-01"), (-1, "1969-12-31"), (11_016, "2000-02-29"), (20_786, "2026-11-29")] {
            assert_eq!(date(day * 86_400), wanted);
        }
    }
}
