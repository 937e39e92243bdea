//! Charts as CSV: typed in any spreadsheet.
//!
//! The first field says what a line is: `kind`, `name`, `iso`, `print`, `seen` and `colours` (`lab` or `srgb`) with one
//! value; `wedge` with a log exposure and one or three densities; `patch` with a name, its own colour and, where it was
//! measured, the colour that came of it. Lines that begin with # and empty ones are passed over.

use amber_core::colour::transfer::{decode_srgb, encode_srgb};
use amber_core::stock::StockKind;
use amber_core::stock::chart::{Chart, Patch, SeenBy, WedgeStep};

use super::d50::{lab_of, linear_srgb_of};
use crate::error::MatchError;

/// Most bytes of a chart.
pub const MOST_BYTES: usize = 256 << 10;

/// What a chart file says.
#[derive(Debug, Clone, PartialEq)]
pub struct ChartFile {
    /// What kind of film it is.
    pub kind: StockKind,
    /// What people are to call the stock.
    pub name: String,
    /// Its speed.
    pub iso: f64,
    /// The material on which the patches were printed, where that is known.
    pub print: Option<String>,
    /// What was measured.
    pub chart: Chart,
}

/// Kinds of film that a chart can describe.
pub const KINDS: [(&str, StockKind); 3] = [
    ("color-negative", StockKind::ColourNegative),
    ("reversal", StockKind::Reversal),
    ("bw-negative", StockKind::BlackAndWhiteNegative),
];

fn wrong(line: u64, why: impl Into<String>) -> MatchError {
    MatchError::Chart { why: format!("line {line}: {}", why.into()) }
}

fn number(line: u64, text: &str) -> Result<f64, MatchError> {
    let value = text.trim().parse::<f64>().ok().filter(|v| v.is_finite());
    value.ok_or_else(|| wrong(line, format!("'{}' is no number", amber_core::text::shortened(text))))
}

/// Lab under D50 of three fields.
fn colour(line: u64, fields: &[&str], srgb: bool) -> Result<[f64; 3], MatchError> {
    let values: Vec<f64> = fields.iter().map(|f| number(line, f)).collect::<Result<_, _>>()?;
    let values = [values[0], values[1], values[2]];
    if !srgb {
        return Ok(values);
    }
    if !values.iter().all(|v| (0.0..=255.0).contains(v)) {
        return Err(wrong(line, "colours of sRGB go from 0 to 255"));
    }
    Ok(lab_of(values.map(|v| decode_srgb(v / 255.0))))
}

impl ChartFile {
    /// Reads a chart; the error names the line.
    pub fn from_csv(text: &str) -> Result<Self, MatchError> {
        if text.len() > MOST_BYTES {
            return Err(MatchError::Chart { why: "it is larger than any chart".into() });
        }
        let mut file = Self {
            kind: StockKind::ColourNegative,
            name: "From a chart".into(),
            iso: 100.0,
            print: None,
            chart: Chart::default(),
        };
        let mut srgb = false;
        let mut reader = csv::ReaderBuilder::new()
            .has_headers(false)
            .flexible(true)
            .comment(Some(b'#'))
            .trim(csv::Trim::All)
            .from_reader(text.as_bytes());
        for record in reader.records() {
            let record = record.map_err(|e| MatchError::Chart { why: e.to_string() })?;
            let line = record.position().map_or(0, csv::Position::line);
            let fields: Vec<&str> = record.iter().collect();
            // a spreadsheet fills short lines up with empty fields
            let used = fields.iter().rposition(|f| !f.is_empty()).map_or(0, |i| i + 1);
            match fields[..used] {
                [] => {}
                ["kind", kind] => {
                    let found = KINDS.iter().find(|(id, _)| *id == kind);
                    let known = KINDS.map(|k| k.0).join(", ");
                    file.kind = found.ok_or_else(|| wrong(line, format!("a kind is one of {known}")))?.1;
                }
                ["name", name] => file.name = name.into(),
                ["iso", iso] => file.iso = number(line, iso)?,
                ["print", print] => file.print = Some(print.into()),
                ["seen", "scene"] => file.chart.seen_by = SeenBy::Scene,
                ["seen", "camera"] => file.chart.seen_by = SeenBy::Camera,
                ["seen", _] => return Err(wrong(line, "the patches were seen by 'scene' or 'camera'")),
                ["colours", "lab"] => srgb = false,
                ["colours", "srgb"] => srgb = true,
                ["wedge", "log_exposure", ..] | ["patch", "name", ..] => {}
                ["wedge", exposure, ref densities @ ..] if matches!(densities.len(), 1 | 3) => {
                    let density = densities.iter().map(|d| number(line, d)).collect::<Result<_, _>>()?;
                    file.chart.wedge.push(WedgeStep { log_exposure: number(line, exposure)?, density });
                }
                ["wedge", ..] => return Err(wrong(line, "a step has a log exposure and one or three densities")),
                ["patch", name, ref values @ ..] if matches!(values.len(), 3 | 6) => {
                    let measured = values.get(3..6).map(|m| colour(line, m, srgb)).transpose()?;
                    let reference = colour(line, &values[..3], srgb)?;
                    file.chart.patches.push(Patch { name: name.into(), reference, measured });
                }
                ["patch", ..] => {
                    return Err(wrong(line, "a patch has a name, three values of its own and three measured ones"));
                }
                [first, ..] => {
                    let first = amber_core::text::shortened(first);
                    return Err(wrong(line, format!("'{first}' is not known; lines begin with wedge or patch")));
                }
            }
        }
        file.chart.wedge.sort_by(|a, b| a.log_exposure.total_cmp(&b.log_exposure));
        let layers = if file.kind == StockKind::BlackAndWhiteNegative { 1 } else { 3 };
        file.chart.check(layers).map_err(|why| MatchError::Chart { why })?;
        Ok(file)
    }

