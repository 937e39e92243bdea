//! Names by a pattern: `{roll} {number:03}`.

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

/// A name by a pattern: `{name}`, `{roll}`, `{stock}`, `{date}` (2026-11-29, or nothing), `{number}`, `{number:03}`.
pub fn named_by(pattern: &str, named: &Named) -> Result<String, LabError> {
    let mut out = String::new();
    let mut rest = pattern;
    while let Some((before, after)) = rest.split_once('{') {
        out += before;
        let unknown = |word: &str| LabError::Pattern(amber_core::text::shortened(word));
        let (word, after) = after.split_once('}').ok_or_else(|| unknown(after))?;
        let word = word.trim();
        out += &match word {
            "name" => named.name.to_owned(),
            "roll" => named.roll.to_owned(),
            "stock" => named.stock.to_owned(),
            "number" => named.number.to_string(),
            "date" => named.taken.map(date).unwrap_or_default(),
            other => {
                let digits = other.strip_prefix("number:0").and_then(|width| width.parse::<usize>().ok());
                let width = digits.filter(|width| (1..=WIDEST).contains(width)).ok_or_else(|| unknown(other))?;
                format!("{:0width$}", named.number)
            }
        };
        rest = after;
    }
    Ok((out + rest).split_whitespace().collect::<Vec<_>>().join(" "))
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
        for wrong in ["{counter}", "{name", "{number:0}", "{number:099}", "{}"] {
            assert!(named_by(wrong, &named).is_err(), "{wrong}");
        }
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