    /// The chart as CSV.
    pub fn to_csv(&self) -> String {
        let kind = KINDS.iter().find(|k| k.1 == self.kind).map_or("color-negative", |k| k.0);
        let mut writer = csv::WriterBuilder::new().flexible(true).from_writer(Vec::new());
        let mut line = |fields: &[String]| {
            // into memory: nothing can go wrong
            let _ = writer.write_record(fields);
        };
        let word = |a: &str, b: &str| [a.to_owned(), b.to_owned()];
        line(&word("kind", kind));
        line(&word("name", &self.name));
        line(&word("iso", &self.iso.to_string()));
        if let Some(print) = &self.print {
            line(&word("print", print));
        }
        match self.chart.seen_by {
            SeenBy::Unknown => {}
            SeenBy::Scene => line(&word("seen", "scene")),
            SeenBy::Camera => line(&word("seen", "camera")),
        }
        let three = |v: f64| format!("{}", (v * 1000.0).round() / 1000.0);
        for step in &self.chart.wedge {
            let mut fields = vec!["wedge".to_owned(), three(step.log_exposure)];
            fields.extend(step.density.iter().map(|d| three(*d)));
            line(&fields);
        }
        for patch in &self.chart.patches {
            let mut fields = vec!["patch".to_owned(), patch.name.clone()];
            fields.extend(patch.reference.iter().chain(patch.measured.iter().flatten()).map(|v| three(*v)));
            line(&fields);
        }
        String::from_utf8_lossy(&writer.into_inner().unwrap_or_default()).into_owned()
    }
}

/// 8-bit sRGB of a colour under D50, drawn into the gamut: to be shown.
pub fn shown(lab: [f64; 3]) -> [u8; 3] {
    linear_srgb_of(lab).map(|v| (encode_srgb(v.clamp(0.0, 1.0)) * 255.0).round() as u8)
}

#[cfg(test)]
mod tests {
    use super::*;

    const TEXT: &str = "# typed\nkind,color-negative\nname,\"Mine, first\"\niso,200\nprint,lab-paper\n\
        wedge,log_exposure,red,green,blue\nwedge,0,0.8,0.81,0.79\nwedge,-1,0.3,0.31,0.29,\n\
        patch,grey,50,0,0,51,1,-1\npatch,missing,60,10,10,,,\n";

    #[test]
    fn a_chart_comes_back() {
        let file = ChartFile::from_csv(TEXT).unwrap();
        assert_eq!(file.chart.wedge[0].log_exposure, -1.0);
        assert!(file.chart.patches[1].measured.is_none() && file.name == "Mine, first");
        assert_eq!(ChartFile::from_csv(&file.to_csv()).unwrap(), file);
        let in_srgb = ChartFile::from_csv("colours,srgb\npatch,white,255,255,255,128,128,128\n").unwrap();
        assert!((in_srgb.chart.patches[0].reference[0] - 100.0).abs() < 1e-6);
    }

    #[test]
    fn what_is_wrong_is_said_with_its_line() {
        for (text, part) in [
            ("wedge,0,a,1,1\n", "line 1: 'a' is no number"),
            ("\nwedge,0,1\nkind,glass\n", "line 3: a kind"),
            ("wedge,0,1\n", "step 1 has 1 densities"),
            ("patch,a,1,2\n", "line 1: a patch"),
            ("colours,srgb\npatch,a,1,2,300\n", "0 to 255"),
            ("apples,1\n", "'apples' is not known"),
        ] {
            let error = ChartFile::from_csv(text).unwrap_err().to_string();
            assert!(error.contains(part), "{text}: {error}");
        }
    }
}
